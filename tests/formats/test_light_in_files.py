"""What files of pictures say of light: finite numbers, exposure in words; and what smoothing leaves of it."""

from pathlib import Path

import numpy as np
import OpenEXR
import pytest

from tests.builders import MadeFiles, layer, look, shot, square, value
from texallon.core.document.resolved import resolve
from texallon.core.render.film.denoise import denoise
from texallon.core.render.render_frame import make_context, render_frame
from texallon.core.render.transport.context import frame_seed
from texallon.formats.exr import MOST_HALF, write_exr
from texallon.frame_files import Order
from texallon.render_file import render_file


def read(path: Path) -> tuple[dict, dict[str, np.ndarray]]:
    with OpenEXR.File(str(path), separate_channels=True) as file:
        channels = {name: np.array(each.pixels) for part in file.parts for name, each in part.channels.items()}
        return dict(file.header()), channels


def test_light_beyond_half_floats_goes_out_whole_and_is_noted(tmp_path: Path) -> None:
    picture = np.full((4, 4, 3), 0.5, np.float32)
    picture[0, 0] = 1e6
    write_exr(tmp_path / "a.exr", picture)
    header, planes = read(tmp_path / "a.exr")
    assert planes["R"].dtype == np.float32 and planes["R"][0, 0] == pytest.approx(1e6)
    assert "1 pixels are brighter than 65504" in header["rangeNote"]
    write_exr(tmp_path / "b.exr", picture, beyond="clamp")
    header, planes = read(tmp_path / "b.exr")
    assert planes["R"].dtype == np.float16 and planes["R"].max() == MOST_HALF
    assert "held there" in header["rangeNote"]


def test_no_file_holds_what_is_no_number(tmp_path: Path) -> None:
    picture = np.full((3, 3, 3), 0.5, np.float32)
    picture[0, 0], picture[1, 1], picture[2, 2] = np.nan, np.inf, -np.inf
    write_exr(tmp_path / "a.exr", picture, parts={"data": {"depth": picture[:, :, :1]}})
    header, planes = read(tmp_path / "a.exr")
    assert all(np.isfinite(each).all() for each in planes.values())
    assert "3 pixels were no finite numbers" in header["rangeNote"]
    write_exr(tmp_path / "plain.exr", np.full((2, 2, 3), 0.5, np.float32))
    assert "rangeNote" not in read(tmp_path / "plain.exr")[0]


def self_lit(stops: float) -> object:
    flat = layer("f", self_lit=value(1.0), base_color=value([0.4, 0.2, 0.1]))
    return shot(
        camera={"position": [0, 2, 0.001], "target": [0, 0, 0], "exposure": stops},
        objects=[{"name": "f", "geometry": {"file": "f"}, "look": "flat"}],
        looks=[look("flat", flat)],
    )


@pytest.mark.parametrize("stops", [0.0, 2.0, -1.5])
def test_exposure_is_said_to_be_left_out_and_self_lit_colours_agree(tmp_path: Path, stops: float) -> None:
    out = tmp_path / "a.exr"
    files = MadeFiles(f=square(9.0))
    render_file(self_lit(stops), files, Order((8, 8), 2, 1, 1), out, {}, lambda done, film: None)  # type: ignore[arg-type]
    header, planes = read(out)
    assert float(header["exposureStops"]) == stops
    assert header["exposureNote"].startswith("not applied")
    factor = float(header["exposureNote"].split("multiply by ")[1].split()[0])
    assert factor == pytest.approx(2.0**stops, rel=1e-4)
    for name, expected in zip("RGB", (0.4, 0.2, 0.1), strict=True):
        assert planes[name].mean() * factor == pytest.approx(expected, rel=0.002), "shown as it is, once exposed"


@pytest.mark.parametrize("seed", range(3))
def test_bright_points_keep_their_light_when_smoothed(seed: int) -> None:
    rng = np.random.default_rng(seed)
    picture = (0.05 + 0.005 * rng.normal(size=(96, 128, 3))).clip(0).astype(np.float32)
    rows, columns = rng.integers(0, 96, 25), rng.integers(0, 128, 25)
    picture[rows, columns] = rng.uniform(20, 400, (25, 1))
    guide, up = np.full_like(picture, 0.5), np.tile(np.float32([0, 0, 1]), (96, 128, 1))
    finished = denoise(picture, guide, up, quality="high")
    assert finished.mean() == pytest.approx(picture.mean(), rel=0.05)
    for quality in ("fast", "high"):
        smooth = denoise(picture, guide, up, quality=quality)  # type: ignore[arg-type]
        assert smooth.mean() <= 1.05 * picture.mean(), "nothing grows"
        assert smooth.max() <= picture.max()


def test_what_glows_on_a_black_base_guides_the_denoiser() -> None:
    glow = layer("g", base_weight=value(0.0), specular_weight=value(0.0), emission_luminance=value(3.0),
                 emission_color=value([1.0, 0.5, 0.1]))  # fmt: skip
    made = shot(
        camera={"position": [0, 2, 0.001], "target": [0, 0, 0]},
        objects=[{"name": "f", "geometry": {"file": "f"}, "look": "glow"}],
        looks=[look("glow", glow)],
    )
    albedo = render_frame(made, MadeFiles(f=square(9.0)), 8, 8, 1, 1).albedo()
    assert albedo.mean(axis=(0, 1)) == pytest.approx([1.0, 1.0, 0.3], abs=0.01)


def test_frames_have_noise_of_their_own_and_always_the_same() -> None:
    made = shot(
        camera={"position": [0, 3, 0.001], "target": [0, 0, 0]},
        objects=[{"name": "f", "geometry": {"file": "f"}, "look": "plain"}],
        lights=[{"name": "l", "position": [1, 2, 0], "target": [0, 0, 0], "width": 1.0, "height": 1.0}],
        frames={"first": 1, "last": 10},
    )
    files = MadeFiles(f=square(9.0))
    pictures = [render_frame(resolve(made, frame), files, 16, 16, 1, 1).picture() for frame in (3, 4, 3)]
    assert np.array_equal(pictures[0], pictures[2])
    assert not np.array_equal(pictures[0], pictures[1])
    assert len({frame_seed(seed, frame) for seed in range(40) for frame in range(40)}) > 1590
    assert make_context(made, files, 8, 8).seed == frame_seed(made.seed, 1)
