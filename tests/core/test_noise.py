"""Gradient noise against what its inventor states of it."""

import numpy as np
import pytest

from tests.builders import run, step


def noise(position: np.ndarray, **params: object) -> np.ndarray:
    plain = {"size": 1.0, "octaves": 1, "low": -1.0, "high": 1.0} | params
    return run(step("noise", **plain), data={"position": position})[0]


def points(count: int = 20_000, reach: float = 30.0, seed: int = 1) -> np.ndarray:
    return np.random.default_rng(seed).uniform(-reach, reach, (3, count)).astype(np.float32)


def test_it_is_zero_at_lattice_points() -> None:
    # K. Perlin, "Improving Noise", SIGGRAPH 2002: gradient noise vanishes at whole coordinates.
    lattice = np.random.default_rng(2).integers(-500, 500, (3, 4000)).astype(np.float32)
    assert np.abs(noise(lattice)).max() == 0.0


def test_one_octave_stays_within_one_and_uses_its_range() -> None:
    # The bound of the edge-gradient form, 1.0363538, is from memory; the sampled extreme shows it is tight enough.
    values = noise(points(2_000_000))
    assert np.abs(values).max() <= 1.0
    assert values.max() > 0.85
    assert values.min() < -0.85


@pytest.mark.parametrize("octaves", [1, 4, 8, 16])
def test_a_fractal_sum_stays_within_its_ends(octaves: int) -> None:
    values = noise(points(200_000), octaves=octaves, low=0.0, high=1.0)
    assert values.min() >= 0.0
    assert values.max() <= 1.0


def test_first_and_second_derivative_are_continuous_across_cells() -> None:
    # The quintic fade 6t⁵−15t⁴+10t³ has zero first and second derivative at both ends (Perlin 2002).
    h = 2.0**-7
    rng = np.random.default_rng(3)
    y, z = rng.uniform(-3, 3, (2, 400))
    offsets = np.array([-3, -2, -1, 0, 1, 2, 3]) * h
    values = np.array([noise(np.stack([np.full(400, 5.0 + o), y, z]).astype(np.float32)) for o in offsets], float)
    slope_before, slope_after = (values[3] - values[2]) / h, (values[4] - values[3]) / h
    bend_before = (values[1] - 2 * values[2] + values[3]) / h**2
    bend_after = (values[3] - 2 * values[4] + values[5]) / h**2
    assert np.abs(slope_after - slope_before).max() < 0.15
    assert np.abs(bend_after - bend_before).max() < 3.0


def test_statistics_hold_for_every_seed() -> None:
    sample = points(40_000)
    spread = [noise(sample, seed=seed).std() for seed in range(8)]
    means = [abs(noise(sample, seed=seed).mean()) for seed in range(8)]
    assert max(means) < 0.01
    assert max(spread) / min(spread) < 1.05


def test_seeds_give_unrelated_patterns() -> None:
    sample = points(40_000)
    together = np.corrcoef([noise(sample, seed=seed) for seed in (0, 1, 2, 1000)])
    assert np.abs(together - np.eye(4)).max() < 0.03


def test_an_octave_is_the_same_noise_made_finer() -> None:
    # Fractal sum by its definition (Ebert et al., Texturing and Modeling): Σ gainⁱ noise(lacunarityⁱ p) / Σ gainⁱ.
    sample = points(5000, 8.0)
    two = noise(sample, octaves=2, gain=0.5, lacunarity=2.0)
    first = noise(sample, octaves=1)
    second = two * 1.5 - first
    assert np.abs(second).max() <= 0.5 + 1e-5
    finer = np.round(sample * 2) / 2
    at_half_lattice = noise(finer, octaves=2) * 1.5 - noise(finer, octaves=1)
    assert np.abs(at_half_lattice).max() < 1e-5


def test_larger_features_when_the_size_grows() -> None:
    sample = points(3000)
    assert np.allclose(noise(sample, size=2.0), noise(sample / np.float32(2)), atol=1e-5)
    stretched = noise(sample, scale=[1, 4, 1])
    assert np.allclose(stretched, noise(sample / np.float32([[1], [4], [1]])), atol=1e-5)


def test_octaves_finer_than_the_footprint_fade_out() -> None:
    sample = points(5000)
    data = {"position": sample, "footprint": np.full((1, 5000), 0.6, np.float32)}
    wide = run(step("noise", size=1.0, octaves=8, low=-1, high=1), data=data)
    assert np.abs(wide).max() == 0.0, "half a cycle per sample is the limit of the sampling theorem"
    data["footprint"] = np.full((1, 5000), 0.2, np.float32)
    first = run(step("noise", size=1.0, octaves=1, low=-1, high=1), data=data) / (2 - 2.0**-7)
    some = run(step("noise", size=1.0, octaves=8, low=-1, high=1), data=data)
    assert np.allclose(some - first, 0, atol=0.12)


def test_what_is_no_number_gives_no_number() -> None:
    odd = np.array([[np.nan, np.inf, 1.5], [0.2, 0.2, 0.5], [0.1, 0.1, 0.25]], np.float32)
    values = noise(odd)
    assert np.isnan(values[:2]).all()
    assert np.isfinite(values[2])
