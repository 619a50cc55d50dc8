"""Where the eye is: within fog, water or glass, and within several at once; and lamps seen through rough glass."""

from math import exp, pi
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, box, layer, look, shot, square, value
from texallon.core.render.render_frame import make_context, render_frame
from texallon.core.render.transport.camera_media import media_at_point
from texallon.core.shade.media.nesting import BODY, FIELDS, INDEX

pytestmark = pytest.mark.slow

DULL = {"base_color": 0.5, "specular_weight": 0.0}
FOG = {
    "transmission_weight": 1.0,
    "specular_ior": 1.0,
    "transmission_depth": 1.0,
    "transmission_color": [exp(-0.4)] * 3,
}
"""A clear absorbing medium of index 1 that takes 0.4 a metre."""


def wears(name: str, channels: dict[str, Any]) -> dict[str, Any]:
    return look(name, layer("l", **{key: value(v) for key, v in channels.items()}))


def picture(
    things: dict[str, tuple[Any, dict[str, Any]]], samples: int = 64, size: int = 6, **members: Any
) -> np.ndarray:
    """The picture of things: name to mesh, channels and where the object stands."""
    made = shot(
        **{
            "objects": [{"name": n, "geometry": {"file": n}, "look": n, **each[2]} for n, each in things.items()],
            "looks": [wears(name, each[1]) for name, each in things.items()],
            "environment": {"colour": [1, 1, 1]},
            **members,
        }
    )
    files = MadeFiles(**{name: each[0] for name, each in things.items()})
    return render_frame(made, files, size, size, samples, 2).picture()


LOOKING = {"camera": {"position": [0, 0, 0], "target": [0, 0, -1], "focal_length": 4000}}


@pytest.mark.parametrize("metres", [1.0, 3.0])
def test_fog_round_the_eye_takes_light_by_beer_and_lambert(metres: float) -> None:
    # e^(−σ d) of the light from outside: the eye stands in the fog, `metres` from where it ends.
    fog = (box(40, 40, 2 * metres), FOG, {})
    assert picture({"fog": fog}, **LOOKING).mean() == pytest.approx(exp(-0.4 * metres), rel=0.01)


def test_two_bodies_round_the_eye_and_one_before_it() -> None:
    # Fog of 0.4 a metre for 1 m; in it, round the eye too, thicker fog of 1.2 a metre for half of that, which counts by its priority.
    thick = FOG | {"transmission_color": [exp(-1.2)] * 3}
    things = {
        "fog": (box(40, 40, 2), FOG, {}),
        "thick": (box(20, 20, 1), thick, {"priority": 1}),
        "pane": (box(8, 8, 0.2), thick, {"position": [0, 0, -0.8], "priority": 2}),
    }
    expected = exp(-1.2 * 0.5 - 0.4 * (0.5 - 0.2) - 1.2 * 0.2)
    assert picture(things, **LOOKING).mean() == pytest.approx(expected, rel=0.01)


@pytest.mark.parametrize("around", ["water", "glass"])
def test_the_world_seen_from_within_water(around: str) -> None:
    # Straight on the boundary lets 1 − R through and mirrors the rest of an even world: nothing is to be seen of it.
    channels = {"transmission_weight": 1.0, "specular_ior": 1.333, "specular_roughness": 0.0}
    if around == "glass":
        channels |= {"specular_ior": 1.5, "specular_roughness": 0.3}
    found = picture({"body": (ball(2.0, 32), channels, {})}, 200, bounces=64, **LOOKING)
    assert found.mean() == pytest.approx(1.0, abs=0.02)


def test_what_is_round_the_eye_is_found_in_the_order_of_its_boundaries() -> None:
    water = {"transmission_weight": 1.0, "specular_ior": 1.333}
    made = shot(
        objects=[
            {"name": n, "geometry": {"file": n}, "look": n, **more}
            for n, more in (("near", {}), ("far", {}), ("beside", {"position": [9, 0, 0]}), ("sheet", {"position": [0, 1, 0]}))
        ],
        looks=[wears("near", water | {"specular_ior": 1.5}), wears("far", water), wears("beside", water), wears("sheet", water)],
    )  # fmt: skip
    files = MadeFiles(near=ball(1.0), far=ball(3.0), beside=ball(1.0), sheet=square(0.1))
    context = make_context(made, files, 4, 4)
    media = media_at_point(context.scene, context.materials, np.zeros(3))
    assert media[[BODY, FIELDS + BODY, 2 * FIELDS + BODY], 0].tolist() == [2, 1, 0], (
        "far first, then near; nothing else"
    )
    assert media[[INDEX, FIELDS + INDEX], 0] == pytest.approx([1.333, 1.5])
    outside = media_at_point(context.scene, context.materials, np.array([0.0, 0.0, 5.0]))
    assert not outside.any()


def test_a_lamp_in_thin_fog_has_a_halo() -> None:
    # Single scattering towards an eye in the same fog, 2 m from a point lamp, looking past it at distance b: ∫ σ p I / r² e^(−σ(t + r)) dt.
    sigma, b = 0.004, 0.5
    thin = FOG | {"transmission_color": [exp(-sigma)] * 3, "transmission_scatter": [sigma] * 3}
    lamp = {"name": "l", "shape": "point", "position": [b, 0, -2], "power": 4 * pi * pi}
    found = picture(
        {"fog": (ball(6.0, 32), thin, {})}, 3000, lights=[lamp], environment={"colour": [0, 0, 0]}, **LOOKING
    ).mean()
    t = (np.arange(4000) + 0.5) / 4000 * 6.0
    r = np.sqrt((t - 2) ** 2 + b * b)
    expected = (sigma / (4 * pi) * pi / r**2 * np.exp(-sigma * (t + r))).mean() * 6.0
    assert found == pytest.approx(expected, rel=0.06)


LAMPS = {
    "point": {"shape": "point"},
    "spot": {"shape": "spot", "cone": 90, "target": [0, 0, 0]},
    "sun": {"shape": "sun", "angle": 0.0, "target": [0, 0, 0], "power": 3.0},
    "sun with a disc": {"shape": "sun", "angle": 2.0, "target": [0, 0, 0], "power": 3.0, "visible": False},
    "small ball": {"shape": "sphere", "width": 0.05, "visible": False},
}


@pytest.mark.parametrize("through", ["frosted sheet", "thin wall", "slab"])
def test_every_lamp_is_seen_through_rough_glass(through: str) -> None:
    """A lamp behind rough glass is as bright as a small ball of the same power in its place, which scattered rays find as well."""
    glass = {"transmission_weight": 1.0, "specular_roughness": 0.5}
    if through == "thin wall":
        glass["geometry_thin_walled"] = 1.0
    pane = {"slab": box(6, 6, 0.5)}.get(through, square(6.0))
    turned = {} if through == "slab" else {"rotation": [90, 0, 0]}

    def seen(lamp: str) -> float:
        light = {"name": "l", "position": [0.3, 0.2, -3], "power": 100.0} | LAMPS[lamp]
        return float(
            picture(
                {"pane": (pane, glass, turned)}, 400, 6, lights=[light], environment={"colour": [0, 0, 0]},
                camera={"position": [0, 0, 4], "target": [0, 0, 0], "focal_length": 150},
            ).mean()
        )  # fmt: skip

    ball_lamp = seen("small ball")
    assert ball_lamp > 0
    for lamp in ("point", "spot"):
        assert seen(lamp) == pytest.approx(ball_lamp, rel=0.08), lamp
    assert seen("sun") == pytest.approx(seen("sun with a disc"), rel=0.08)


def test_a_dull_floor_behind_a_clear_pane_is_lit_as_much_as_two_faces_let_through() -> None:
    # Straight on: (1 − R)² of the light arrives; n cancels, as light enters glass and leaves it again.
    lamp = {"name": "l", "shape": "point", "position": [0, 8, 0], "power": 400.0}
    floor = (square(8.0), DULL, {})
    pane = (box(8, 0.3, 8), {"transmission_weight": 1.0, "specular_roughness": 0.0}, {"position": [0, 2, 0]})
    view = {"camera": {"position": [0, 1, 0.001], "target": [0, 0, 0], "focal_length": 400}}
    lit = {"lights": [lamp], "environment": {"colour": [0, 0, 0]}, "limits": {"diffuse": 0, "glossy": 0}, **view}
    bare = picture({"floor": floor}, 16, **lit).mean()
    assert picture({"floor": floor, "pane": pane}, 16, **lit).mean() / bare == pytest.approx(0.96**2, rel=0.03)


@pytest.mark.parametrize("where", ["under flat water", "in the middle of a ball"])
def test_a_lamp_outside_lights_what_is_inside_as_its_boundary_bends(where: str) -> None:
    # Under a flat boundary far light keeps its flux: radiance over n² is (1 − R) ρ E / (π n²). In the middle of a ball rays along radii
    # are not bent, and light is as strong as outside but for 1 − R.
    n, r = 1.5, 0.04
    lamp = {"name": "l", "shape": "sun", "angle": 0.0, "position": [0, 5, 0], "target": [0, 0, 0], "power": 2.0}
    clear = {"transmission_weight": 1.0, "specular_roughness": 0.0, "specular_ior": n}
    black = {
        "environment": {"colour": [0, 0, 0]},
        "lights": [lamp],
        "bounces": 2,
        "limits": {"diffuse": 0, "glossy": 0},
    }
    tiny = square(0.02)
    body = box(8, 2, 8) if where == "under flat water" else ball(1.0, 64)
    eye = {"camera": {"position": [0, 0.3, 0.001], "target": [0, 0, 0], "focal_length": 2000}}
    found = picture({"tile": (tiny, DULL, {}), "body": (body, clear, {})}, 8, **black, **eye).mean()
    expected = (1 - r) * 0.5 * 2.0 / pi / (n * n if where == "under flat water" else 1.0)
    assert found == pytest.approx(expected, rel=0.03)
