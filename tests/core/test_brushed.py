"""Brushed facets: their density, their furnace, and which way highlights are drawn out."""

from math import cos, pi, sin, sqrt

import numpy as np
import pytest

from tests.builders import MadeFiles, layer, look, shot, square, value
from tests.surfaces import given_back, material, scatters
from texallon.core.kernel import kernel
from texallon.core.render.render_frame import render_frame
from texallon.core.shade.ggx import brushed_alphas, brushed_d, brushed_lambda, ggx_d, ggx_lambda


@kernel
def covered(ax: float, ay: float, steps: int) -> float:
    """∫ D cosθ dω over stretched slopes."""
    total = 0.0
    for i in range(steps):
        s = (i + 0.5) / steps
        ring = sqrt(s / (1 - s))
        for j in range(steps):
            phi = 2 * pi * (j + 0.5) / steps
            x, y = ax * ring * cos(phi), ay * ring * sin(phi)
            z = 1 / sqrt(1 + x * x + y * y)
            # Slopes to directions: dω = z³ dx dy; even area of the stretched disc: ring dring = ds / (2 (1−s)²).
            total += brushed_d(x * z, y * z, z, ax, ay) * z * z**3 * ax * ay / (2 * (1 - s) ** 2)
    return total / (steps * steps) * 2 * pi


@pytest.mark.parametrize("brushing", [0.0, 0.5, 0.9])
@pytest.mark.parametrize("roughness", [0.2, 0.6])
def test_brushed_facets_cover_the_surface_once(brushing: float, roughness: float) -> None:
    # Walter et al. 2007, eq. 4, for facets with two roughnesses (Heitz 2014).
    ax, ay = brushed_alphas(roughness, brushing)
    assert covered(ax, ay, 300) == pytest.approx(1.0, abs=2e-3)
    assert ax * ax + ay * ay == pytest.approx(2 * roughness**4, rel=1e-6), "OpenPBR keeps the mean square"
    assert ay == pytest.approx((1 - brushing) * ax)


def test_facets_that_are_not_brushed_are_plain() -> None:
    for z in (0.2, 0.7, 0.99):
        x = sqrt(1 - z * z)
        assert brushed_d(x, 0.0, z, 0.3, 0.3) == pytest.approx(ggx_d(z, 0.3), rel=1e-6)
        assert brushed_lambda(0.0, x, z, 0.3, 0.3) == pytest.approx(ggx_lambda(z, 0.3), rel=1e-6)


@pytest.mark.parametrize("brushing", [0.3, 0.9])
@pytest.mark.parametrize("roughness", [0.3, 0.6, 1.0])
@pytest.mark.parametrize("white", ["metal", "ground", "glass", "inside glass"])
def test_brushed_white_things_keep_their_light(brushing: float, roughness: float, white: str) -> None:
    channels = {
        "metal": {"base_color": (1.0, 1.0, 1.0), "base_metalness": (1.0,)},
        "ground": {"base_color": (1.0, 1.0, 1.0)},
    }.get(white, {"transmission_weight": (1.0,)})
    for mu in (0.1, 0.5, 1.0):
        for phi in (0.0, 0.8, 1.57):
            found = given_back(
                mu, 40_000, white == "inside glass", phi=phi, specular_roughness=(roughness,),
                specular_roughness_anisotropy=(brushing,), **channels,
            )  # fmt: skip
            assert found == pytest.approx(1.0, abs=0.02)


def test_brushed_reflection_is_reciprocal() -> None:
    m = material(
        base_metalness=(1.0,),
        base_color=(0.9, 0.7, 0.4),
        specular_roughness=(0.4,),
        specular_roughness_anisotropy=(0.8,),
    )
    rng = np.random.default_rng(1)
    for _ in range(100):
        ways = []
        for _ in range(2):
            z, phi = rng.uniform(0.05, 1), rng.uniform(0, 2 * pi)
            ways.append((sqrt(1 - z * z) * cos(phi), sqrt(1 - z * z) * sin(phi), z))
        o, i = ways
        there = scatters(m, o, i)[0] / i[2]
        back = scatters(m, i, o)[0] / o[2]
        assert there == pytest.approx(back, rel=1e-5, abs=1e-9)


def test_highlights_are_drawn_out_across_the_grain() -> None:
    # The map's u runs along x: grooves lie across it, and so does not the highlight of a lamp over the middle.
    brass = layer(
        "b", base_metalness=value(1.0), specular_roughness=value(0.35), specular_roughness_anisotropy=value(0.95)
    )
    made = shot(
        camera={"position": [0, 6, 0.001], "target": [0, 0, 0], "focal_length": 100},
        environment={"colour": [0, 0, 0]},
        lights=[{"name": "l", "shape": "point", "position": [0, 1.5, 0], "power": 100.0}],
        objects=[{"name": "f", "geometry": {"file": "f"}, "look": "brass"}],
        looks=[look("brass", brass)],
    )
    picture = render_frame(made, MadeFiles(f=square(4.0)), 33, 33, 16, 2).picture()[..., 0]
    place = np.arange(33) - 16
    along_x = (picture.sum(axis=0) * place**2).sum() / picture.sum()
    along_z = (picture.sum(axis=1) * place**2).sum() / picture.sum()
    assert along_x > 2 * along_z
