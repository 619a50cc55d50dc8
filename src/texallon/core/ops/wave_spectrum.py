"""Waves that the wind raises on water: how much energy each wave has, by published spectra, and the amplitudes drawn from that."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.derived import derived
from texallon.core.kernel import allocating
from texallon.core.random_numbers import uniform4

Doubles = npt.NDArray[np.float64]
Complexes = npt.NDArray[np.complex64]

GRAVITY = 9.81
"""m/s²."""

TENSION = 7.28e-5
"""Surface tension of water at 20 °C by its density, m³/s² (0.0728 N/m, handbook value)."""

PEAKEDNESS = 3.3
"""Of growing seas (JONSWAP)."""

MOST_TURNS = 64.0
"""Of the exponent by which waves keep to the wind."""


class Sea(NamedTuple):
    """What is known of waves.

    Attributes
    ----------
    wind : float
        Metres per second at ten metres.
    direction : float
        Degrees from the x axis towards z, into which it blows.
    fetch : float
        Metres over which it has blown; of a fully grown sea 0.
    depth : float
        Metres of water.
    spread : float
        0 where all waves go with the wind, 1 where they go all ways.
    size : float
        Metres of a patch, after which waves repeat.
    across : int
        Cells of a patch.
    loop : float
        Seconds after which everything is as it was; 0 for never.
    seed : int
        Of the random numbers.
    """

    wind: float
    direction: float
    fetch: float
    depth: float
    spread: float
    size: float
    across: int
    loop: float
    seed: int


class Modes(NamedTuple):
    """The waves of a patch, as half of the coefficients of a Fourier transform, which real heights have the other half from.

    Attributes
    ----------
    even, odd : Complexes
        `(n, n // 2 + 1)` metres: a wave with the conjugate of its opposite added, and taken away and multiplied by i. At a time the transform is
        `even · cos ωt − odd · sin ωt`.
    omega : Doubles
        `(n, n // 2 + 1)` 1/s.
    factors : Complexes
        `(5, n, n // 2 + 1)` what makes of heights the ways sideways along x and z, and the derivatives of these: of x along x, of z along z, of
        x along z.
    """

    even: Complexes
    odd: Complexes
    omega: Doubles
    factors: Complexes


def angular_frequency(k: Doubles, depth: float) -> Doubles:
    """Of waves of a wave number, 1/s: gravity and surface tension over water of a depth.

    Parameters
    ----------
    k : Doubles
        1/m.
    depth : float
        Metres.

    References
    ----------
    H. Lamb, Hydrodynamics (1932), 229 and 267.
    """
    found: Doubles = np.sqrt((GRAVITY * k + TENSION * k**3) * np.tanh(np.minimum(k * depth, 50.0)))
    return found


def group_velocity(k: Doubles, depth: float) -> Doubles:
    """How the angular frequency grows with the wave number, m/s.

    Parameters
    ----------
    k : Doubles
        1/m.
    depth : float
        Metres.
    """
    kd = np.minimum(k * depth, 50.0)
    still = np.tanh(kd)
    pull = GRAVITY * k + TENSION * k**3
    changed = (GRAVITY + 3 * TENSION * k**2) * still + pull * depth / np.cosh(kd) ** 2
    found: Doubles = changed / (2 * np.maximum(angular_frequency(k, depth), 1e-12))
    return found


def peak_frequency(wind: float, fetch: float) -> float:
    """The angular frequency with the most energy, 1/s.

    Parameters
    ----------
    wind : float
        Metres per second.
    fetch : float
        Metres; 0 for a fully grown sea.
    """
    grown = 0.855 * GRAVITY / wind
    if fetch == 0:
        return grown
    return float(max(22.0 * (GRAVITY**2 / (wind * fetch)) ** (1 / 3), grown))


def energy(omega: Doubles, wind: float, fetch: float, depth: float) -> Doubles:
    """Energy by angular frequency, m² s.

    Parameters
    ----------
    omega : Doubles
        1/s.
    wind : float
        Metres per second.
    fetch : float
        Metres; 0 for a fully grown sea.
    depth : float
        Metres.

    References
    ----------
    K. Hasselmann et al., "Measurements of wind-wave growth and swell decay during JONSWAP", 1973; W. Pierson, L. Moskowitz, "A proposed spectral
    form for fully developed wind seas", 1964; E. Bouws et al., "Similarity of the wind wave spectrum in finite depth water" (TMA), 1985.
    """
    if wind <= 0:
        return np.zeros_like(omega)
    peak = peak_frequency(wind, fetch)
    w = np.maximum(omega, 1e-9)
    if fetch == 0:
        # Pierson and Moskowitz, whose wind was measured at 19.5 m: 1.026 of that at 10 m.
        made = 0.0081 * GRAVITY**2 / w**5 * np.exp(-0.74 * (GRAVITY / (1.026 * wind * w)) ** 4)
    else:
        steepness = 0.076 * (wind**2 / (fetch * GRAVITY)) ** 0.22
        width = np.where(w <= peak, 0.07, 0.09)
        bulge = PEAKEDNESS ** np.exp(-((w - peak) ** 2) / (2 * width**2 * peak**2))
        made = steepness * GRAVITY**2 / w**5 * np.exp(-1.25 * (peak / w) ** 4) * bulge
    found: Doubles = np.where(omega > 0, made * _shallow(w * np.sqrt(depth / GRAVITY)), 0.0)
    return found


def _shallow(scaled: Doubles) -> Doubles:
    """What is left of a spectrum over water of some depth (S. Kitaigorodskii, V. Krasitskii, M. Zaslavskii, 1975, as approximated by Thompson and Vincent 1983)."""
    low = 0.5 * scaled**2
    high = 1 - 0.5 * (2 - scaled) ** 2
    found: Doubles = np.where(scaled <= 1, low, np.where(scaled < 2, high, 1.0))
    return found


def directions(angle: Doubles, spread: float) -> Doubles:
    """The share of the energy by angle from the wind, 1/rad: cos²ˢ of half the angle (M. Longuet-Higgins et al., 1963).

    Parameters
    ----------
    angle : Doubles
        Radians.
    spread : float
        0…1.
    """
    power = MOST_TURNS ** (1 - spread) - 1  # 63 at 0, 0 at 1
    fine = np.linspace(-np.pi, np.pi, 4097)[:-1]
    total = float((np.cos(fine / 2) ** 2).__pow__(power).mean()) * 2 * np.pi
    found: Doubles = (np.cos(angle / 2) ** 2) ** power / total
    return found


@allocating
def _gaussians(across: int, seed: int, out: Doubles) -> None:
    """Two numbers of the normal distribution for each mode, that stay with it whatever the number of cells."""
    for j in range(across):
        for i in range(across):
            a = i if i < across // 2 else i - across
            b = j if j < across // 2 else j - across
            u, v, _, _ = uniform4(np.uint32(a + 65536), np.uint32(b + 65536), np.uint32(7), np.uint32(seed))
            radius = np.sqrt(-2.0 * np.log(max(1.0 - u, 1e-12)))
            out[j, i, 0] = radius * np.cos(2 * np.pi * v)
            out[j, i, 1] = radius * np.sin(2 * np.pi * v)


@derived("waves of a patch")
def wave_modes(sea: Sea) -> Modes:
    """The waves of a patch.

    Parameters
    ----------
    sea : Sea
        What is known of them.

    References
    ----------
    J. Tessendorf, "Simulating Ocean Water", SIGGRAPH course notes 2001.
    """
    n, step = sea.across, 2 * np.pi / sea.size
    number: Doubles = np.fft.fftfreq(n, 1 / n).astype(np.float64)
    kx, kz = number[None, :] * step, number[:, None] * step
    k: Doubles = np.hypot(kx, kz)
    omega: Doubles = angular_frequency(k, sea.depth)
    angle = np.arctan2(kz, kx) - np.radians(sea.direction)
    per_mode = energy(omega, sea.wind, sea.fetch, sea.depth) * group_velocity(k, sea.depth) / np.maximum(k, 1e-12)
    variance = per_mode * directions(angle, sea.spread) * step**2
    variance[0, 0] = 0.0
    # What has no partner with the opposite sign can't travel.
    variance[n // 2, :] = 0.0
    variance[:, n // 2] = 0.0
    chance = np.empty((n, n, 2))
    _gaussians(n, sea.seed, chance)
    # The sum of a wave and its conjugate has half of the variance of both together.
    amplitude = (chance[..., 0] + 1j * chance[..., 1]) * np.sqrt(variance / 4)
    if sea.loop > 0:
        base = 2 * np.pi / sea.loop
        omega = np.round(omega / base) * base
    half = slice(0, n // 2 + 1)
    opposite = np.conj(np.roll(amplitude[::-1, ::-1], (1, 1), (0, 1)))
    towards = 1 / np.maximum(k, 1e-12)
    by = [1j * kx * towards, 1j * kz * towards, -kx * kx * towards, -kz * kz * towards, -kx * kz * towards]
    return Modes(
        (amplitude + opposite)[:, half].astype(np.complex64),
        (1j * (amplitude - opposite))[:, half].astype(np.complex64),
        np.ascontiguousarray(omega[:, half]),
        np.stack([each[:, half] for each in by]).astype(np.complex64),
    )
