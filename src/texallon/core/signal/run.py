"""Running a plan over points: in chunks that fit the cache, on as many threads as there are."""

from collections import OrderedDict
from collections.abc import Iterable, Mapping
from concurrent.futures import ThreadPoolExecutor
from threading import Lock

import numpy as np

from texallon.core.kernel import Array
from texallon.core.ops.points import Points, columns
from texallon.core.signal.plan import Plan, needed

WHOLE = 128
"""Points are run in multiples of this. A kernel's last points would else go through other machine code than the rest, which
rounds a little differently, and a value would depend on where a chunk ends."""

CHUNK = 8192
"""Points in a chunk: a dozen float32 rows of this length stay in a core's second-level cache."""

NOTHING = np.zeros((1, 0), np.float32)


class ValueCache:
    """Values of nodes over one fixed set of points, by content hash; the least recently used go first.

    `limit` is in bytes. Safe to use from several threads.
    """

    def __init__(self, limit: int = 256_000_000) -> None:
        self.limit = limit
        self._values: OrderedDict[str, Array] = OrderedDict()
        self._size = 0
        self._lock = Lock()

    def get(self, key: str) -> Array | None:
        with self._lock:
            value = self._values.get(key)
            if value is not None:
                self._values.move_to_end(key)
            return value

    def put(self, key: str, value: Array) -> None:
        with self._lock:
            if key not in self._values:
                self._values[key] = value
                self._size += value.nbytes
            while self._size > self.limit and len(self._values) > 1:
                _, dropped = self._values.popitem(last=False)
                self._size -= dropped.nbytes


def evaluate(
    plan: Plan,
    points: Points,
    *,
    cache: ValueCache | None = None,
    pool: ThreadPoolExecutor | None = None,
    chunk: int = CHUNK,
) -> dict[str, Array]:
    """The plan's outputs over any number of points, by name, each `(width, n)`.

    With a `cache` (which must belong to exactly these points) every node's value is kept, and nodes whose key
    it holds are not run. The result does not depend on `chunk` or on the number of threads.
    """
    have: dict[int, Array] = {}
    if cache is not None:
        have = {i: value for i, node in enumerate(plan.nodes) if (value := cache.get(node.key)) is not None}
    todo = needed(plan.nodes, plan.outputs.values(), have) if have else plan.order
    wanted = set(plan.outputs.values())
    keep = todo if cache is not None else [i for i in todo if i in wanted]
    results = {i: np.empty((plan.nodes[i].width, points.count), np.float32) for i in keep}

    @np.errstate(all="ignore")
    def work(start: int) -> None:
        stop = min(start + chunk, points.count)
        size = stop - start
        padded = -(-size // WHOLE) * WHOLE
        part = points if padded == points.count else points.chunk(start, stop, padded)
        local: dict[int, Array] = {}
        elsewhere: dict[tuple[tuple[str, int], ...], Points] = {(): part}

        def value(index: int) -> Array:
            if index not in local:
                local[index] = columns(have[index], start, stop, padded)
            return local[index]

        for index in todo:
            node = plan.nodes[index]
            incoming = NOTHING if node.incoming is None else value(node.incoming)
            inputs = {name: value(taken) for name, taken in node.inputs.items()}
            out = np.empty((node.width, padded), np.float32)
            bent = tuple(sorted(node.bent.items()))
            if bent not in elsewhere:
                elsewhere[bent] = part.bent({base: value(taken) for base, taken in bent})
            node.op.run(elsewhere[bent], incoming, inputs, out)
            local[index] = out
            if index in results:
                results[index][:, start:stop] = out[:, :size]

    starts = range(0, points.count, chunk)
    if todo:
        for _ in map(work, starts) if pool is None or len(starts) < 2 else pool.map(work, starts):
            pass
    if cache is not None:
        for index, made in results.items():
            cache.put(plan.nodes[index].key, made)
    return {name: results[index] if index in results else have[index] for name, index in plan.outputs.items()}


WIDTHS = {"position": 3, "object_position": 3, "rest_position": 3, "normal": 3, "view": 3, "uv": 2}
INSTEAD = {"rest_position": "object_position", "object_position": "position", "object_footprint": "footprint"}


def provide(needs: Iterable[str], data: Mapping[str, Array], count: int) -> dict[str, Array]:
    """Only the point data that is needed; what the points do not have is 0 (an attribute, a footprint) or up.

    The rest shape falls back to the object's, and object space to the world's, where points belong to no object.
    """
    result: dict[str, Array] = {}
    for name in needs:
        source = name
        while source not in data and source in INSTEAD:
            source = INSTEAD[source]
        if source in data:
            result[name] = data[source]
        else:
            result[name] = np.zeros((WIDTHS.get(name, 1), count), np.float32)
            if name in ("normal", "view"):
                result[name][1] = 1.0
    return result
