"""A thick liquid that runs apart, cools and grows stiff."""

from collections.abc import Callable
from functools import partial
from itertools import pairwise
from math import exp, log, pi
from typing import NamedTuple

import numpy as np
from numpy.polynomial.legendre import leggauss

from texallon.core.document.simulation import Flow
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.geometry.simulations.chances import chances
from texallon.core.ops.wave_spectrum import GRAVITY

RINGS = 40
STEPS = 80
SPREAD = 0.894
"""Of a volume V on level ground the radius is 0.894 (g V³ / 3ν)^(1/8) t^(1/8): Huppert 1982, equation 2.26."""

OF_A_CENTIMETRE = 0.01
MOST_STIFFER = 60.0
"""Of the logarithm of its viscosity: then it stands still."""

HEAP = 0.6
"""Least radius of what is poured, as a share of the cube root of its volume: it comes as a heap, as high as it is wide."""

WAVES = (2, 3, 5, 7, 11)
"""Lobes around the edge, each kind with a size and a place by chance."""


class Spread(NamedTuple):
    """How a flow lies at a moment: metres of `radius` and of `depth` in the middle, the `volume` that is poured, and how far it is cooled: `heat_lost` is 1
    where a layer as deep as the middle has come to a third."""

    radius: float
    depth: float
    volume: float
    heat_lost: float


def spread_of(flow: Flow) -> Spread:
    """How far it has run and cooled at its moment.

    The thin layer of a viscous liquid on level ground keeps the shape (1 − x²)^(1/3) while it spreads; its eighth power of the radius grows with the cube of the volume
    over the viscosity. Here that viscosity rises as it cools, and the volume while it is poured, evenly mixed.

    Parameters
    ----------
    flow : Flow
        At its moment; before it nothing is poured yet.

    References
    ----------
    H. E. Huppert, "The propagation of two-dimensional and axisymmetric viscous gravity currents over a rigid horizontal surface", J. Fluid Mech. 121 (1982).
    """
    rate = SPREAD**8 * GRAVITY / (3 * flow.viscosity)

    def poured(time: float) -> float:
        return float(flow.volume * (min(max(time / flow.pours, 0.0), 1.0) if flow.pours > 0 else 1.0))

    def reach(volume: float, eighth: float) -> float:
        return max(float(max(eighth, 0.0) ** 0.125), HEAP * float(volume ** (1 / 3)))

    def middle(volume: float, eighth: float) -> float:
        return 4 / 3 * volume / (pi * reach(volume, eighth) ** 2)

    def change(pouring: bool, time: float, state: np.ndarray) -> np.ndarray:
        volume = poured(time)
        if volume <= 0:
            return np.zeros(2)
        eighth, lost = float(state[0]), max(float(state[1]), 0.0)
        colder = (flow.hot - _mean(flow, lost)) / 100
        stiff = exp(min(max(log(flow.stiffens) * colder, -MOST_STIFFER), MOST_STIFFER))
        mixed = lost / time if pouring and time > 0 else 0.0
        cools = OF_A_CENTIMETRE / (flow.cools * middle(volume, eighth))
        return np.array([rate * volume**3 / stiff, cools - mixed])

    end = max(flow.seconds, 0.0)
    state = np.zeros(2)
    # In two pieces: what is poured stops at once, and a step over that would see neither side right.
    for pouring, begin, until in ((True, 0.0, min(end, flow.pours)), (False, flow.pours, end)):
        if until > begin:
            state = _moved(partial(change, pouring), state, begin, until)
    volume = poured(end)
    if volume <= 0:
        volume = 1e-6 * flow.volume  # nothing yet, but a mesh has a size
    eighth = float(state[0])
    return Spread(reach(volume, eighth), middle(volume, eighth), volume, max(float(state[1]), 0.0))


def _moved(
    change: Callable[[float, np.ndarray], np.ndarray], state: np.ndarray, begin: float, until: float
) -> np.ndarray:
    """The state at a later time, by Runge and Kutta's rule; steps begin small, since all changes fastest where a piece begins."""
    share = (np.arange(STEPS + 1) / STEPS) ** 3
    times = (begin + (until - begin) * share).tolist()
    for time, after in pairwise(times):
        step = after - time
        a = change(time, state)
        b = change(time + step / 2, state + step / 2 * a)
        c = change(time + step / 2, state + step / 2 * b)
        d = change(after, state + step * c)
        state = state + step / 6 * (a + 2 * b + 2 * c + d)
    return state


_AT, _WEIGHT = leggauss(48)
_AT, _WEIGHT = (_AT + 1) / 2, _WEIGHT / 2


def _mean(flow: Flow, lost: float) -> float:
    """Kelvins in the mean over all of it: thin parts are colder."""
    u = _AT**3  # of the layer's depth to the power of three, so that its edge is met finely
    share = u ** (1 / 3)
    excess = float((4 / 3 * share * np.exp(-lost / share) * 3 * _AT**2 * _WEIGHT).sum())
    return flow.cold + (flow.hot - flow.cold) * excess


def make_flow(flow: Flow) -> Mesh:
    """Its surface, from the middle to where it meets the ground.

    Parameters
    ----------
    flow : Flow
        At its moment.
    """
    spread = spread_of(flow)
    # Rings lie close where it falls off steeply.
    rim = 1 - (1 - np.linspace(0, 1, RINGS + 1)) ** 2
    angle = np.linspace(0, 2 * np.pi, flow.segments + 1)
    edge = _edge(flow, angle)
    share = (1 - rim**2) ** (1 / 3)
    reach = rim[:, None] * edge[None]
    x, z = reach * np.cos(angle), -reach * np.sin(angle)
    height = np.broadcast_to(spread.depth * share[:, None], x.shape)
    with np.errstate(divide="ignore"):
        excess = np.where(
            share > 0, np.exp(-spread.heat_lost / np.maximum(share, 1e-9)), 0.0 if spread.heat_lost else 1.0
        )
    temperature = flow.cold + (flow.hot - flow.cold) * excess
    points = np.stack([x * spread.radius, height, z * spread.radius], axis=2)
    first = (np.arange(RINGS)[:, None] * (flow.segments + 1) + np.arange(flow.segments)).ravel()
    out, on = first + flow.segments + 1, first + 1
    inner = np.stack([first, out, out + 1], axis=1)
    outer = np.stack([first, out + 1, on], axis=1)[flow.segments :]  # in the middle all of a ring is one point
    grid = (RINGS + 1, flow.segments + 1)
    attributes = {
        "temperature": np.broadcast_to(temperature[:, None], grid).ravel(),
        "depth": height.ravel(),
        "rim": np.broadcast_to(rim[:, None], grid).ravel(),
    }
    uv = np.stack([x, z], axis=2).reshape(-1, 2) * flow.volume ** (1 / 3)
    return make_mesh(
        points.reshape(-1, 3), np.concatenate([inner, outer]), _normals(points).reshape(-1, 3), uv, attributes
    )


def _normals(points: np.ndarray) -> np.ndarray:
    """Unit normals of the grid `(rings, around, 3)`, whose last column is its first."""
    outwards = np.gradient(points, axis=0)
    closed = np.concatenate([points[:, -2:-1], points, points[:, 1:2]], axis=1)
    around = closed[:, 2:] - closed[:, :-2]
    normals = np.cross(outwards, around)
    normals[0] = [0.0, 1.0, 0.0]
    long = np.linalg.norm(normals, axis=2, keepdims=True)
    up: np.ndarray = np.where(long > 0, normals / np.maximum(long, 1e-300), [0.0, 1.0, 0.0])
    return up


def _edge(flow: Flow, angle: np.ndarray) -> np.ndarray:
    """Its edge around, as a factor whose square is 1 in the mean, so that the volume is kept."""
    chance = chances(np.arange(len(WAVES), dtype=np.int64), 0, flow.seed).astype(np.float64)
    made = np.zeros_like(angle)
    for number, count in enumerate(WAVES):
        made += (0.4 + chance[number, 0]) / count**0.5 * np.cos(count * angle + 2 * np.pi * chance[number, 1])
    made = 1 + flow.lobes * made / np.abs(made).max()
    edge: np.ndarray = made / np.sqrt((made[:-1] ** 2).mean())
    return edge
