"""What signals do to copies: move, resize, turn and tilt them, keep some, and give them attributes."""

from dataclasses import replace

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Cost, derived
from texallon.core.document.array import CopyChange
from texallon.core.geometry.copies import Copies, place_chances, tilted, turned
from texallon.core.geometry.mesh import Floats
from texallon.core.geometry.values_on_mesh import as_number
from texallon.core.kernel import Array
from texallon.core.ops.points import Matrix

OF_BODY = 0x600D
"""Keeps the chance by which bodies are chosen apart from others'."""

LEAST_SIZE = 1e-6
"""Copies that are made smaller are left out."""


@derived("changed copies", cost=Cost.INSTANT)
def changed_copies(
    copies: Copies, changes: tuple[CopyChange, ...], values: tuple[Array, ...], bodies: int = 1
) -> Copies:
    """Copies after what signals do to them, one after the other; each reads its signal where the copy stood at first.

    Parameters
    ----------
    copies : Copies
        In some space.
    changes : tuple of CopyChange
        In their order.
    values : tuple of Array
        Of the signal of each, `(width, k)`; numbers that are none count as 0.
    bodies : int
        That there are to choose from.
    """
    made = copies.frames.copy()
    carried = dict(copies.attributes)
    kept = np.ones(len(made), np.bool_)
    body = _by_chance(copies, bodies)
    for number, (change, found) in enumerate(zip(changes, values, strict=True)):
        clean = np.nan_to_num(found, nan=0.0, posinf=0.0, neginf=0.0)
        value = as_number(clean).astype(np.float64)
        if change.does == "carry":
            carried[change.name] = np.ascontiguousarray(clean[:4].T, np.float32)
        elif change.does == "keep":
            chance = np.empty((len(made), 4), np.float32)
            place_chances(np.ascontiguousarray(copies.frames[:, :3, 3], np.float32).view(np.int32), number, chance)
            kept &= chance[:, 0] < value
        elif change.does == "choose":
            body = np.clip(np.floor(value * bodies), 0, bodies - 1).astype(np.int32)
        elif change.does == "move":
            made[:, :3, 3] += np.einsum("kij,kj->ki", made[:, :3, :3], value[:, None] * np.array(change.by))
        elif change.does == "resize":
            size = 1 + value * (change.amount - 1)
            kept &= size > LEAST_SIZE
            made[:, :3, :3] *= size[:, None, None]
        else:
            angle = np.radians(change.amount) * value
            turn = turned(angle) if change.does == "turn" else tilted(angle)
            made[:, :3, :3] = made[:, :3, :3] @ turn[:, :3, :3]
    uv = None if copies.uv is None else copies.uv[kept]
    return replace(
        copies,
        frames=made[kept],
        numbers=copies.numbers[kept],
        uv=uv,
        attributes={n: v[kept] for n, v in carried.items()},
        body=body[kept],
    )


def _by_chance(copies: Copies, bodies: int) -> npt.NDArray[np.int32]:
    """Bodies, each as likely, by the places of the copies: what becomes of one changes no other."""
    chance = np.empty((len(copies.frames), 4), np.float32)
    places = np.ascontiguousarray(copies.frames[:, :3, 3], np.float32)
    place_chances(places.view(np.int32), OF_BODY, chance)
    return np.minimum((chance[:, 0] * bodies).astype(np.int32), bodies - 1)


@derived("placed copies", cost=Cost.INSTANT)
def placed_copies(copies: Copies, space: Matrix, own: Matrix) -> Floats:
    """Matrices of copies into the world, `(k, 3, 4)`.

    Parameters
    ----------
    copies : Copies
        In some space.
    space : Matrix
        `(4, 4)` from there into the world.
    own : Matrix
        `(4, 4)` of the object within its copy.
    """
    return np.ascontiguousarray((space @ copies.frames @ own)[:, :3], np.float32)
