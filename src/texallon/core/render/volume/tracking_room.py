"""What kernels that follow rays through volumes write to on the way: made outside of them, as a kernel that makes arrays counts references to all that it hands on."""

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array, Integers
from texallon.core.render.volume.tables import Lookups, Scratch

MOST_SEGMENTS = 32
"""Segments of one ray; what lies beyond is left out."""

MOST_LOOKUPS = 64
"""Lookups of light that are put off together."""

COUNTERS = 4
"""Counters of a path."""

WORDS = 24
"""Of the ray library's record of a ray and what it hits."""


class RayRecord(NamedTuple):
    """A record of the ray library: its `words (24,)`, the same as whole numbers (`bits`), and where it lies in memory."""

    words: Array
    bits: npt.NDArray[np.uint32]
    address: int


class TrackingRoom(NamedTuple):
    """Room of one call: for a ray's segments, two records, a path's `throughput (3,)` and `counters (COUNTERS,)`, and light by group found `before` and `after (groups, 3)`
    the first scattering, and `inscattered (4,)`, see `Carried`."""

    scratch: Scratch
    ray: RayRecord
    met: RayRecord
    throughput: npt.NDArray[np.float64]
    counters: Integers
    before: npt.NDArray[np.float64]
    after: npt.NDArray[np.float64]
    inscattered: npt.NDArray[np.float64]


def _record() -> RayRecord:
    store = np.zeros(WORDS + 16, np.float32)
    start = ((-store.ctypes.data) % 64) // 4
    words = store[start : start + WORDS]
    return RayRecord(words, words.view(np.uint32), int(words.ctypes.data))


def tracking_room(groups: int = 1) -> TrackingRoom:
    """Room for one call at a time.

    Parameters
    ----------
    groups : int, optional
        Light groups.
    """
    m = MOST_SEGMENTS
    scratch = Scratch(
        np.empty(m, np.int32), np.empty(m, np.float64), np.empty(m, np.float64), np.empty((3, m), np.float64),
        np.empty((3, m), np.float64), np.empty((3, m), np.float64), np.empty(m, np.int32), np.empty(m, np.int32),
        np.empty((3, m), np.float64), np.empty(m, np.float64),
        Lookups(np.empty((2, MOST_LOOKUPS), np.int64), np.empty((3, MOST_LOOKUPS), np.float32), np.empty((3, MOST_LOOKUPS))),
    )  # fmt: skip
    light = np.zeros((2, groups, 3), np.float64)
    return TrackingRoom(
        scratch, _record(), _record(), np.empty(3), np.zeros(COUNTERS, np.int32), light[0], light[1], np.zeros(4)
    )
