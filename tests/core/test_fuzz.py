"""Fuzz: energy, sampling against its density, and what it looks like."""

from math import cos, pi, sin, sqrt

import numpy as np
import pytest

from tests.surfaces import given_back, material, scatters
from texallon.core.kernel import kernel
from texallon.core.random_numbers import uniform4
from texallon.core.shade.fuzz import fuzz_albedo, fuzz_pdf, fuzz_sample


@pytest.mark.parametrize("roughness", [0.1, 0.3, 0.6, 1.0])
@pytest.mark.parametrize("mu", [0.1, 0.5, 0.95])
def test_the_lobe_adds_up_to_one(roughness: float, mu: float) -> None:
    # A stretched cosine lobe keeps its integral (Heitz et al. 2016, linearly transformed cosines).
    assert lobe_integral(mu, roughness, 400) == pytest.approx(1.0, abs=0.02)


@kernel
def lobe_integral(mu: float, roughness: float, steps: int) -> float:
    """Over the hemisphere by midpoints, even in cosine and angle."""
    ox = sqrt(1 - mu * mu)
    total = 0.0
    for a in range(steps):
        z = ((a + 0.5) / steps) ** 2  # finer where a rim of light lies
        ring = sqrt(1 - z * z)
        for b in range(steps):
            phi = 2 * pi * (b + 0.5) / steps
            total += fuzz_pdf(ox, 0.0, mu, ring * cos(phi), ring * sin(phi), z, roughness) * 2 * (a + 0.5) / steps
    return total / (steps * steps) * 2 * pi


@pytest.mark.parametrize("roughness", [0.2, 0.7])
def test_sampled_directions_follow_the_lobe(roughness: float) -> None:
    # The mean of 1 / density over samples is the measure of the hemisphere, 2π, wherever the density is not 0.
    ox, oz = 0.6, 0.8
    total, count = 0.0, 40_000
    for s in range(count):
        u, v, _, _ = uniform4(s, 0, 0, 9)
        x, y, z = fuzz_sample(ox, 0.0, oz, roughness, u, v)
        assert x * x + y * y + z * z == pytest.approx(1.0, abs=1e-4) and z >= 0
        if z > 0.05:
            total += 1 / fuzz_pdf(ox, 0.0, oz, x, y, z, roughness)
    assert total / count == pytest.approx(2 * pi * 0.95, rel=0.06)


@pytest.mark.parametrize("mu", [0.1, 0.4, 1.0])
@pytest.mark.parametrize("roughness", [0.15, 0.5, 1.0])
def test_white_fuzz_on_a_white_ground_loses_nothing(mu: float, roughness: float) -> None:
    # What the fuzz does not give back towards the viewer is left to what is below.
    found = given_back(
        mu, fuzz_weight=(1.0,), fuzz_roughness=(roughness,), base_color=(1.0, 1.0, 1.0), specular_weight=(0.0,)
    )[0]
    assert found == pytest.approx(1.0, abs=0.01)


@pytest.mark.parametrize("mu", [0.1, 0.4, 1.0])
def test_fuzz_alone_gives_back_its_albedo(mu: float) -> None:
    found = given_back(mu, fuzz_weight=(1.0,), fuzz_roughness=(0.4,), base_weight=(0.0,), specular_weight=(0.0,))[0]
    assert found == pytest.approx(fuzz_albedo(mu, 0.4), rel=0.03)


def test_fuzz_lights_up_the_rim() -> None:
    assert fuzz_albedo(0.1, 0.3) > 3 * fuzz_albedo(0.9, 0.3)
    black = material(base_weight=(0.0,), specular_weight=(0.0,), fuzz_weight=(1.0,), fuzz_color=(1.0, 0.5, 0.0))
    rim = scatters(black, (sqrt(1 - 0.01), 0.0, 0.1), (-0.8, 0.0, 0.6))
    assert rim[1] == pytest.approx(rim[0] / 2, rel=1e-4) and rim[2] == 0.0
    assert np.isfinite(rim).all()
