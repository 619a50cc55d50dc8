"""How finely volumes are looked up: by what a sample stands for, the same in the mean at every fineness, and in haste too."""

import itertools
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, recipe, step
from tests.volumes import ball, box, volume_look, volume_shot
from texallon.core.document.resolved import ResolvedShot
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.core.render.transport.context import RenderContext
from texallon.core.render.volume.quantities import MISSING

POOL = ThreadPoolExecutor(2)
NOISE = recipe(step("noise", size=0.25, octaves=5, spread="full", seed=7), step("remap", from_start=0.45, to_end=8.0))
CAMERA = {"camera": {"position": [0.2, 0.1, 1.6], "target": [0, 0, 0], "focal_length": 28.0}}


def cloud(**more: Any) -> ResolvedShot:
    glow = recipe(step("noise", size=0.2, octaves=4, spread="full", seed=8), step("remap", from_start=0.5, to_end=2.0))
    channels = {
        "density": {"recipe": NOISE}, "volume_emission": {"recipe": glow},
        "scattering_color": [0.6, 0.5, 0.4], "absorption_color": [0.2, 0.3, 0.4],
    }  # fmt: skip
    return volume_shot(volume_look(**channels), objects=[box()], **(CAMERA | more))


def context(
    made: ResolvedShot, width: int = 48, height: int = 32, detail: float = 1.0, hasty: bool = False
) -> RenderContext:
    context = FrameGraph(made, MadeFiles(), pool=POOL).context(width, height)
    assert context.volumes is not None
    return replace(context, volumes=context.volumes.looked_up(detail, hasty))


def rendered(context: RenderContext, samples: int) -> np.ndarray:
    film = Film(context.view.width, context.view.height, len(context.lights.names))
    for _ in range(samples):
        film.add_sample(context, POOL)
    return film.picture()


def wanted_levels(context: RenderContext) -> list[int]:
    """How many bricks of each level are filled."""
    assert context.volumes is not None
    field = context.volumes.fields[0]
    first = [*field.grid.first.tolist(), field.grid.bricks]
    return [int((field.table[a:b] != MISSING).sum()) for a, b in itertools.pairwise(first)]


def test_the_stage_and_a_finished_picture_agree_in_the_mean() -> None:
    stage, final = (rendered(context(cloud(), detail=detail), 96).mean(axis=(0, 1)) for detail in (0.5, 1.0))
    assert stage == pytest.approx(final, rel=0.02)


def test_only_rays_from_the_eye_ask_for_fine_bricks() -> None:
    # A metre seen from 1.6 m in 48 pixels: a pixel is 40 mm wide, a cell of three 120 mm; the finest cells are half a millimetre.
    made = context(cloud(), detail=1.0)
    rendered(made, 8)
    levels = wanted_levels(made)
    assert sum(levels[:5]) == 0, "shadow rays of paths that have ended took the eye's own width"
    assert sum(levels) > 0


def test_twice_the_detail_asks_for_more_bricks() -> None:
    counts = []
    for detail in (0.25, 1.0, 3.0):
        made = context(cloud(), 200, 150, detail)
        rendered(made, 1)
        counts.append(sum(wanted_levels(made)))
    assert counts[0] < counts[1] < counts[2]


def test_a_picture_in_haste_is_there_at_once_and_as_good_when_what_it_missed_is_filled() -> None:
    exact = context(cloud(), 160, 120)
    wanted = rendered(exact, 1)
    hasty = replace(
        exact, volumes=FrameGraph(cloud(), MadeFiles(), pool=POOL).context(8, 8).volumes.looked_up(1.0, True)
    )  # type: ignore[union-attr]
    volumes = hasty.volumes
    assert volumes is not None
    before = volumes.use().bricks
    first = rendered(hasty, 1)
    assert volumes.use().bricks == before, "nothing is filled while it is made"
    assert np.abs(first - wanted).max() > 0.01
    for _ in range(20):
        volumes.fill_noted(POOL)
        again = rendered(hasty, 1)
        if not volumes.noted:
            break
    # It looks light up less often; but from the same bricks, so that one at rest finds all that it needs.
    assert again.mean(axis=(0, 1)) == pytest.approx(wanted.mean(axis=(0, 1)), rel=0.01)
    filled = volumes.use().bricks
    assert np.array_equal(rendered(replace(hasty, volumes=volumes.looked_up(1.0, False)), 1), wanted)
    assert volumes.use().bricks == filled
    assert volumes.counts == {"violations": 0, "untracked": 0, "coarser": 0}


def test_an_edited_look_is_given_the_bricks_of_the_one_before() -> None:
    store = FrameGraph(cloud(), MadeFiles(), pool=POOL).store
    counts = []
    for gain in (1.0, 1.5, 2.0):
        louder = cloud()
        looks = [each.model_dump(mode="json", by_alias=True) for each in louder.looks]
        looks[1]["layers"][0]["channels"]["density"]["recipe"]["steps"].append(
            {"op": "multiply", "params": {"by": gain}}
        )
        again = volume_shot(looks[1], objects=[box()], **CAMERA)
        graph = FrameGraph(again, MadeFiles(), store, POOL)
        made = graph.context(160, 120)
        assert made.volumes is not None
        counts.append(made.volumes.use().bricks)
        rendered(made, 1)
        counts.append(made.volumes.use().bricks)
    assert counts[0] < 20 < counts[1]
    assert counts[2] >= 0.9 * counts[1], "they are there before the picture begins"


@pytest.mark.parametrize("density", [0.01, 50.0, 5000.0])
def test_every_path_is_followed_and_every_bound_holds(density: float) -> None:
    steps = [*NOISE["steps"], step("multiply", by=density)]
    look = volume_look(
        density={"recipe": {"steps": steps}}, scattering_color=[0.9, 0.8, 0.7], absorption_color=[0.1, 0.2, 0.3]
    )
    made = context(volume_shot(look, objects=[ball()], **CAMERA), 24, 16)
    picture = rendered(made, 2)
    assert np.isfinite(picture).all()
    assert made.volumes is not None
    assert made.volumes.counts == {"violations": 0, "untracked": 0, "coarser": 0}


def test_little_room_only_makes_pictures_coarser_and_is_counted() -> None:
    made = context(cloud(), 96, 64, detail=3.0)
    assert made.volumes is not None
    for field in made.volumes.fields:
        field.budget = 70 * field.brick_bytes
    picture = rendered(made, 1)
    assert np.isfinite(picture).all()
    assert all(field.nbytes <= 70 * field.brick_bytes for field in made.volumes.fields), "within its budget always"
    assert made.volumes.use().coarser > 0


def tiles(picture: np.ndarray, size: int = 16) -> np.ndarray:
    height, width, _ = picture.shape
    return picture.mean(axis=2).reshape(height // size, size, width // size, size).mean(axis=(1, 3))


def test_tiles_keep_their_brightness_under_moves_of_less_than_a_pixel() -> None:
    # 5 %: what an eye does not see flicker, common practice, no published source.
    pictures = []
    for move in (0.0, 0.2, 0.4):
        step_of = move * 1.6 * (36.0 / 28.0) / 64
        camera = {"position": [0.2 + step_of, 0.1, 1.6], "target": [step_of, 0, 0], "focal_length": 28.0}
        pictures.append(tiles(rendered(context(cloud(camera=camera), 64, 48), 64)))
    bright = pictures[0] > 0.25 * pictures[0].max()
    for each in pictures[1:]:
        assert (np.abs(each - pictures[0])[bright] / pictures[0][bright]).max() < 0.05


def test_tracking_agrees_with_marching_along_each_ray() -> None:
    """The emission and absorption of one ray, by small steps through the recipe itself, of which tracking knows only bricks."""
    glow = recipe(step("noise", size=0.4, octaves=3, spread="full", seed=8), step("remap", to_end=2.0))
    dark = recipe(step("noise", size=0.5, octaves=2, spread="full", seed=3), step("remap", to_end=4.0))
    look = volume_look(
        density={"recipe": dark},
        volume_emission={"recipe": glow},
        scattering_color=[0, 0, 0],
        absorption_color=[1, 1, 1],
    )
    made = volume_shot(look, objects=[box()], light=0.5)
    graph = FrameGraph(made, MadeFiles())
    source = graph.filled.source_value(graph.filled.containers[0]).value
    n = 4000
    z = (np.arange(n) + 0.5) / n - 0.5
    own = np.stack([np.zeros(n), np.full(n, 0.5), z]).astype(np.float32)
    channels = source.channels(own, 1e-3)
    density = np.broadcast_to(channels["density"][0], n).astype(np.float64)[::-1]
    light = np.broadcast_to(channels["volume_emission"][0], n).astype(np.float64)[::-1]
    depth = np.cumsum(density) / n
    marched = float((light * np.exp(-depth)).sum() / n + 0.5 * np.exp(-depth[-1]))
    fine = replace(graph.context(8, 8))
    assert fine.volumes is not None
    tracked = rendered(replace(fine, volumes=fine.volumes.looked_up(1.0)), 256).mean(axis=(0, 1))
    assert tracked == pytest.approx(marched, rel=0.01)


@pytest.mark.parametrize("scatters", [False, True])
def test_thin_places_beside_very_thick_ones_keep_the_law_of_beer_and_lambert(scatters: bool) -> None:
    # The eye looks along a place of density 1 while its bricks reach to 900: nearly every tentative collision would come to nothing.
    uneven = recipe(step("formula", expression="1 + 12000 * max(position.x - 0.045, 0)"))
    shares = (
        {"scattering_color": [1, 1, 1]} if scatters else {"scattering_color": [0, 0, 0], "absorption_color": [1, 1, 1]}
    )
    made = volume_shot(volume_look(density={"recipe": uneven}, **shares), objects=[box()])
    ray = context(made, 8, 8)
    picture = rendered(ray, 12 if scatters else 64).mean(axis=(0, 1))
    # What scatters everything under even light is not seen at all (a white furnace).
    assert picture == pytest.approx(np.full(3, 1.0 if scatters else np.exp(-1.0)), rel=0.01)
    assert ray.volumes is not None
    assert ray.volumes.counts == {"violations": 0, "untracked": 0, "coarser": 0}
