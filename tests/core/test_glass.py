"""Clear bodies: what they absorb, bend, split, and how they nest; against Beer–Lambert, Snell, and a real prism."""

from dataclasses import replace
from math import asin, degrees, exp, log, radians, sin
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, box, layer, look, shot, square, value
from tests.core.test_spectrum import GLASSES, abbe, index
from texallon.core.geometry.mesh import make_mesh
from texallon.core.render.film.film import Film
from texallon.core.render.render_frame import make_context, render_frame
from texallon.core.shade.spectrum import LINE_C, LINE_D, LINE_F, dispersed_ior


def glass(name: str, **channels: Any) -> dict[str, Any]:
    given = {"transmission_weight": value(1.0), "specular_roughness": value(0.0)} | {
        key: value(number) for key, number in channels.items()
    }
    return look(name, layer("g", **given))


def seen(
    objects: list[dict[str, Any]], looks: list[Any], files: dict[str, Any], samples: int = 128, **members: Any
) -> np.ndarray:
    """The mean picture of what lies straight before a far camera."""
    made = shot(
        **{
            "camera": {"position": [0, 0, 9], "target": [0, 0, 0], "focal_length": 3000},
            "environment": {"colour": [1, 1, 1]},
            "objects": objects,
            "looks": looks,
            **members,
        }
    )
    return render_frame(made, MadeFiles(**files), 8, 8, samples, 2).picture().mean(axis=(0, 1))


def thing(name: str, wears: str = "", **members: Any) -> dict[str, Any]:
    return {"name": name, "geometry": {"file": name}, "look": wears or name, **members}


@pytest.mark.parametrize("thick", [0.5, 1.0, 2.0])
def test_absorption_follows_beer_and_lambert(thick: float) -> None:
    # Without reflection (index 1) what is left of each colour is exp(−σ d), σ from the tint that is left at the depth.
    tint, depth = (0.9, 0.5, 0.1), 1.5
    found = seen(
        [thing("slab")],
        [glass("slab", specular_ior=1.0, transmission_color=tint, transmission_depth=depth)],
        {"slab": box(4, 4, thick)},
    )
    assert found == pytest.approx([exp(log(c) / depth * thick) for c in tint], rel=0.01)


def test_a_slab_reflects_at_both_faces_and_absorbs_between() -> None:
    # Straight through: (1−R)² a / (1 − R² a²), and back: R + R (1−R)² a² / (1 − R² a²); the sky is white all around.
    r, a = 0.04, 0.5
    found = seen(
        [thing("slab")],
        [glass("slab", transmission_color=(a, a, a), transmission_depth=1.0)],
        {"slab": box(4, 4, 1)},
        600,
    )
    through = (1 - r) ** 2 * a / (1 - r * r * a * a)
    back = r + r * (1 - r) ** 2 * a * a / (1 - r * r * a * a)
    assert found[0] == pytest.approx(through + back, rel=0.02)


def test_light_through_a_clear_body_is_absorbed_on_its_straight_way_too() -> None:
    # A floor lit by a point lamp through a slab of index 1: the shadow ray is weakened as a path would be.
    def lit(tint: float) -> float:
        dull = look("floor", layer("d", base_color=value(0.5), specular_weight=value(0.0)))
        slab = glass("slab", specular_ior=1.0, transmission_color=(tint,) * 3, transmission_depth=1.0)
        lamp = {"name": "l", "shape": "point", "position": [0, 3, 0], "power": 100.0}
        return float(
            seen(
                [thing("floor"), thing("slab", position=[0, 1.5, 0])],
                [dull, slab],
                {"floor": square(4.0), "slab": box(2, 0.5, 2)},
                32,
                camera={"position": [0, 0.3, 1.2], "target": [0, 0, 0], "focal_length": 2000},
                environment={"colour": [0, 0, 0]},
                lights=[lamp],
            )[0]
        )

    assert lit(0.25) / lit(1.0) == pytest.approx(0.5, rel=0.02)  # half a metre: 0.25^0.5


def test_a_body_within_another_of_the_same_index_is_not_there() -> None:
    files = {"outer": ball(1.0, 48), "inner": ball(0.5, 48), "sky": _sky()}
    one = seen([thing("outer", "g")], [glass("g")], files, 400, environment=STRIPES)
    two = seen([thing("outer", "g"), thing("inner", "g", priority=1)], [glass("g")], files, 400, environment=STRIPES)
    assert two == pytest.approx(one, rel=0.03)


def test_priority_says_which_of_two_bodies_fills_the_space_they_share() -> None:
    # Red and blue boxes of index 1 overlap by half a metre: along the ray 1 m of the one that counts and 0.5 m of the other.
    def along(red: int, blue: int) -> np.ndarray:
        clear = {"specular_ior": 1.0, "transmission_depth": 1.0}
        looks = [
            glass("red", transmission_color=(1.0, 0.3, 0.3), **clear),
            glass("blue", transmission_color=(0.3, 0.3, 1.0), **clear),
        ]
        files = {"red": box(4, 4, 1), "blue": box(4, 4, 1)}
        return seen(
            [thing("red", priority=red, position=[0, 0, 0.25]), thing("blue", priority=blue, position=[0, 0, -0.25])],
            looks,
            files,
        )

    assert along(1, 0) == pytest.approx([0.3**0.5, 0.3**1.5, 0.3], rel=0.01)
    assert along(0, 1) == pytest.approx([0.3, 0.3**1.5, 0.3**0.5], rel=0.01)


def test_an_index_close_to_one_gives_only_a_hint_at_the_edges() -> None:
    # Index 1.1 reflects ((n−1)/(n+1))² = 0.23 % head on (Fresnel), and more only at grazing angles.
    black = {"environment": {"colour": [1, 1, 1], "visible": False}, "limits": {"transmission": 0}}
    files, looks = {"g": ball(1.0, 64)}, [glass("g", specular_ior=1.1)]
    middle = seen([thing("g")], looks, files, 400, **black)[0]
    edge = seen(
        [thing("g")],
        looks,
        files,
        400,
        camera={"position": [0.985, 0, 9], "target": [0.985, 0, 0], "focal_length": 9000},
        **black,
    )[0]
    assert middle == pytest.approx((0.1 / 2.1) ** 2, rel=0.15)
    assert edge > 5 * middle


STRIPES = {"image": {"file": "sky"}, "colour": [1, 1, 1]}


def _sky() -> np.ndarray:
    rows = np.ones((32, 64, 3), np.float32)
    rows[:, ::2] = 0.2
    return rows


def prism(apex: float) -> Any:
    """A prism along y with its apex angle (degrees) towards +x."""
    half = radians(apex) / 2
    tall = 4.0
    a, b, c = (0.0, 0.0), (-1.0, np.tan(half)), (-1.0, -np.tan(half))  # x, z
    corners, faces, normals = [], [], []
    for (x1, z1), (x2, z2) in ((a, b), (b, c), (c, a)):
        normal = np.array([z2 - z1, 0.0, x1 - x2])
        normal /= np.linalg.norm(normal)
        middle = np.array([-2 / 3, 0, 0])
        if normal @ (np.array([x1, 0, z1]) - middle) < 0:
            normal = -normal
        first = len(corners)
        corners += [[x1, -tall, z1], [x2, -tall, z2], [x2, tall, z2], [x1, tall, z1]]
        normals += [normal] * 4
        faces += [[first, first + 1, first + 2], [first, first + 2, first + 3]]
    return make_mesh(corners, faces, normals)


def deviation(n: float, apex: float, incidence: float) -> float:
    """Of a ray through a prism, degrees (E. Hecht, *Optics*, 5.5.1)."""
    inside = asin(sin(radians(incidence)) / n)
    out = asin(n * sin(radians(apex) - inside))
    return incidence + degrees(out) - apex


@pytest.mark.parametrize("which", GLASSES)
def test_a_prism_bends_each_colour_as_its_glass_does(which: tuple[str, str, str]) -> None:
    # Rays of one wavelength are followed through a prism by the integrator itself; the way out is found by where they meet a
    # far wall that shows its own place.
    apex, incidence = 40.0, 35.0
    nd, v = index(which, LINE_D), abbe(which)
    spread = []
    for line in (LINE_F, LINE_D, LINE_C):
        n = dispersed_ior(nd, v, 1.0, line)
        found = through_prism(n, apex, incidence)
        assert found == pytest.approx(deviation(n, apex, incidence), abs=0.05)
        assert found == pytest.approx(deviation(index(which, line), apex, incidence), abs=0.12)
        spread.append(found)
    assert spread[0] > spread[1] > spread[2]


def through_prism(n: float, apex: float, incidence: float) -> float:
    """By how many degrees a thin bundle of rays is turned on its way through a prism, in the horizontal plane."""
    half = radians(apex) / 2
    # The face towards +z has the normal (sin half, 0, cos half); the bundle comes at an angle to it, from the base's side.
    angle = half - radians(incidence)
    way = np.array([-np.sin(angle), 0.0, -np.cos(angle)])
    aim = np.array([-0.5, 0.0, 0.5 * np.tan(half)])
    eye = aim - 5 * way
    distance = 500.0
    glow = {"emission_luminance": value(1.0), "base_weight": value(0.0), "specular_weight": value(0.0)}
    place = {
        "recipe": {
            "steps": [
                {"op": "position", "params": {"space": "world"}},
                {"op": "multiply", "params": {"by": 1 / 1000}},
                {"op": "add", "params": {"by": 0.5}},
            ]
        }
    }
    made = shot(
        camera={"position": list(eye), "target": list(aim), "focal_length": 60000},
        environment={"colour": [0, 0, 0]},
        objects=[thing("prism", "glass"), thing("wall", "wall", rotation=[90, 0, 0], position=[0, 0, -distance])],
        looks=[glass("glass", specular_ior=n), look("wall", layer("w", **glow, emission_color=place))],
        limits={"glossy": 0},
    )
    film = Film(4, 4)
    context = make_context(made, MadeFiles(prism=prism(apex), wall=square(990.0)), 4, 4)
    for _ in range(16):
        film.add_sample(context)
    light = film.picture().sum(axis=(0, 1))
    x = (light[0] / light[1] * 0.5 - 0.5) * 1000  # the wall's green is y, about 0, so half of what comes through
    out = np.arctan2(x - aim[0], distance)
    return degrees(abs(out - np.arctan2(way[0], -way[2])))


def test_white_light_through_strong_dispersion_stays_white_on_the_whole() -> None:
    clear = {"specular_ior": 1.5, "transmission_dispersion_scale": 1.0, "transmission_dispersion_abbe_number": 10.0}
    found = seen([thing("g")], [glass("g", **clear)], {"g": ball(1.0, 48)}, 1024, limits={"transmission": 32})
    assert found == pytest.approx([1.0, 1.0, 1.0], abs=0.02)


def test_a_dispersing_ball_splits_the_edge_of_a_bright_field_into_colours() -> None:
    half = np.zeros((64, 128, 3), np.float32)
    half[:, :64] = 1.0
    sky = {"environment": {"image": {"file": "sky"}}}

    def edge(scale: float) -> np.ndarray:
        clear = {"transmission_dispersion_scale": scale, "transmission_dispersion_abbe_number": 10.0}
        made = shot(
            camera={"position": [0, 0, 9], "target": [0, 0, 0], "focal_length": 150},
            objects=[thing("g")], looks=[glass("g", **clear)], **sky,
        )  # fmt: skip
        picture = render_frame(made, MadeFiles(g=ball(1.0, 64), sky=half), 48, 48, 96, 2).picture()
        return (picture.max(axis=2) - picture.min(axis=2)) / np.maximum(picture.max(axis=2), 0.05)

    assert edge(0.0).max() < 0.02
    assert edge(1.0).max() > 0.3


def test_a_picture_that_does_not_disperse_is_that_of_glass_without_dispersion() -> None:
    def picture(scale: float, disperses: bool) -> np.ndarray:
        made = shot(
            camera={"position": [0, 0, 9], "target": [0, 0, 0], "focal_length": 150},
            objects=[thing("g")], looks=[glass("g", transmission_dispersion_scale=scale, transmission_dispersion_abbe_number=15.0)],
        )  # fmt: skip
        film = Film(24, 24)
        film.add_sample(replace(make_context(made, MadeFiles(g=ball(1.0, 32)), 24, 24), disperses=disperses))
        return film.picture()

    assert picture(1.0, False) == pytest.approx(picture(0.0, True))
    assert picture(1.0, True) != pytest.approx(picture(0.0, True))


@pytest.mark.parametrize("forward", [-0.5, 0.0, 0.7])
def test_milk_that_absorbs_nothing_loses_nothing(forward: float) -> None:
    # A white furnace of scattering alone: as much comes out as goes in, from every side.
    found = seen(
        [thing("g")],
        [glass("g", **MILK, transmission_scatter_anisotropy=forward)],
        {"g": ball(1.0, 24)},
        200,
        bounces=64,
        limits={"transmission": 64},
    )
    assert found[0] == pytest.approx(1.0, abs=0.02)


MILK = {
    "specular_ior": 1.0,
    "transmission_depth": 1.0,
    "transmission_color": (exp(-1.0),) * 3,
    "transmission_scatter": (1.0,) * 3,
}
"""One scattering a metre, and nothing absorbed."""


def test_a_lamp_lights_milk_from_within_as_single_scattering_says() -> None:
    # Thin milk, lit by a point lamp: light scattered once towards the eye along a ray is ∫ σ p I / r² exp(−…) dt, here by
    # the midpoint rule; with σ so small that a second scattering hardly matters.
    sigma, half = 0.01, 1.0
    thin = {
        "specular_ior": 1.0,
        "transmission_depth": 1.0,
        "transmission_color": (exp(-sigma),) * 3,
        "transmission_scatter": (sigma,) * 3,
    }
    lamp = {"name": "l", "shape": "point", "position": [0.7, 0, 0], "power": 4 * np.pi * np.pi}
    found = seen(
        [thing("g")],
        [glass("g", **thin)],
        {"g": box(8, 8, 2 * half)},
        2000,
        environment={"colour": [0, 0, 0]},
        lights=[lamp],
        bounces=2,
    )[0]
    t = (np.arange(2000) + 0.5) / 2000 * 2 * half - half
    away = np.sqrt(t**2 + 0.49)
    intensity = np.pi
    once = (sigma / (4 * np.pi) * intensity / away**2 * np.exp(-sigma * (half - t + away))).mean() * 2 * half
    assert found == pytest.approx(once, rel=0.06)
