"""Sums of Chebyshev polynomials of a sparse matrix, applied to numbers at points.

A term needs little arithmetic and much memory, so points are put in an order in which neighbours are near, and a tile of them goes through
all terms while it is in the processor's cache.
"""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.sparse import csr_array
from scipy.sparse.csgraph import reverse_cuthill_mckee

from texallon.core.kernel import Array, Float, Integers, kernel
from texallon.core.motion.bands import bands

Doubles = npt.NDArray[np.float64]

TILE = 1024
"""Points that go on by a term together."""

MOST_ALONE = 10_000
"""Points that one thread is done with before others have begun."""


class NearRows(NamedTuple):
    """A sparse matrix in an order in which what stands in a row is near it.

    Attributes
    ----------
    data, columns, starts
        As `csr_array` keeps them.
    order : Integers
        `(p,)` the point of each row.
    reach : int
        Rows that anything stands away from its own, at most.
    """

    data: Array
    columns: Integers
    starts: Integers
    order: Integers
    reach: int


def near_rows(matrix: csr_array) -> NearRows:
    """A matrix in such an order.

    Parameters
    ----------
    matrix : csr_array
        `(p, p)`; where one point has another, that one has it too.

    References
    ----------
    E. Cuthill, J. McKee, "Reducing the bandwidth of sparse symmetric matrices", Proceedings of the 24th ACM National Conference, 1969.
    """
    order = reverse_cuthill_mckee(matrix, symmetric_mode=True).astype(np.int32)
    near = csr_array(matrix[order][:, order])
    near.sort_indices()
    rows = np.repeat(np.arange(len(order)), np.diff(near.indptr))
    reach = int(np.abs(near.indices - rows).max(initial=0))
    starts = near.indptr.astype(np.int32)
    return NearRows(near.data.astype(np.float32), near.indices.astype(np.int32), starts, order, reach)


@kernel
def _go_on(
    matrix: NearRows, given: Doubles, by: Doubles, term: int, newer: Doubles, older: Doubles, rows: Integers
) -> None:
    """One term of Clenshaw's sum for rows from the first to the second of `rows`, whose third is the first that is held."""
    data, columns, starts = matrix.data, matrix.columns, matrix.starts
    # Held apart from the arrays, which the compiler must take for ones that are written to.
    a0, a1, a2, a3 = by[0, 0], by[0, 1], by[0, 2], by[0, 3]
    b0, b1, b2, b3 = by[1, 0], by[1, 1], by[1, 2], by[1, 3]
    twice = 1.0 if term == 0 else 2.0
    held = rows[2]
    for i in range(rows[0], rows[1]):
        a: Float = 0.0
        b: Float = 0.0
        for k in range(starts[i], starts[i + 1]):
            j, value = np.uint32(columns[k] - held), np.float64(data[k])
            a += value * newer[j, 0]
            b += value * newer[j, 1]
        at = np.uint32(i - held)
        g0, g1, g2, g3 = given[at, 0], given[at, 1], given[at, 2], given[at, 3]
        older[at, 0] = a0 * g0 + a1 * g1 + a2 * g2 + a3 * g3 + twice * a - older[at, 0]
        older[at, 1] = b0 * g0 + b1 * g1 + b2 * g2 + b3 * g3 + twice * b - older[at, 1]


class Room(NamedTuple):
    """For the rows that a thread holds: what they are `given` `(m, 4)`, the two last sums `(m, 2)`, and three numbers."""

    given: Doubles
    newer: Doubles
    older: Doubles
    some: Integers


@kernel
def _sum_of_rows(
    matrix: NearRows, given: Doubles, coefficients: Doubles, room: Room, rows: Integers, out: Doubles
) -> None:
    """All terms for rows from the first to the second of `rows`, from what is `given` by point, as they come `out`.

    They go in tiles: each term stays behind the one before it, whose neighbours it takes and whose own it overwrites. Held are the rows from the third
    to the fourth: at ends that are not those of all points each term knows less.
    """
    count, terms, reach = len(matrix.order), len(coefficients), matrix.reach
    low, high = rows[2], rows[3]
    own, newer, older, some = room
    for i in range(low, high):
        for of in range(4):
            own[i - low, of] = given[matrix.order[i], of]
    some[2] = low
    for tile in range(low, high + terms * reach, TILE):
        for done in range(terms):
            behind, lost = done * reach, (done + 1) * reach
            some[0] = max(tile - behind, low if low == 0 else low + lost)
            some[1] = min(tile - behind + TILE, high if high == count else high - lost)
            term = terms - 1 - done
            if done % 2 == 0:
                _go_on(matrix, own, coefficients[term], term, newer, older, some)
            else:
                _go_on(matrix, own, coefficients[term], term, older, newer, some)
    for i in range(rows[0], rows[1]):
        for of in range(2):
            out[matrix.order[i], of] = older[i - low, of] if terms % 2 else newer[i - low, of]


def sum_of_polynomials(matrix: NearRows, coefficients: Doubles, given: Doubles) -> Doubles:
    """Σₖ Tₖ(M) Cₖ g for each point, `(p, 2)`; each is summed in one order, whatever the threads.

    Parameters
    ----------
    matrix : NearRows
        `(p, p)` M, whose modes lie between −1 and 1.
    coefficients : Doubles
        `(terms, 2, 4)` C.
    given : Doubles
        `(p, 4)` g.

    References
    ----------
    C. W. Clenshaw, "A note on the summation of Chebyshev series", Mathematics of Computation 9 (1955): the sum needs the polynomials of what comes
    out, two numbers a point, not those of the four that go in.
    """
    count = len(given)
    out = np.empty((count, 2))
    # What lies about a band is gone through by its thread too, for the neighbours' sake: that must be little beside it.
    around = len(coefficients) * matrix.reach

    def work(first: int, end: int) -> None:
        low, high = max(first - around, 0), min(end + around, count)
        sums = np.zeros((2, high - low, 2))
        room = Room(np.empty((high - low, 4)), sums[0], sums[1], np.empty(3, np.int32))
        _sum_of_rows(matrix, given, coefficients, room, np.array([first, end, low, high], np.int32), out)

    with bands(count, max(MOST_ALONE, 4 * around)) as each:
        each(work)
    return out
