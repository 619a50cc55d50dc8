"""How often light may turn, and what of it is held down: against the closed form of a dull sphere seen from within.

In a closed dull sphere of albedo ρ whose wall sends out e everywhere, each further turn multiplies the light by ρ (the integrating
sphere; common practice, no published source): e + ρe + ρ²e + …
"""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, layer, look, shot, square, value
from texallon.core.render.film.film import Film
from texallon.core.render.render_frame import make_context, render_frame

ALBEDO, GLOW = 0.5, 2.0


def sphere(**members: Any) -> Any:
    wall = layer("wall", base_color=value(ALBEDO), specular_weight=value(0.0), emission_luminance=value(GLOW))
    return shot(
        camera={"position": [0, 0, 0.2], "target": [0, 0, -1], "focal_length": 50},
        environment={"colour": [0, 0, 0]},
        objects=[{"name": "room", "geometry": {"file": "ball"}, "look": "wall"}],
        looks=[look("wall", wall)],
        **members,
    )


def inside(samples: int = 300, **members: Any) -> float:
    return float(render_frame(sphere(**members), MadeFiles(ball=ball(1.0, 48)), 12, 12, samples, 2).picture().mean())


@pytest.mark.parametrize("limit", [0, 1, 3])
def test_beyond_the_diffuse_limit_only_straight_light_is_left(limit: int) -> None:
    series = GLOW * sum(ALBEDO**n for n in range(limit + 2))
    assert inside(limits={"diffuse": limit}, bounces=16) == pytest.approx(series, rel=0.02)


@pytest.mark.parametrize("bounces", [0, 1, 2])
def test_all_turns_together_have_a_limit(bounces: int) -> None:
    series = GLOW * sum(ALBEDO**n for n in range(bounces + 1))
    assert inside(bounces=bounces) == pytest.approx(series, rel=0.02)


def test_many_turns_approach_the_closed_form() -> None:
    assert inside(bounces=24, limits={"diffuse": 24}) == pytest.approx(GLOW / (1 - ALBEDO), rel=0.02)


def test_a_dull_floor_has_its_straight_light_whole_under_any_limit() -> None:
    made = shot(
        camera={"position": [0, 6, 0.001], "target": [0, 0, 0], "focal_length": 400},
        environment={"colour": [1, 1, 1]},
        objects=[{"name": "f", "geometry": {"file": "f"}, "look": "dull"}],
        looks=[look("dull", layer("d", base_color=value(0.5), specular_weight=value(0.0)))],
        limits={"diffuse": 0},
    )
    picture = render_frame(made, MadeFiles(f=square(40.0)), 12, 12, 300, 2).picture()
    assert picture.mean() == pytest.approx(0.5, rel=0.02)


def test_previews_hold_bright_indirect_light_down_and_finals_do_not() -> None:
    held = sphere(bounces=12, limits={"clamp": 0.05, "diffuse": 12})
    context = make_context(held, MadeFiles(ball=ball(1.0, 48)), 12, 12)
    means = []
    for final in (True, False):
        film = Film(12, 12)
        for _ in range(150):
            film.add_sample(replace(context, final=final))
        means.append(film.picture().mean())
    assert means[0] == pytest.approx(GLOW / (1 - ALBEDO), rel=0.03)
    # Direct light is left, and of what comes after at most the clamp at each of some turns.
    assert GLOW * (1 + ALBEDO) <= means[1] <= GLOW * (1 + ALBEDO) + 0.05 * 24


def test_a_mirror_beyond_its_limit_sees_the_sky_but_no_surface() -> None:
    mirror = layer("m", base_metalness=value(1.0), base_color=value([1.0, 1.0, 1.0]), specular_roughness=value(0.0))
    red = layer("r", base_color=value([1.0, 0.0, 0.0]), specular_weight=value(0.0))

    def seen(limit: int) -> np.ndarray:
        made = shot(
            camera={"position": [0, 1, 3], "target": [0, 0, 0], "focal_length": 600},
            environment={"colour": [1, 1, 1]},
            objects=[
                {"name": "f", "geometry": {"file": "f"}, "look": "mirror"},
                {"name": "w", "geometry": {"file": "w"}, "look": "red", "rotation": [90, 0, 0], "position": [0, 0, -2]},
            ],
            looks=[look("mirror", mirror), look("red", red)],
            limits={"glossy": limit},
        )
        return render_frame(made, MadeFiles(f=square(2.0), w=square(8.0)), 8, 8, 64, 2).picture().mean(axis=(0, 1))

    assert seen(0).max() < 1e-6, "the wall stands where the mirror looks"
    assert seen(1)[0] > 0.5 and seen(1)[1] < 0.05
