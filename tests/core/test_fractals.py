"""Fractal noises against plain versions of their published descriptions, and what evolution, distortion and seeds promise."""

from collections.abc import Callable

import numpy as np
import pytest

from tests.builders import run, step
from texallon.core.kernel import allocating
from texallon.core.ops.lattice import gradient_noise, lattice_keys

KINDS = ("noise", "billow", "ridged", "hybrid")


def points(count: int = 4000, reach: float = 5.0, seed: int = 3) -> np.ndarray:
    return np.random.default_rng(seed).uniform(-reach, reach, (3, count)).astype(np.float32)


def values(kind: str, position: np.ndarray, frame: float | None = None, **params: object) -> np.ndarray:
    return run(step(kind, **({"size": 1.0} | params)), data={"position": position}, frame=frame)


@allocating
def octaves_of(p: np.ndarray, count: int, lacunarity: float, seed: int) -> np.ndarray:
    """Each octave of gradient noise by itself `(count, n)`, one point after the other."""
    out = np.empty((count, p.shape[1]))
    for octave in range(count):
        kx, ky, kz = lattice_keys(np.uint32(seed), octave, 0)
        f = lacunarity**octave
        for i in range(p.shape[1]):
            out[octave, i] = gradient_noise(p[0, i] * f, p[1, i] * f, p[2, i] * f, kx, ky, kz)
    return out


@pytest.mark.parametrize("gain", [0.35, 0.5, 0.8])
def test_fbm_is_the_weighted_sum_of_its_octaves(gain: float) -> None:
    # Ebert et al., Texturing and Modeling: fBm(p) = Σ noise(p · lacunarityⁱ) · gainⁱ; ours divides by Σ gainⁱ.
    p = points()
    weights = gain ** np.arange(5)
    expected = weights @ octaves_of(p, 5, 2.1, 9) / weights.sum()
    ours = values("noise", p, octaves=5, gain=gain, lacunarity=2.1, seed=9, low=-1, high=1)[0]
    assert np.allclose(ours, expected, atol=2e-4)


def test_billow_is_the_sum_of_magnitudes() -> None:
    # K. Perlin, "An Image Synthesizer", SIGGRAPH 1985: turbulence, Σ |noise| · gainⁱ.
    p = points()
    weights = 0.5 ** np.arange(6)
    expected = weights @ np.abs(octaves_of(p, 6, 2.0, 4)) / weights.sum()
    assert np.allclose(values("billow", p, octaves=6, seed=4)[0], expected, atol=2e-4)


@pytest.mark.parametrize(("h", "offset"), [(0.25, 0.7), (1.0, 0.3)])
def test_hybrid_follows_its_published_description(h: float, offset: float) -> None:
    """Ebert et al., HybridMultifractal, in double precision and octave by octave (from memory of the listing)."""
    p = points()
    noise = octaves_of(p, 6, 2.0, 7)
    result = noise[0] + offset
    weight = result.copy()
    for octave in range(1, 6):
        weight = np.minimum(weight, 1.0)
        signal = (noise[octave] + offset) * 2.0 ** (-h * octave)
        result += weight * signal
        weight = weight * signal
    ours = values("hybrid", p, octaves=6, dimension=h, offset=offset, gain=1.0, seed=7)[0]
    assert np.allclose(ours, result, atol=1e-3)


@pytest.mark.parametrize("kind", KINDS)
def test_a_fraction_of_an_octave_fades_the_last_one_in(kind: str) -> None:
    p = points(1500)
    low, high = {"noise": (-1, 1)}.get(kind, (0, 1))
    plain = {"low": low, "high": high, "gain": 1.0} if kind in ("noise", "billow") else {}
    three, half, four = (values(kind, p, octaves=count, **plain)[0] for count in (3.0, 3.5, 4.0))
    if kind in ("noise", "billow"):  # these are divided by the sum of strengths: 3, 3.5 and 4
        three, half, four = three * 3, half * 3.5, four * 4
    assert np.allclose(half, (three + four) / 2, atol=1e-4)
    assert not np.allclose(three, four, atol=1e-2)


@pytest.mark.parametrize("h", [0.5, 1.0])
def test_the_spectrum_falls_as_the_exponent_says(h: float) -> None:
    # Ebert et al.: octave strengths fall as frequency^−H, so the power per octave falls by 2^(−2H).
    x = np.linspace(0, 64, 2**14, endpoint=False)
    line = np.stack([x, np.full_like(x, 0.37), np.full_like(x, 1.71)]).astype(np.float32)
    power = np.zeros(2**13 + 1)
    for seed in range(12):
        signal = values("noise", line, octaves=7, gain=2.0**-h, seed=seed, low=-1, high=1)[0]
        power += np.abs(np.fft.rfft(signal - signal.mean())) ** 2
    frequency = np.fft.rfftfreq(len(x), 64 / 2**14)
    octave = [power[(frequency >= 2.0**k) & (frequency < 2.0 ** (k + 1))].sum() for k in range(5)]
    slope = np.polyfit(np.arange(5), np.log2(octave), 1)[0]
    assert slope == pytest.approx(-2 * h, abs=0.1)


@pytest.mark.parametrize("kind", [*KINDS, "cellular"])
def test_evolution_changes_the_pattern_in_place_and_without_a_jump(kind: str) -> None:
    p = points(6000)
    at = [values(kind, p, evolution=e)[0] for e in (0.0, 1e-3, 1.0 - 1e-4, 1.0, 3.0)]
    # A cell's border moves, so single points may change owner; nearly all values move by little.
    still = np.abs(at[1] - at[0]) < 0.02
    assert still.mean() > 0.999
    assert (np.abs(at[3] - at[2]) < 0.02).mean() > 0.999
    assert abs(np.corrcoef(at[0], at[4])[0, 1]) < 0.25, "and later it is another pattern"
    assert at[4].mean() == pytest.approx(at[0].mean(), abs=0.05)
    assert at[4].std() == pytest.approx(at[0].std(), rel=0.15)


@pytest.mark.parametrize("kind", [*KINDS, "cellular"])
def test_speed_is_evolution_per_second(kind: str) -> None:
    p = points(500)
    frames = {"frames": {"first": 1, "last": 48, "rate": 24}}
    moving = run(step(kind, size=1.0, speed=0.5), data={"position": p}, frame=37, **frames)
    assert np.allclose(moving, values(kind, p, evolution=0.75), atol=1e-6), "a second and a half at half a unit"


def test_a_pattern_keeps_its_contrast_while_it_evolves() -> None:
    p = points(30_000)
    spread = [values("noise", p, octaves=1, evolution=e, low=-1, high=1)[0].std() for e in np.linspace(0, 1, 9)]
    assert max(spread) / min(spread) < 1.12


@pytest.mark.parametrize("kind", KINDS)
def test_colour_output_is_three_unrelated_fields(kind: str) -> None:
    fields = values(kind, points(30_000, 30), fields="colour", octaves=2)
    assert fields.shape[0] == 3
    assert np.abs(np.corrcoef(fields) - np.eye(3)).max() < 0.03
    assert np.array_equal(fields[0], values(kind, points(30_000, 30), octaves=2)[0]), "the first is the plain one"


def test_distortion_moves_the_lookup_by_noise() -> None:
    p = points(2000)
    plain = values("noise", p)
    assert not np.allclose(values("noise", p, distortion=0.4), plain, atol=0.02)
    near = values("noise", p, distortion=1e-4)
    assert np.abs(near - plain).max() < 0.01, "a little of it changes little"


def test_value_noise_takes_its_random_numbers_at_lattice_points() -> None:
    lattice = np.random.default_rng(5).integers(-200, 200, (3, 20_000)).astype(np.float32)
    at = values("noise", lattice, basis="value", octaves=1, low=-1, high=1)[0]
    assert np.histogram(at, 10, (-1, 1))[0].min() > 1700, "even over −1…1"
    middle = values("noise", lattice + np.float32(0.5), basis="value", octaves=1, low=-1, high=1)[0]
    assert middle.std() < 0.6 * at.std(), "and between them their mean"


@pytest.mark.parametrize("kind", KINDS)
def test_axes_scale_apart(kind: str) -> None:
    p = points(1500)
    stretched = values(kind, p, scale=[1, 2, 4])
    assert np.allclose(stretched, values(kind, p / np.float32([[1], [2], [4]])), atol=1e-4)


@pytest.mark.parametrize(("kind", "limit"), [("noise", 0.5), ("billow", 0.212), ("ridged", None), ("hybrid", None)])
def test_what_is_too_fine_to_see_becomes_its_mean(kind: str, limit: float | None) -> None:
    p = points(30_000, 30)
    far = run(step(kind, size=0.1), data={"position": p, "footprint": np.full((1, 30_000), 1.0)})[0]
    assert np.ptp(far) < 1e-3, "no grain is left"
    near = values(kind, p, size=0.1)[0]
    assert far.mean() == pytest.approx(near.mean(), abs=0.25 * float(near.std()))
    if limit is not None:
        assert far.mean() == pytest.approx(limit, abs=0.01)


@pytest.mark.parametrize("scale", [1.0, 3.0])
@pytest.mark.parametrize("kind", [*KINDS, "cellular"])
def test_a_row_of_shifted_seeds_gives_unrelated_fields(kind: str, scale: float) -> None:
    p = points(20_000, 20)
    together = np.corrcoef([values(kind, p, seed=seed, size=scale)[0] for seed in (0, 1, 2)])
    assert np.abs(together - np.eye(3)).max() < 0.06


def seed_of(measure: Callable[[np.ndarray], float]) -> list[float]:
    return [measure(values("noise", points(20_000), seed=seed)[0]) for seed in range(6)]


def test_statistics_hold_for_every_seed_of_a_fractal() -> None:
    assert np.ptp(seed_of(np.mean)) < 0.02
    assert np.ptp(seed_of(np.std)) < 0.02
