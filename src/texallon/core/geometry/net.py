"""Faces of three or four corners with their sides, and what becomes of both when each face is divided in its middle.

A triangle repeats its last corner. Dividing keeps points first, then comes one for each side, then one for each face.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

Numbers = npt.NDArray[np.int64]
Floats = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]

BENT = 30.0
"""Degrees by which two triangles may be bent against each other and still be one quad that a file has divided."""


def distinct_sides(faces: Numbers) -> tuple[Numbers, Numbers]:
    """The distinct sides `(e, 2)` of faces `(f, k)`, and for each side of each face, one after the other, its number.

    Parameters
    ----------
    faces : Integers
        `(f, k)` numbers of points.
    """
    after = np.roll(faces, -1, axis=1)
    low, high = np.minimum(faces, after).ravel(), np.maximum(faces, after).ravel()
    base = int(faces.max(initial=0)) + 1
    code, number = np.unique(low * base + high, return_inverse=True)
    return np.stack([code // base, code % base], axis=1), number.reshape(-1)


@dataclass(frozen=True)
class Net:
    """How faces hang together.

    Attributes
    ----------
    faces : Integers
        `(f, 4)` numbers of points.
    ends : Integers
        `(e, 2)` of each side.
    side : Integers
        `(f, 4)` the side from each corner to the next; that of a repeated corner means nothing.
    count : int
        How many points there are.
    """

    faces: Numbers
    ends: Numbers
    side: Numbers
    count: int

    @staticmethod
    def of(faces: Numbers, count: int) -> "Net":
        """The net of faces `(f, 4)` of some points.

        Parameters
        ----------
        faces : Integers
            `(f, 4)`.
        count : int
            Of points.
        """
        ends, number = distinct_sides(faces)
        real = ends[:, 0] != ends[:, 1]
        again = np.cumsum(real) - 1
        return Net(faces, ends[real], again[number].reshape(-1, 4), count)

    @cached_property
    def triangle(self) -> Flags:
        """Which faces have three corners, `(f,)`."""
        same: Flags = self.faces[:, 2] == self.faces[:, 3]
        return same

    @cached_property
    def corner(self) -> Flags:
        """Which of their corners are real, `(f, 4)`."""
        real = np.ones(self.faces.shape, bool)
        real[self.triangle, 3] = False
        return real

    @property
    def sides(self) -> Numbers:
        """How many each face has, `(f,)`."""
        return np.where(self.triangle, 3, 4)

    @cached_property
    def next_side(self) -> Numbers:
        """The side that leads on from each corner, `(f, 4)`."""
        after = self.side.copy()
        after[self.triangle, 2] = self.side[self.triangle, 3]
        return after

    @cached_property
    def last_side(self) -> Numbers:
        """The side that leads to each corner, `(f, 4)`."""
        before = np.roll(self.side, 1, axis=1)
        return before

    def centres(self, values: Floats) -> Floats:
        """The mean over the corners of each face, `(f, w)`.

        Parameters
        ----------
        values : Floats
            `(count, w)`.
        """
        total = values[self.faces[:, 0]] + values[self.faces[:, 1]] + values[self.faces[:, 2]]
        fourth = np.where(self.triangle[:, None], 0, values[self.faces[:, 3]])
        mean: Floats = (total + fourth) / self.sides[:, None]
        return mean

    def middles(self, values: Floats) -> Floats:
        """The mean over the ends of each side, `(e, w)`.

        Parameters
        ----------
        values : Floats
            `(count, w)`.
        """
        mean: Floats = (values[self.ends[:, 0]] + values[self.ends[:, 1]]) / 2
        return mean

    def interpolated(self, values: Floats) -> Floats:
        """Values at the points of the divided net.

        Parameters
        ----------
        values : Floats
            `(count, w)`.
        """
        return np.concatenate([values, self.middles(values), self.centres(values)])

    def divided(self) -> "Net":
        """Each face in as many as it has corners."""
        sides, faces = len(self.ends), len(self.faces)
        point_of_side, centre = self.count + np.arange(sides), self.count + sides + np.arange(faces)
        inner = np.zeros(
            self.faces.shape, np.int64
        )  # from the middle of the side that leads on from a corner to the centre
        inner[self.corner] = 2 * sides + np.arange(int(self.corner.sum()))
        inner_before = np.roll(inner, 1, axis=1)
        inner_before[self.triangle, 0] = inner[self.triangle, 2]
        after, before, at = self.next_side, self.last_side, self.faces
        made = np.stack(
            [at, point_of_side[after], np.broadcast_to(centre[:, None], at.shape), point_of_side[before]], axis=2
        )
        half_after = 2 * after + (self.ends[after, 0] != at)
        half_before = 2 * before + (self.ends[before, 0] != at)
        side = np.stack([half_after, inner, inner_before, half_before], axis=2)
        halves = np.stack([self.ends, np.broadcast_to(point_of_side[:, None], self.ends.shape)], axis=2).reshape(-1, 2)
        spokes = np.stack([point_of_side[after], np.broadcast_to(centre[:, None], at.shape)], axis=2)[self.corner]
        total = self.count + sides + faces
        return Net(made[self.corner], np.concatenate([halves, spokes]), side[self.corner], total)


def as_quads(corners: Numbers, one: Numbers, places: Floats) -> tuple[Numbers, Numbers]:
    """Triangles as faces of four corners: those that follow each other, share a side and are hardly bent become one; the others repeat a corner.

    Files and bodies divide quads in this order. Triangles without area are left out.

    Parameters
    ----------
    corners : Integers
        `(f, 3)` numbers of points.
    one : Integers
        `(v,)` the place of each point.
    places : Floats
        `(p, 3)`.

    Returns
    -------
    faces : Integers
        `(q, 4)`.
    of_face : Integers
        `(q,)` the number of the (first) triangle.
    """
    at = one[corners]
    whole = np.flatnonzero((at[:, 0] != at[:, 1]) & (at[:, 1] != at[:, 2]) & (at[:, 2] != at[:, 0]))
    corners = corners[whole]
    count = len(corners)
    a, b = corners[:-1], corners[1:]
    made = np.zeros((len(a), 4), np.int64)
    fits = np.zeros(len(a), bool)
    for turn in range(3):
        p, q, r = (a[:, (turn + k) % 3] for k in range(3))
        for other in range(3):
            # The side from q to r of the one leads from r to q in the other.
            here = (b[:, other] == r) & (b[:, (other + 1) % 3] == q) & ~fits
            made[here] = np.stack([p, q, b[:, (other + 2) % 3], r], axis=1)[here]
            fits |= here
    first, second, third = (places[one[corners[:, k]]] for k in range(3))
    normals = np.cross(second - first, third - first)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-300)
    fits &= (normals[:-1] * normals[1:]).sum(axis=1) > np.cos(np.radians(BENT))
    fits &= _convex(places[one[made]], normals[:-1])
    # Each triangle goes with one other only: of a run of pairs that fit the first, the third, the fifth …
    number = np.arange(len(fits))
    since = number - np.maximum.accumulate(np.where(~fits, number, -1)) if len(fits) else number
    paired = np.zeros(count, bool)
    paired[:-1] = fits & (since % 2 == 1)
    taken = np.zeros(count, bool)
    taken[1:] = paired[:-1]
    quads = np.concatenate([corners, corners[:, 2:]], axis=1)
    quads[paired] = made[paired[:-1]]
    return quads[~taken], whole[~taken]


def _convex(corners: Floats, normal: Floats) -> Flags:
    turns = []
    for k in range(4):
        here, after, last = corners[:, k], corners[:, (k + 1) % 4], corners[:, (k + 2) % 4]
        turns.append((np.cross(after - here, last - after) * normal).sum(axis=1))
    every: Flags = np.all(np.stack(turns) > 0, axis=0)
    return every
