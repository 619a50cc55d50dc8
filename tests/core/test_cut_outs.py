"""Surfaces that are cut out: camera, light and scattered rays go through them, and nothing is counted twice."""

from math import pi
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, layer, look, recipe, shot, square, step, value
from texallon.core.render.render_frame import render_frame

pytestmark = pytest.mark.slow

DULL = look("dull", layer("dull", base_color=value(0.5), specular_weight=value(0.0)))
CAMERA = {"position": [0, 6, 0.001], "target": [0, 0, 0], "focal_length": 400}


def sheet(opacity: Any, **channels: Any) -> dict[str, Any]:
    """A black sheet that is there in part."""
    black = {"base_weight": value(0.0), "specular_weight": value(0.0)}
    cut = value(opacity) if isinstance(opacity, float) else {"recipe": opacity}
    return look("sheet", layer("s", geometry_opacity=cut, **(black | channels)))


def brightness(*heights: float, opacity: Any = 0.5, samples: int = 400, **members: Any) -> np.ndarray:
    """The floor's middle, seen from above through sheets at some heights."""
    sheets = [
        {"name": f"s{number}", "geometry": {"file": "sheet"}, "look": "sheet", "position": [0, height, 0]}
        for number, height in enumerate(heights)
    ]
    made = shot(
        **{
            "camera": CAMERA,
            "environment": {"colour": [1, 1, 1]},
            "objects": [{"name": "floor", "geometry": {"file": "floor"}, "look": "dull"}, *sheets],
            "looks": [DULL, sheet(opacity)],
            **members,
        }
    )
    files = MadeFiles(floor=square(40.0), sheet=square(40.0))
    return render_frame(made, files, 12, 12, samples, 2).picture().mean(axis=(0, 1))


def test_a_sheet_that_is_wholly_cut_out_is_not_there() -> None:
    assert brightness(1.0, opacity=0.0, samples=64)[0] == pytest.approx(0.5, rel=0.02)
    assert brightness(1.0, opacity=1.0, samples=16)[0] < 1e-9


@pytest.mark.parametrize("count", [1, 2, 3])
def test_each_half_cut_sheet_halves_the_light_both_ways(count: int) -> None:
    # Light from the sky passes the sheets on its way down and again on its way to the eye: 0.5 · (½)^(2n). The sheets are so
    # wide that hardly anything comes in from the side.
    heights = [1.0 + 0.2 * number for number in range(count)]
    assert brightness(*heights, samples=1500)[0] == pytest.approx(0.5 * 0.25**count, rel=0.06)


@pytest.mark.parametrize("size", [0.3, 4.0])
def test_a_lamp_behind_a_cut_out_is_found_by_both_strategies_and_counted_once(size: float) -> None:
    light = {"name": "l", "position": [0, 2, 0], "target": [0, 0, 0], "width": size, "height": size, "visible": False}
    dark = {"environment": {"colour": [0, 0, 0]}, "lights": [{**light, "power": 30.0}]}
    free = brightness(samples=900, **dark)[0]
    # One sheet between lamp and floor, and none between floor and eye but the lamp's: half of the light.
    through = brightness(1.0, samples=900, **dark)[0]
    assert through == pytest.approx(free * 0.25, rel=0.06)


def test_a_mirror_sees_a_lamp_through_a_cut_out() -> None:
    metal = layer("m", base_color=value([1.0, 1.0, 1.0]), base_metalness=value(1.0), specular_roughness=value(0.1))
    light = {"name": "l", "position": [0, 9, 0], "target": [0, 0, 0], "width": 90, "height": 90, "power": 8100 * pi}
    scene = {"environment": {"colour": [0, 0, 0]}, "lights": [{**light, "visible": False}], "looks": [look("dull", metal), sheet(0.5)]}  # fmt: skip
    assert brightness(1.0, samples=600, **scene)[0] == pytest.approx(0.25, rel=0.05)


def test_a_pattern_cuts_holes_where_it_is_nothing() -> None:
    stripes = recipe(step("stripes", profile="band", spacing=0.5, share=0.5, axis="x"))
    glowing = sheet(stripes, emission_luminance=value(1.0))
    made = shot(
        camera={**CAMERA, "focal_length": 100},
        environment={"colour": [0, 0, 0]},
        objects=[{"name": "s", "geometry": {"file": "sheet"}, "look": "sheet"}],
        looks=[glowing],
    )
    picture = render_frame(made, MadeFiles(sheet=square(40.0)), 64, 16, 64, 2).picture()[..., 0]
    assert picture.mean() == pytest.approx(0.5, abs=0.04)
    assert ((picture < 0.05) | (picture > 0.95)).mean() > 0.7, "holes and bars"


def test_more_sheets_than_the_limit_end_a_path() -> None:
    heights = [0.5 + 0.1 * number for number in range(6)]
    few = {"limits": {"transparency": 3}, "environment": {"colour": [1, 1, 1]}}
    assert brightness(*heights, opacity=0.0, samples=32, **few)[0] == 0.0
    enough = {"limits": {"transparency": 12}}
    assert brightness(*heights, opacity=0.0, samples=64, **enough)[0] == pytest.approx(0.5, rel=0.03)
