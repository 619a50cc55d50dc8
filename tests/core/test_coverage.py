"""Shares of pixels by object and look: against areas worked out here, through the file as well."""

import json
from pathlib import Path

import mmh3
import numpy as np
import OpenEXR
import pytest

from tests.builders import MadeFiles, layer, look, recipe, step, value
from tests.core.test_shutter import ACROSS, GLOWING, SIZE, card, keys, moving
from texallon.core.document.resolved import resolve
from texallon.core.render.coverage import MOST_RANKS, Coverage, coverage
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import render_frame
from texallon.formats.exr import write_exr
from texallon.formats.id_masks import id_layers, id_of

OTHER = look("dull", layer("d", base_color=value([0.2, 0.2, 0.2])))


def covered(samples: int = 64, **members: object) -> dict[str, Coverage]:
    item = {"geometry": {"file": "thing"}, "look": "glow"}
    # Two cards side by side that meet in the middle of a pixel's column, 24 pixels to the metre.
    half = 0.5 / 24
    objects = [
        item | {"id": "aa", "name": "left", "position": [-0.5 + half, 0, 0]},
        item | {"id": "bb", "name": "right", "position": [0.5 + half, 0, 0], "look": "dull"},
    ]
    made = moving([], **({"objects": objects, "looks": [look("glow", GLOWING), OTHER]} | members))
    return coverage(FrameGraph(resolve(made, 10), MadeFiles(thing=card(1.0, 1.0))), *SIZE, samples)


def test_shares_add_up_and_are_the_areas_that_things_cover() -> None:
    of_object = covered()["object"]
    share = of_object.shares.sum(axis=2)
    assert share.max() <= 1 + 1e-6 and of_object.numbers.shape[2] % 2 == 0
    assert share.sum() == pytest.approx(2 * (SIZE[0] / ACROSS) ** 2, rel=2e-3)
    inside = share[SIZE[1] // 2 - 8 : SIZE[1] // 2 + 8, SIZE[0] // 2 - 8 : SIZE[0] // 2 + 8]
    assert np.allclose(inside, 1), "within, all of a pixel is covered by something"
    seam = of_object.shares[SIZE[1] // 2, SIZE[0] // 2], of_object.numbers[SIZE[1] // 2, SIZE[0] // 2]
    assert sorted(seam[1][:2]) == [0, 1] and seam[0][:2] == pytest.approx([0.5, 0.5], abs=0.13)
    # The share that covers most comes first; what is nothing is number −1 and has no share.
    assert (np.diff(of_object.shares, axis=2) <= 1e-6).all()
    assert ((of_object.numbers < 0) == (of_object.shares == 0)).all()


def test_looks_are_told_apart_and_objects_of_one_look_are_not() -> None:
    of_look = covered()["look"]
    assert set(np.unique(of_look.numbers)) == {-1, 0, 1}
    item = {"geometry": {"file": "thing"}, "look": "glow"}
    same = covered(
        objects=[item | {"name": "a", "position": [-0.5, 0, 0]}, item | {"name": "b", "position": [0.5, 0, 0]}]
    )
    assert set(np.unique(same["look"].numbers)) == {-1, 0}
    assert np.allclose(same["look"].shares.sum(), same["object"].shares.sum())


def test_what_moves_covers_what_its_blur_covers() -> None:
    item = {"id": "aa", "name": "thing", "geometry": {"file": "thing"}, "look": "glow"}
    made = moving([keys("/objects/aa/position/0", (1, -9), (19, 9))], objects=[item])
    found = coverage(FrameGraph(resolve(made, 10), MadeFiles(thing=card(0.5, 8.0))), *SIZE, 64)["object"]
    # Half a metre wide and a metre a frame: in the middle it is there for half of the time.
    middle = found.shares[SIZE[1] // 2, SIZE[0] // 2 - 4 : SIZE[0] // 2 + 4].sum(axis=1)
    assert middle == pytest.approx(0.5, abs=0.06)


def test_a_picture_of_nothing_and_many_things_in_one_pixel() -> None:
    nothing = covered(objects=[])["object"]
    assert (nothing.numbers == -1).all() and not nothing.shares.any()
    item = {"geometry": {"file": "thing"}, "look": "glow", "scale": 0.002}
    many = [
        item | {"name": f"o{k}", "position": [0.03 * (k % 8) / 8 + 0.005, 0.03 * (k // 8) / 8 + 0.005, 0]}
        for k in range(40)
    ]
    found = covered(objects=many)["object"]
    assert found.numbers.shape[2] <= MOST_RANKS and found.shares.sum(axis=2).max() <= 1 + 1e-6


HALF_THERE = [
    recipe(step("constant", value=0.35)),
    recipe(step("checker", size=0.23, space="object"), step("remap", to_start=0.1, to_end=0.9)),
    recipe(step("noise", size=0.4, space="object", octaves=3), step("contrast", amount=0.8)),
]


@pytest.mark.parametrize("opacity", HALF_THERE)
@pytest.mark.parametrize("turned", [0, 180])
def test_what_is_cut_out_is_covered_by_what_shines_through(opacity: dict[str, object], turned: float) -> None:
    """A card that is partly there glows before one that does not: where light comes from is the share of the first, by the picture's own samples."""
    cut = layer("cut", emission_luminance=value(100.0), geometry_opacity={"recipe": opacity})
    item = {"geometry": {"file": "thing"}}
    objects = [
        item | {"id": "aa", "name": "front", "look": "lace", "position": [0, 0, 0.5], "rotation": [0, turned, 0]},
        item | {"id": "bb", "name": "back", "look": "black", "scale": 3},
    ]
    dark = layer("dark", base_weight=value(0.0), specular_weight=value(0.0))
    tracks = [keys("/objects/aa/position/0", (1, -3), (19, 3))]
    made = moving(tracks, objects=objects, looks=[look("lace", dark, cut), look("black", dark)])
    shot, files = resolve(made, 10), MadeFiles(thing=card(1.0, 1.0))
    found = coverage(FrameGraph(shot, files), *SIZE, 16)["object"]
    front = np.where(found.numbers == 0, found.shares, 0).sum(axis=2)
    light = render_frame(shot, files, *SIZE, 16, 2).picture()[:, :, 1]
    glow = light.sum() / front.sum()
    assert 0.02 < front.mean() < 0.5 and light.max() > 0.3 * glow
    assert np.abs(light / glow - front).max() < 1e-5
    # What is not there of the front is the back, which fills the picture's middle.
    middle = found.shares[SIZE[1] // 2, SIZE[0] // 2 - 12 : SIZE[0] // 2 + 12].sum(axis=1)
    assert np.allclose(middle, 1)


def test_a_stack_of_cut_out_sheets_lets_its_share_through_and_ends_at_the_limit() -> None:
    sheet = layer("cut", geometry_opacity=value(0.25))
    item = {"geometry": {"file": "thing"}, "look": "sheet"}
    objects = [
        item | {"id": f"s{number}", "name": f"sheet {number}", "position": [0, 0, -0.1 * number]} for number in range(6)
    ]
    for limit, sheets in ((32, 6), (2, 3)):
        found = covered(objects=objects, looks=[look("sheet", sheet), OTHER], limits={"transparency": limit})["object"]
        middle = (slice(SIZE[1] // 2 - 8, SIZE[1] // 2 + 8), slice(SIZE[0] // 2 - 8, SIZE[0] // 2 + 8))
        shares = [np.where(found.numbers == n, found.shares, 0).sum(axis=2)[middle].mean() for n in range(6)]
        # Each takes a quarter of what has passed those before it.
        wanted = [0.25 * 0.75**n if n < sheets else 0.0 for n in range(6)]
        assert shares == pytest.approx(wanted, abs=0.012)


def test_the_file_holds_ids_shares_and_names(tmp_path: Path) -> None:
    found = covered()["object"]
    layers, said = id_layers("object", ["left", "right"], found.numbers, found.shares)
    write_exr(tmp_path / "a.exr", np.zeros((SIZE[1], SIZE[0], 3), np.float32), said, {"ids": layers})
    with OpenEXR.File(str(tmp_path / "a.exr"), separate_channels=True) as file:
        assert len(file.parts) == 2 and {"R", "G", "B"} == set(file.channels(0))
        planes = {name: np.array(each.pixels) for name, each in file.channels(1).items()}
        header = dict(file.header())
    (name,) = [words for key, words in header.items() if key.startswith("cryptomatte/") and key.endswith("/name")]
    key = next(each for each in header if each.endswith("/name")).rpartition("/")[0]
    assert (
        name == "object_id"
        and key == f"cryptomatte/{mmh3.hash(b'object_id', signed=False):08x}"[: len("cryptomatte/") + 7]
    )
    assert header[f"{key}/conversion"] == "uint32_to_float32" and header[f"{key}/hash"] == "MurmurHash3_32"
    manifest = json.loads(header[f"{key}/manifest"])
    of_left = np.array([int(manifest["left"], 16)], np.uint32).view(np.float32)[0]
    mask = np.zeros((SIZE[1], SIZE[0]), np.float32)
    for number in range(found.numbers.shape[2] // 2):
        for which, share in (("R", "G"), ("B", "A")):
            mask += np.where(
                planes[f"object_id{number:02d}.{which}"] == of_left, planes[f"object_id{number:02d}.{share}"], 0
            )
    assert mask.sum() == pytest.approx((SIZE[0] / ACROSS) ** 2, rel=4e-3)
    assert np.array_equal(mask > 0, (np.where(found.numbers == 0, found.shares, 0).sum(axis=2)) > 0)


def test_ids_are_finite_numbers() -> None:
    ids = np.array([id_of(f"thing {number}") for number in range(20_000)], np.uint32).view(np.float32)
    assert np.isfinite(ids).all() and (np.abs(ids) >= np.finfo(np.float32).tiny).all()
    # MurmurHash3's own published vectors of the 32-bit variant, seed 0 (A. Appleby, from memory).
    assert id_of("hello") == 0x248BFA47 and mmh3.hash(b"", 0) == 0
