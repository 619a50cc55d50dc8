"""Running a plan over points: in chunks that fit the cache, on as many threads as there are."""

import zlib
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import Protocol

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array
from texallon.core.ops.filtered import Filtered
from texallon.core.ops.op import DomainWarp, Op
from texallon.core.ops.points import Points, columns
from texallon.core.points import find_point_data_kind
from texallon.core.signal.plan import Node, Plan, needed

WHOLE = 128
"""Points are run in multiples of this. A kernel's last points would else go through other machine code than the rest, which
rounds a little differently, and a value would depend on where a chunk ends."""

CHUNK = 8192
"""Points in a chunk: a dozen float32 rows of this length stay in a core's second-level cache."""

EMPTY = np.zeros((1, 0), np.float32)

Flags = npt.NDArray[np.bool_]
NOWHERE: Flags = np.zeros(1, np.bool_)

VARIANTS = 8
"""Values that a faded one stands for where steps follow it (see `ops.filtered`)."""

FADED = ":faded"
"""Added to a node's key: whether anything that it came from was faded at the points of a cache."""


class NodeValues(Protocol):
    """Values of nodes over one fixed set of points, kept by the nodes' keys; used from one thread."""

    def keeps(self, key: str) -> bool:
        """Whether a node's value would be kept; for those that would not no room is made.

        Parameters
        ----------
        key : str
            Of the node.
        """

    def get(self, key: str) -> Array | None:
        """A node's value `(width, n)`, if it is kept.

        Parameters
        ----------
        key : str
            Of the node.
        """

    def put(self, key: str, value: Array) -> None:
        """Keep a node's value.

        Parameters
        ----------
        key : str
            Of the node.
        value : Array
            `(width, n)`.
        """


def evaluate(
    plan: Plan,
    points: Points,
    *,
    cache: NodeValues | None = None,
    pool: ThreadPoolExecutor | None = None,
    chunk: int = CHUNK,
    variants: int = VARIANTS,
) -> dict[str, Array]:
    """The plan's outputs over any number of points, by name, each `(width, n)`.

    With a `cache` (which must belong to exactly these points) every node's value is kept that it keeps, and nodes whose key
    it holds are not run. The result does not depend on `chunk` or on the number of threads.

    Where a source has faded what is finer than a sample, the steps after it are run on `variants` values that it stands for, and their
    mean is the result; with 1 that is one of them, right on average over many points.

    Parameters
    ----------
    plan : Plan
        What is wanted, and the steps that lead to it.
    points : Points
        Where it is evaluated.
    cache : NodeValues, optional
        Of exactly these points: nodes whose values it holds are not run.
    pool : ThreadPoolExecutor, optional
        Threads that chunks are run by.
    chunk : int, optional
        Points run together; changes no value.
    variants : int, optional
        Values that a faded one stands for, where steps follow it.
    """
    have: dict[int, Array] = {}
    if cache is not None:
        have = {i: known for i, node in enumerate(plan.nodes) if (known := cache.get(node.key)) is not None}
    if cache is not None and have:
        # What came from a faded source can't be taken further from its mean: the steps are run again, from the source on.
        whole = {
            i for i in have if isinstance(plan.nodes[i].op, Filtered) or cache.get(plan.nodes[i].key + FADED) is None
        }
        missing = [i for i in plan.outputs.values() if i not in have]
        todo: Sequence[int] = _with_what_is_looked_up_anew(plan, missing, whole)
    else:
        todo = plan.order
    wanted = set(plan.outputs.values())
    keep = [i for i in todo if i in wanted or (cache is not None and cache.keeps(plan.nodes[i].key))]
    results = {i: np.empty((plan.nodes[i].width, points.count), np.float32) for i in keep}
    taken = {i for index in todo for i in plan.nodes[index].takes}
    faded: set[int] = set()

    @np.errstate(all="ignore")
    def work(start: int) -> None:
        stop = min(start + chunk, points.count)
        size = stop - start
        padded = -(-size // WHOLE) * WHOLE
        part = points if padded == points.count else points.chunk(start, stop, padded)
        local: dict[int, Array] = {}
        several: dict[int, Array] = {}
        """Variants `(width, variants · n)` of faded values, one after the other."""
        elsewhere: dict[tuple[tuple[str, int], ...], Points] = {(): part}

        def at(warped: tuple[tuple[str, int], ...]) -> Points:
            if warped not in elsewhere:
                elsewhere[warped] = part.warped({base: value(node) for base, node in warped})
            return elsewhere[warped]

        def notice(index: int) -> None:
            """Keep what a source's value stands for, where any step takes it."""
            node = plan.nodes[index]
            if index not in taken or not isinstance(node.op, Filtered):
                return
            salt = zlib.crc32(node.key.encode())
            here = at(tuple(sorted(node.warped.items())))
            if node.inputs:
                here = here.with_parameters({name: value(each) for name, each in node.inputs.items()})
            made = node.op.variants(here, local[index], variants, salt)
            if made is not None:
                several[index] = made

        def affine_at(node: Node, varying: frozenset[str]) -> Flags:
            """At which points the mean of what a step gives is what it gives for the mean."""
            if len(varying) == 1:  # where that is not faded, it is the same either way
                return np.array([node.op.affine_in(varying)])
            taken_from = dict(node.inputs) | ({} if node.incoming is None else {"incoming": node.incoming})
            return affine_points(node.op, {name: is_faded(taken_from[name]) for name in sorted(varying)})

        def is_faded(index: int) -> Flags:
            """At which points a value's variants are not all what it is."""
            each = several[index].reshape(plan.nodes[index].width, variants, padded)
            spread: Flags = (each != local[index][:, None, :]).any(axis=(0, 1))
            return spread

        def value(index: int) -> Array:
            if index not in local:
                local[index] = columns(have[index], start, stop, padded)
                notice(index)
            return local[index]

        for index in todo:
            node = plan.nodes[index]
            incoming = EMPTY if node.incoming is None else value(node.incoming)
            inputs = {name: value(each) for name, each in node.inputs.items()}
            here = at(tuple(sorted(node.warped.items())))
            out = np.empty((node.width, padded), np.float32)
            varying = frozenset(name for name, each in node.inputs.items() if each in several)
            if node.incoming in several:
                varying |= {"incoming"}
            if not varying or isinstance(node.op, DomainWarp):
                node.op.run(here, incoming, inputs, out)
            else:
                faded.add(index)
                exact = cache is not None or index in results or variants > 1
                affine = affine_at(node, varying) if exact else NOWHERE
                if affine.any():
                    node.op.run(here, incoming, inputs, out)
                if not affine.all() or index in taken:
                    mine = several.get(node.incoming, incoming) if node.incoming is not None else incoming
                    others = {name: several.get(each, inputs[name]) for name, each in node.inputs.items()}
                    several[index] = run_variants(node, here, mine, others, variants, padded)
                if not affine.all():
                    mean = several[index] if variants == 1 else np.empty_like(out)
                    if variants > 1:
                        mean_of_variants(several[index].reshape(node.width, variants, padded), mean)
                    out = np.where(affine, out, mean) if affine.any() else mean
            local[index] = out
            notice(index)
            if index in results:
                results[index][:, start:stop] = out[:, :size]

    starts = range(0, points.count, chunk)
    if todo:
        for _ in map(work, starts) if pool is None or len(starts) < 2 else pool.map(work, starts):
            pass
    if cache is not None:
        for index, made in results.items():
            if cache.keeps(plan.nodes[index].key):
                cache.put(plan.nodes[index].key, made)
                if index in faded:
                    cache.put(plan.nodes[index].key + FADED, EMPTY)
    return {name: results[index] if index in results else have[index] for name, index in plan.outputs.items()}


def _with_what_is_looked_up_anew(plan: Plan, missing: Sequence[int], whole: set[int]) -> list[int]:
    """The nodes to run for missing ones, given those known: what a known source stands for where it is faded is found anew, so where it is looked up must be known too."""
    todo = needed(plan.nodes, missing, whole)
    while True:
        taken = {i for index in todo for i in plan.nodes[index].takes}
        sources = [i for i in whole & taken if isinstance(plan.nodes[i].op, Filtered)]
        again = {i for source in sources for i in plan.nodes[source].takes} - whole - set(todo)
        if not again:
            return todo
        todo = needed(plan.nodes, [*missing, *todo, *again], whole)


def affine_points(op: Op, lost: Mapping[str, Flags]) -> Flags:
    """At which points the mean of what a step gives is what it gives for the mean: by what is faded there, whatever else is looked at with it.

    Parameters
    ----------
    op : Op
        The step's.
    lost : mapping
        `(n,)` at which points what comes in is faded, by name.

    Returns
    -------
    Flags
        `(n,)`.
    """
    names = list(lost)
    code = np.zeros(len(lost[names[0]]), np.int64)
    for number, flags in enumerate(lost.values()):
        code |= flags.astype(np.int64) << number
    affine = np.empty(len(code), np.bool_)
    for met in np.unique(code):
        faded = frozenset(name for number, name in enumerate(names) if met >> number & 1)
        affine[code == met] = not faded or op.affine_in(faded)
    return affine


LARGEST = np.float32(3e38)
"""Stands for what is infinite where a mean is taken of it and of other values."""


def mean_of_variants(each: Array, out: Array) -> None:
    """The mean over variants: exactly their value where all are the same, and a number wherever all are numbers, infinite ones among them.

    Parameters
    ----------
    each : Array
        `(width, variants, n)`.
    out : Array
        `(width, n)`, filled.
    """
    first = each[:, 0]
    with np.errstate(invalid="ignore", over="ignore"):
        np.add(first, np.mean(each - each[:, :1], axis=1), out=out)
        lost = np.isnan(out)
        if lost.any():
            # Infinite less infinite is no number: bounded, what is left of one sign is as large as can be, and of both what their sum is.
            mean = np.mean(np.clip(each, -LARGEST, LARGEST), axis=1, dtype=np.float64).astype(np.float32)
            np.copyto(out, np.where((each == each[:, :1]).all(axis=1), first, mean), where=lost)


def run_variants(
    node: Node, points: Points, incoming: Array, inputs: Mapping[str, Array], variants: int, count: int
) -> Array:
    """A step's values `(width, variants · n)`; what comes in has one column for each point, or one for each variant of it.

    Parameters
    ----------
    node : Node
        The step.
    points : Points
        Where it is evaluated.
    incoming : Array
        `(1 or 3, n)`.
    inputs : mapping
        By parameter.
    variants : int
        How many values stand for a faded one.
    count : int
        Number of points, n.

    Returns
    -------
    Array
        `(width, variants · n)`.
    """
    out = np.empty((node.width, variants * count), np.float32)
    if variants == 1:
        node.op.run(points, incoming, inputs, out)
        return out
    if not node.op.required_data():  # it looks at nothing but what comes in: all at once
        many = {name: wide(each, variants * count, variants) for name, each in inputs.items()}
        node.op.run(points, wide(incoming, variants * count, variants), many, out)
        return out
    for number in range(variants):
        part = slice(number * count, (number + 1) * count)
        mine = {
            name: np.ascontiguousarray(each[:, part]) if each.shape[1] > count else each
            for name, each in inputs.items()
        }
        one = np.empty((node.width, count), np.float32)
        node.op.run(
            points, np.ascontiguousarray(incoming[:, part]) if incoming.shape[1] > count else incoming, mine, one
        )
        out[:, part] = one
    return out


def wide(values: Array, count: int, variants: int) -> Array:
    """Values repeated for each variant, where they are not variants already.

    Parameters
    ----------
    values : Array
        `(width, n)` or `(width, variants · n)`.
    count : int
        Number of points, n.
    variants : int
        How many values stand for a faded one.
    """
    return values if values.shape[1] == count or values.shape[1] == 0 else np.tile(values, (1, variants))


def fill_missing(required_data: Iterable[str], data: Mapping[str, Array], count: int) -> dict[str, Array]:
    """Only the point data that is needed, with what each kind says stands in where the points do not have it.

    Parameters
    ----------
    required_data : iterable of str
        Names of kinds, or of stored attributes, which are 0 where they are missing.
    data : mapping
        What the points have, `(width, n)` by name.
    count : int
        n.
    """
    result: dict[str, Array] = {}
    for name in required_data:
        source = name
        while source not in data and (kind := find_point_data_kind(source)) is not None and kind.instead:
            source = kind.instead
        if source in data:
            result[name] = data[source]
        else:
            kind = find_point_data_kind(name)
            rows = (0.0,) if kind is None else kind.otherwise
            result[name] = np.repeat(np.array(rows, np.float32)[:, None], count, axis=1)
    return result
