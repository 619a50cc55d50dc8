"""Asking lights: the chance of a direction must be what it says it is, seen from wherever a point is."""

from math import cos, pi, sqrt
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, layer, look, shot, value
from texallon.core.kernel import kernel
from texallon.core.render.light.emitters import Emitters, sample_light
from texallon.core.render.render_frame import make_context

COUNT = 200_000


@kernel
def ask_many(
    emitters: Emitters, x: float, y: float, z: float, numbers: np.ndarray, out: np.ndarray, of: np.ndarray
) -> None:
    """`out (7, n)`: direction, distance, density, red, whether without extent; `of (2, n)`: group and face."""
    for i in range(numbers.shape[1]):
        asked = sample_light(emitters, x, y, z, numbers[0, i], numbers[1, i], numbers[2, i], 1e-6)
        out[0, i], out[1, i], out[2, i], out[3, i] = asked.wx, asked.wy, asked.wz, asked.far
        out[4, i], out[5, i], out[6, i] = asked.pdf, asked.r, 1.0 if asked.bare else 0.0
        of[0, i], of[1, i] = asked.group, asked.emissive_face


def shadow(at: tuple[float, float, float], **members: Any) -> tuple[np.ndarray, np.ndarray]:
    dark = {"environment": {"intensity": 0}}
    made = shot(**{**dark, **members})
    context = make_context(made, MadeFiles(ball=ball(0.5, 48), sky=np.ones((2, 4, 3), np.float32)), 16, 16)
    out, of = np.empty((7, COUNT)), np.empty((2, COUNT), np.int32)
    ask_many(context.emitters, *at, np.random.default_rng(2).random((3, COUNT)).astype(np.float32), out, of)
    return out, of


def solid_angle(out: np.ndarray) -> float:
    """The mean of 1 / p over directions drawn with chance p is the solid angle that they come from."""
    p = out[4]
    return float(np.mean(np.divide(1, p, out=np.zeros_like(p), where=p > 0)))


def lamp(shape: str, **more: Any) -> dict[str, Any]:
    return {"name": "l", "shape": shape, "position": [0, 2, 0], "target": [0, 0, 0], "power": 10, **more}


def test_a_sphere_fills_the_cone_that_it_is_seen_in() -> None:
    # Ω = 2π (1 − √(1 − (r / d)²)): solid angle of a sphere, elementary geometry.
    out, _ = shadow((0.0, 0.0, 0.0), lights=[lamp("sphere", width=1.0)])
    assert solid_angle(out) == pytest.approx(2 * pi * (1 - sqrt(1 - 0.25**2)), rel=0.005)


@pytest.mark.parametrize("height", [0.3, 2.0])
def test_a_disc_is_seen_from_its_axis_at_its_solid_angle(height: float) -> None:
    # Ω = 2π (1 − h / √(h² + r²)): solid angle of a disc from its axis, elementary geometry.
    out, _ = shadow((0.0, 2.0 - height, 0.0), lights=[lamp("disc", width=2.0)])
    assert solid_angle(out) == pytest.approx(2 * pi * (1 - height / sqrt(height**2 + 1)), rel=0.01)


def triangle_angle(a: np.ndarray, b: np.ndarray, c: np.ndarray) -> float:
    """A. van Oosterom and J. Strackee, "The Solid Angle of a Plane Triangle", IEEE Trans. Biomed. Eng. 30(2), 1983."""
    a, b, c = (each / np.linalg.norm(each) for each in (a, b, c))
    return float(2 * np.arctan2(abs(np.dot(a, np.cross(b, c))), 1 + a @ b + b @ c + c @ a))


@pytest.mark.parametrize("at", [(0.0, 0.0, 0.0), (1.5, 1.0, -0.4), (-0.5, 1.9, 0.2)])
def test_a_rectangle_is_seen_at_its_solid_angle_from_anywhere(at: tuple[float, float, float]) -> None:
    out, _ = shadow(at, lights=[lamp("rectangle", width=1.0, height=0.6)])
    # Straight down its width lies along z, as up is then taken to be x.
    corners = [np.array([x, 2.0, z]) - at for x, z in ((-0.3, -0.5), (0.3, -0.5), (0.3, 0.5), (-0.3, 0.5))]
    expected = triangle_angle(*corners[:3]) + triangle_angle(corners[0], corners[2], corners[3])
    assert solid_angle(out) == pytest.approx(expected, rel=0.02)


EMITTING = {
    "objects": [{"name": "b", "geometry": {"file": "ball"}, "look": "glow", "position": [0, 2, 0]}],
    "looks": [look("glow", layer("g", emission_luminance=value(3.0)))],
}


def test_a_glowing_ball_is_asked_on_both_its_sides() -> None:
    # Each line through a closed body meets its surface twice, so the faces seen and those behind make up twice its cone.
    out, of = shadow((0.0, 0.0, 0.0), **EMITTING)
    assert (of[1] >= 0).all()
    assert solid_angle(out) == pytest.approx(2 * 2 * pi * (1 - sqrt(1 - 0.25**2)), rel=0.02)


def test_an_even_sky_is_asked_in_all_directions_alike() -> None:
    out, _ = shadow((5.0, 1.0, 2.0), environment={"intensity": 1, "image": {"file": "sky"}})
    assert out[4] == pytest.approx(1 / (4 * pi), rel=1e-4)
    assert out[:3].mean(axis=1) == pytest.approx([0, 0, 0], abs=0.01)
    assert solid_angle(out) == pytest.approx(4 * pi, rel=1e-4)


@pytest.mark.parametrize("shape", ["point", "spot"])
def test_lights_without_extent_say_so(shape: str) -> None:
    out, _ = shadow((0.3, 0.0, 0.0), lights=[lamp(shape)])
    assert (out[6] == 1).all()
    way = np.array([-0.3, 2.0, 0.0]) / sqrt(0.09 + 4)
    assert pytest.approx(np.tile(way, (COUNT, 1)), abs=1e-5) == out[:3].T
    assert out[3] == pytest.approx(sqrt(4.09), rel=1e-3)


def test_a_spot_sends_nothing_beyond_its_cone() -> None:
    inside, _ = shadow((0.0, 0.0, 0.0), lights=[lamp("spot", cone=40)])
    outside, _ = shadow((2 * np.tan(np.radians(25)), 0.0, 0.0), lights=[lamp("spot", cone=40)])
    assert inside[5].max() > 0 and outside[5].max() == 0


def test_a_share_of_asking_goes_to_each_light_and_its_group_is_told() -> None:
    lights = [lamp("point", group="warm"), {**lamp("sphere", width=0.2, group="cold"), "name": "m", "power": 30}]
    out, of = shadow((0.0, 0.0, 0.0), lights=lights, light_groups=[{"name": "warm"}, {"name": "cold"}])
    warm = (of[0] == 1).mean()
    assert set(np.unique(of[0])) == {1, 2}
    assert 0.1 < warm < 0.5, "the weaker light is asked less often"
    cone = 2 * pi * (1 - cos(np.arcsin(0.1 / 2)))
    assert out[4][of[0] == 2] == pytest.approx((1 - warm) / cone, rel=0.03)
