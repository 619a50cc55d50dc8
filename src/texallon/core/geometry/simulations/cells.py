"""Cells that divide and press each other apart."""

import numpy as np
import numpy.typing as npt
from scipy.spatial import cKDTree

from texallon.core.document.simulation import Cells
from texallon.core.geometry.mesh import Mesh, make_points
from texallon.core.geometry.simulations.chances import chances

Doubles = npt.NDArray[np.float64]

PARTING = 0.35
"""Share of a cell's life in which it comes away from her sister."""

ROUNDS = 24
"""Times that cells are pressed apart; each takes the like of half of an overlap."""

NEWBORN = 0.5 ** (1 / 3)
"""Radius of a daughter, as a share of her mother's: half the volume."""


def make_cells(cells: Cells) -> Mesh:
    """All cells there are at the moment, as points.

    Parameters
    ----------
    cells : Cells
        At their moment; before it there is one.
    """
    found = _lineage(cells)
    at = _pressed(found, cells.flat)
    if cells.flat:
        at[:, 1] = found["radius"]
    return make_points(
        at,
        {
            "radius": found["radius"],
            "age": found["age"],
            "generation": found["generation"],
            "strain": found["strain"],
            "number": found["number"] % 2**20,
        },
    )


def _lineage(cells: Cells) -> dict[str, Doubles]:
    """Cells in the order of their numbers, each placed by the steps of all her mothers; `sister`, 0…1, how far she is from her sister."""
    now = max(cells.seconds, 0.0)
    number = np.array([1], np.int64)  # a daughter's number is twice her mother's, or one more: it is never given twice
    born, strain = np.zeros(1), chances(number, 3, cells.seed)[:, 0].astype(np.float64)
    place = np.zeros((1, 3))
    kept: list[dict[str, Doubles]] = []
    for generation in range(cells.divisions + 1):
        luck = chances(number, 0, cells.seed).astype(np.float64)
        lasts = cells.divides * (1 + cells.uneven * (2 * luck[:, 0] - 1))
        ends = born + lasts if generation < cells.divisions else np.full(len(number), np.inf)
        age = now - born
        here = ends > now
        grown = np.clip(age[here] / lasts[here], 0, 1)
        first = 1.0 if generation == 0 else NEWBORN
        kept.append(
            {
                "number": number[here].astype(np.float64),
                "age": age[here],
                "generation": np.full(here.sum(), float(generation)),
                "strain": strain[here],
                "radius": cells.radius * (first**3 + (1 - first**3) * grown) ** (1 / 3),
                "place": place[here],
                "sister": _eased(age[here] / (PARTING * lasts[here])) if generation else np.ones(here.sum()),
            }
        )
        mothers = ~here
        if not mothers.any():
            break
        number, born, strain, place = _daughters(
            cells, number[mothers], ends[mothers], strain[mothers], place[mothers], now
        )
    whole = {name: np.concatenate([each[name] for each in kept]) for name in kept[0]}
    order = np.argsort(whole["number"], kind="stable")
    return {name: values[order] for name, values in whole.items()}


def _daughters(
    cells: Cells, number: npt.NDArray[np.int64], ends: Doubles, strain: Doubles, place: Doubles, now: float
) -> tuple[npt.NDArray[np.int64], Doubles, Doubles, Doubles]:
    """Numbers, beginnings, strains and places of the two daughters of each."""
    chance = chances(number, 1, cells.seed).astype(np.float64)
    up = np.zeros(len(number)) if cells.flat else 2 * chance[:, 0] - 1
    turn = 2 * np.pi * chance[:, 1]
    level = np.sqrt(1 - up**2)
    axis = np.stack([level * np.cos(turn), up, level * np.sin(turn)], axis=1)
    since = now - ends
    # The ball swells with the number of cells, as volume (or a layer's area) asks, until they divide no more.
    swells = 2 ** (
        np.maximum(min(now, cells.divisions * cells.divides) - ends, 0) / cells.divides / (2 if cells.flat else 3)
    )
    step = axis * (cells.radius * NEWBORN * _eased(since / (PARTING * cells.divides)) * swells)[:, None]
    both = np.stack([number * 2, number * 2 + 1], axis=1).ravel()
    strays = (chances(both, 2, cells.seed)[:, 0].astype(np.float64) * 2 - 1) * cells.strays
    mixed = np.repeat(strain, 2) + strays
    mixed = 1 - np.abs(1 - np.abs(mixed))  # from an end of 0…1 it comes back
    at = np.stack([place - step, place + step], axis=1).reshape(-1, 3)
    return both, np.repeat(ends, 2), mixed, at


def _eased(share: Doubles) -> Doubles:
    held = np.clip(share, 0, 1)
    eased: Doubles = held * held * (3 - 2 * held)
    return eased


def _ball(radius: Doubles, flat: bool) -> float:
    """How far from the middle cells lie, as the root of the mean square, that fill a ball (or a disc) as densely as round things by chance do."""
    if flat:
        return float(np.sqrt((radius**2).sum() / 0.8 / 2))
    return float(((radius**3).sum() / 0.62) ** (1 / 3) * np.sqrt(0.6))


def _pressed(found: dict[str, Doubles], flat: bool) -> Doubles:
    """Places at which cells hardly overlap: each pair is pushed apart by half of what is too near, all at once, some times over."""
    radius, sister, number = found["radius"], found["sister"], found["number"]
    at: Doubles = found["place"] - found["place"].mean(axis=0)
    if len(at) < 2:
        return at
    at *= min(_ball(radius, flat) / max(float(np.sqrt((at**2).sum(axis=1).mean())), 1e-12), 1.0)
    # Two sisters in one place push like their mother: each half as hard as she will, and as wide as their mother was.
    weight = 0.5 + 0.5 * sister
    wide = radius * (1 + (1 / NEWBORN - 1) * (1 - sister))
    reach = 2 * float(wide.max())
    for _ in range(ROUNDS):
        pairs = cKDTree(at).query_pairs(reach, output_type="ndarray")
        if not len(pairs):
            break
        pairs = pairs[np.lexsort((pairs[:, 1], pairs[:, 0]))]  # in one order, or sums would differ in their last digit
        a, b = pairs[:, 0], pairs[:, 1]
        way = at[b] - at[a]
        if flat:
            way[:, 1] = 0
        apart = np.linalg.norm(way, axis=1)
        sisters = number[a] // 2 == number[b] // 2
        wanted = np.where(sisters, (radius[a] + radius[b]) * np.minimum(sister[a], sister[b]), wide[a] + wide[b])
        near = (wanted > apart) & (apart > 1e-9)
        a, b = a[near], b[near]
        push = way[near] * ((wanted[near] - apart[near]) / apart[near] * 0.25)[:, None]
        moved = np.zeros_like(at)
        np.add.at(moved, a, -push * weight[b][:, None])
        np.add.at(moved, b, push * weight[a][:, None])
        at += moved
    return at
