"""Lamps within volumes: the single scattering of what they send out, held against closed integrals, at lamps' sides and far from them."""

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from scipy import integrate

from tests.builders import MadeFiles
from tests.volumes import box, volume_look, volume_shot
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.core.render.transport.context import RenderContext

CAMERA = {"position": [0, 0, 10], "target": [0, 0, 0], "focal_length": 40000.0}


def phase(cosine: float, g: float) -> float:
    """Henyey and Greenstein, 1941."""
    return (1 - g * g) / (4 * np.pi * (1 + g * g - 2 * g * cosine) ** 1.5)


def context_of(*fills: dict[str, Any], lamps: list[dict[str, Any]], size: float = 4.0) -> RenderContext:
    """Boxes about the origin, looked at along z by rays that all but coincide."""
    objects = [box(each["name"], each["name"], size=size) for each in fills]
    lights = [{"name": f"lamp {k}", "target": [0, 0, -9], **each} for k, each in enumerate(lamps)]
    made = volume_shot(*fills, objects=objects, light=0.0, lights=lights, camera=CAMERA)
    return FrameGraph(made, MadeFiles()).context(8, 8)


def samples_of(context: RenderContext, count: int) -> np.ndarray:
    """`(count, 3)` the mean of the picture, sample by sample."""
    film, before, found = Film(8, 8, len(context.lights.names)), np.zeros(3), []
    for number in range(count):
        film.add_sample(context)
        total = film.picture().mean(axis=(0, 1)).astype(np.float64) * (number + 1)
        found.append(total - before)
        before = total
    return np.array(found)


def thin(
    name: str = "mist", density: float = 0.1, g: float = 0.0, colour: tuple[float, ...] = (1, 1, 1)
) -> dict[str, Any]:
    """So white only that what is scattered twice adds less than half a per cent."""
    albedo = min(0.02, 0.002 / density) * np.array(colour)
    return volume_look(
        name, density=density, scattering_color=albedo.tolist(), absorption_color=(1 - albedo).tolist(),
        scattering_anisotropy=g,
    )  # fmt: skip


def scattered_once(density: float, g: float, power: float, aside: float, z: float = 0.0, half: float = 2.0) -> float:
    """∫ σ_s p(cos θ) I / r² exp(−σ (r + s)) ds along a ray through a box, which passes a lamp in it at some metres."""
    albedo = min(0.02, 0.002 / density)

    def at(u: float) -> float:  # z − u = aside · tan: even over the angle, for the sake of quadrature
        away = aside * np.tan(u)
        r = np.hypot(aside, away)
        way = density * (r + half - (z + away))
        return float(density * albedo * phase(away / r, g) * power / (4 * np.pi) / aside * np.exp(-way))

    return integrate.quad(at, np.arctan((-half - z) / aside), np.arctan((half - z) / aside))[0]


@pytest.mark.parametrize("kind", ["point", "sphere"])
@pytest.mark.parametrize(("density", "g"), [(0.05, 0.0), (0.5, 0.7), (3.0, -0.4)])
@pytest.mark.parametrize("aside", [0.02, 0.3, 1.7])
def test_a_lamp_lights_what_is_about_it_by_the_closed_integral(
    kind: str, density: float, g: float, aside: float
) -> None:
    # At a density of 3 the lamp's ball ends within the box, and both ways of asking add up along each ray.
    lamp = {"shape": kind, "power": 10.0, "width": 0.004, "position": [0, aside, 0.4]}
    got = samples_of(context_of(thin(density=density, g=g), lamps=[lamp]), 400)[:, 0]
    want = scattered_once(density, g, 10.0, aside, 0.4)
    assert got.mean() == pytest.approx(want, rel=0.03)


def test_of_several_lamps_each_brings_its_own() -> None:
    lamps = [
        {"shape": "point", "power": 10.0, "position": [0, 0.05, 1.0]},
        {"shape": "point", "power": 3.0, "position": [0, -1.5, 0]},
        {"shape": "sphere", "power": 40.0, "width": 0.004, "position": [1.9, 0, -1.0]},
    ]
    got = samples_of(context_of(thin(density=1.0), lamps=lamps), 400)[:, 0]
    want = sum(
        scattered_once(1.0, 0.0, power, aside, z) for power, aside, z in ((10, 0.05, 1), (3, 1.5, 0), (40, 1.9, -1))
    )
    assert got.mean() == pytest.approx(want, rel=0.03)


def test_of_volumes_that_overlap_each_scatters_its_own_colour_its_own_way() -> None:
    lamp = {"shape": "point", "power": 10.0, "position": [0, 0.5, 1.0]}
    fills = [thin("red", 0.4, 0.8, (1, 0, 0)), thin("blue", 0.4, -0.8, (0, 0, 1))]
    got = samples_of(context_of(*fills, lamps=[lamp]), 800).mean(axis=0)

    def of(g: float) -> float:  # both take light from each
        def at(z: float) -> float:
            r = np.hypot(0.5, z - 1)
            return float(0.4 * 0.005 * phase((z - 1) / r, g) * 10 / (4 * np.pi) / r**2 * np.exp(-0.8 * (r + 2 - z)))

        return integrate.quad(at, -2, 2)[0]

    assert got == pytest.approx([of(0.8), 0, of(-0.8)], rel=0.04, abs=1e-9)


def test_places_of_their_own_leave_mist_about_a_lamp_free_of_specks() -> None:
    context = context_of(thin(), lamps=[{"shape": "point", "power": 10.0, "position": [0, 0.03, 0]}])
    without = replace(context, emitters=context.emitters._replace(reach=np.zeros(1, np.float32)))
    with_places, scattered_only = (samples_of(each, 300)[:, 0] for each in (context, without))
    assert with_places.std() < 0.1 * scattered_only.std()


def test_the_ball_about_a_lamp_ends_where_its_light_is_mostly_scattered() -> None:
    lamps = [
        {"shape": "point", "power": 1.0, "position": [0, 0, 0]},
        {"shape": "sun", "power": 1.0, "position": [0, 5, 0]},
    ]
    assert np.isinf(context_of(thin(density=0.1), lamps=lamps).emitters.reach[0])
    reach = context_of(thin(density=5.0), lamps=lamps).emitters.reach
    assert reach == pytest.approx([1.5 / 5.0, 0.0], rel=0.02)
    assert not context_of(lamps=lamps).emitters.reach.any()
