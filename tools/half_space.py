"""How much light a half space of scattering gives back, by adding and doubling; prints the table of `core/shade/half_space.py`.

Layers are doubled from a thin one until nothing changes (H. C. van de Hulst, *Multiple Light Scattering*, 1980, chapter 4; the phase
function of Henyey and Greenstein by its Legendre series, even in azimuth, as light comes from all sides alike). Run
`python -m tools.half_space`, seconds.
"""

import numpy as np
from numpy.polynomial.legendre import leggauss, legval
from scipy.optimize import brentq

from texallon.core.shade.half_space import COLOURS, FORWARDS

ORDER = 24
"""Directions in each hemisphere."""

_nodes, _weights = leggauss(ORDER)
MU, WEIGHT = (_nodes + 1) / 2, _weights / 2
FLOW = 2 * MU * WEIGHT
TERMS = 2 * ORDER
BASIS = np.array([[legval(x, np.eye(TERMS)[n]) for x in MU] for n in range(TERMS)])


def phase(g: float) -> tuple[np.ndarray, np.ndarray]:
    """Chance of scattering from one direction into others of the same hemisphere and of the other, even in azimuth."""
    strength = (2 * np.arange(TERMS) + 1) * float(g) ** np.arange(TERMS)
    sign = (-1.0) ** np.arange(TERMS)
    same = np.einsum("n,ni,nj->ij", strength, BASIS, BASIS)
    other = np.einsum("n,ni,nj->ij", strength * sign, BASIS, BASIS)
    # What the short series loses of the total is given back, so that nothing is absorbed by it.
    total = 0.5 * ((same + other) @ WEIGHT)
    return same / total[:, None], other / total[:, None]


def given_back(albedo: float, g: float) -> float:
    """Share of diffuse light that a half space of single scattering albedo `albedo` gives back."""
    same, other = phase(g)
    thin = 2.0**-22
    # Intensities: R[i, j] from direction j into i, as flux operators on intensities with weights.
    reflect = 0.5 * albedo * thin * other * WEIGHT[None, :] / MU[:, None]
    through = np.eye(ORDER) * (1 - thin / MU)[:, None] + 0.5 * albedo * thin * same * WEIGHT[None, :] / MU[:, None]
    for _ in range(60):
        between = np.linalg.inv(np.eye(ORDER) - reflect @ reflect)
        new = reflect + through @ reflect @ between @ through
        through = through @ between @ through
        change = np.abs(new - reflect).max()
        reflect = new
        if change < 1e-10 and _ > 24:
            break
    return float((FLOW * (reflect @ np.ones(ORDER))).sum())


def albedo_for(colour: float, g: float) -> float:
    """The single scattering albedo whose half space gives back `colour`."""
    return float(brentq(lambda a: given_back(a, g) - colour, 1e-4, 1 - 1e-7, xtol=1e-7))


def similar(albedo: float, g: float) -> float:
    """Van de Hulst's similarity parameter s."""
    return float(np.sqrt((1 - albedo) / (1 - albedo * g)))


if __name__ == "__main__":
    for g in FORWARDS:
        row = []
        for colour in COLOURS:
            edge = colour in (0.0, 1.0)
            row.append(1.0 - colour if edge else similar(albedo_for(colour, g), g))
        print("    (" + ", ".join(f"{s:.5f}" for s in row) + "),")
