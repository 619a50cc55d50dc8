"""What objects remember, as derived values: signals looked at frame by frame, and what follows from them at one frame.

What a memory is made from is the document at every frame. A key of the parts of the document that can move it stands for all of that, so that
a picture at which nothing of it has changed looks at no other frame.
"""

from collections.abc import Callable, Mapping, Sequence
from typing import Any, NamedTuple, Protocol, TypeVar

import numpy as np

from texallon.core.derived import Cost, Derived, DerivedStore, Given, content_key, derived, progress_reporter
from texallon.core.document.problem import tokens_of
from texallon.core.document.remembered import Growth, Springs, remembered_names, signals_of
from texallon.core.document.shot import Frames, Shot
from texallon.core.geometry.mesh import MeshError
from texallon.core.geometry.values_on_mesh import as_number
from texallon.core.kernel import Array
from texallon.core.motion.growth import grown, growth_at
from texallon.core.motion.point_graph import PointGraph
from texallon.core.motion.springs import gather_springs, springs_at
from texallon.core.motion.touches import Block, Span, ValuesAt, gather_touches

Values = TypeVar("Values")

BLOCK = 16
"""Frames that are remembered together, and kept on disk together."""

MOVING = ("frames", "objects", "locators", "object_groups", "signals", "numbers", "number_uses")
"""Parts of a document that may move what is remembered."""

Carried = dict[str, Derived[Array]]
"""Attributes by name, each `(v, 1)`."""


class SignalAt(Protocol):
    """Where a signal is read at other frames."""

    def __call__(self, signal: str, frame: int, before: int) -> Array:
        """Its values `(width, v)` at the points that remember.

        Parameters
        ----------
        signal : str
            A shared one.
        frame : int
            Of the shot.
        before : int
            How many of the object's remembered attributes it may read.
        """


def moving_key(document: Shot, camera: bool) -> str:
    """The same for documents in which the same is remembered.

    Parameters
    ----------
    document : Shot
        As it was resolved.
    camera : bool
        Whether a signal reads where the camera stands.
    """
    moving = (*MOVING, "camera") if camera else MOVING
    tracks = [each for each in document.tracks if tokens_of(each.at)[0] in moving]
    return content_key(([getattr(document, name) for name in moving], tracks))


def spans_until(frames: Frames, last: int) -> list[Span]:
    """Blocks of a shot's frames, from the first to that of a frame.

    Parameters
    ----------
    frames : Frames
        Of the shot.
    last : int
        A frame of it.
    """
    starts = range(frames.first, last + 1, BLOCK)
    return [Span(frames.first, start, min(start + BLOCK - 1, frames.last), frames.rate) for start in starts]


class Around(NamedTuple):
    """The frames that say what something is at a moment within a shot.

    Attributes
    ----------
    last : int
        The last frame that counts.
    block : int
        The number of the block that the moment lies in.
    within : float
        Frames since the first of that block.
    """

    last: int
    block: int
    within: float


def frames_around(frames: Frames, frame: float) -> Around:
    """What is needed of a shot's frames for one moment; before and after the shot it is as at its ends.

    Parameters
    ----------
    frames : Frames
        Of the shot.
    frame : float
        The moment.
    """
    held = min(max(frame, frames.first), frames.last)
    block = (int(np.floor(held)) - frames.first) // BLOCK
    return Around(min(int(np.floor(held)) + 1, frames.last), block, held - frames.first - block * BLOCK)


class RememberedAttributes:
    """What an object's points, or copies, remember.

    Parameters
    ----------
    shot : Shot
        The document.
    store : DerivedStore
        Where values are kept.
    graph : Derived of PointGraph
        The points.
    remembers : sequence
        Of the object.
    of : str
        `surface` or `copies`.
    """

    def __init__(
        self,
        shot: Shot,
        store: DerivedStore,
        graph: Derived[PointGraph],
        remembers: Sequence[Growth | Springs],
        of: str,
    ) -> None:
        self._shot, self._store, self._graph = shot, store, graph
        self._remembers, self._of = remembers, of

    def at(self, frame: float, read: SignalAt, key: str, upto: int | None = None) -> Carried:
        """The attributes at a frame.

        Parameters
        ----------
        frame : float
            Of the shot.
        read : callable
            Gives signals at other frames.
        key : str
            Stands for all that those depend on.
        upto : int, optional
            How many of them are wanted; all unless given.
        """
        found: Carried = {}
        for number, each in enumerate(self._remembers[:upto]):
            if each.of != self._of:
                continue
            own = content_key((key, self._of, number, self._remembers[: number + 1]))
            reading = self._reading(read, number)
            of_kind = self._growth if isinstance(each, Growth) else self._springs
            values = of_kind(each, frame, reading, own)  # type: ignore[arg-type]
            found |= {name: row_of.of(values, row) for row, name in enumerate(remembered_names(each))}
        return found

    def _reading(self, read: SignalAt, number: int) -> Callable[[str], Callable[[int], Array]]:
        return lambda signal: lambda frame: as_number(read(signal, frame, number))

    def _growth(
        self, growth: Growth, frame: float, reading: Callable[[str], Callable[[int], Array]], key: str
    ) -> Derived[Array]:
        frames = self._shot.frames
        signals = {field: reading(name) for field, name in signals_of(growth).items()}
        blocks = self._blocks(growth, signals, key, frames.last)
        # Of the frames between nothing is needed unless something of each is kept.
        of_each = blocks if growth.speed == 0 or growth.heals is not None else ()
        make_blocks(self._store, blocks, of_each or blocks[-1:])
        ragged = _first_of.of(Given(signals["ragged"], f"{key} ragged"), frames.first) if "ragged" in signals else None
        covered = grown.of(self._graph, of_each or blocks[-1:], growth, ragged, frames.rate)
        return growth_at.of(self._graph, covered, of_each, growth, frame - frames.first, frames.rate)

    def _springs(
        self, springs: Springs, frame: float, reading: Callable[[str], Callable[[int], Array]], key: str
    ) -> Derived[Array]:
        frames = self._shot.frames
        around = frames_around(frames, frame)
        blocks = self._blocks(springs, {"signal": reading(springs.signal)}, key, around.last)
        make_blocks(self._store, blocks, blocks[around.block :])
        return springs_at.of(self._graph, blocks[around.block :], around.within, frames.rate)

    def _blocks(
        self, each: Growth | Springs, signals: Mapping[str, Callable[[int], Array]], key: str, last: int
    ) -> tuple[Derived[Block], ...]:
        """Blocks of frames from the first to that of `last`, each made from the one before."""
        first = self._shot.frames.first
        given = Given({field: with_progress(read, each.name, first, last) for field, read in signals.items()}, key)
        blocks: list[Derived[Block]] = []
        for span in spans_until(self._shot.frames, last):
            blocks.append(_block.of(blocks[-1] if blocks else None, span, each, self._graph, given))
        return tuple(blocks)


def with_progress(read: Callable[[int], Values], what: str, first: int, last: int) -> Callable[[int], Values]:
    """The same reading of frames one after the other, of which whoever waits hears how far it is.

    Parameters
    ----------
    read : callable
        Gives what is at a frame.
    what : str
        Is being made from it.
    first, last : int
        Frames that are needed.
    """
    report = progress_reporter()

    def reading(frame: int) -> Values:
        report(what, frame - first, last - first + 1)
        return read(frame)

    return reading


def make_blocks(store: DerivedStore, blocks: Sequence[Derived[Block]], wanted: Sequence[Derived[Block]]) -> None:
    """Have blocks at hand, those before them made one after the other, so that none waits for a long row of others.

    Parameters
    ----------
    store : DerivedStore
        Where they are kept, and on whose disk.
    blocks : sequence of Derived of Block
        Each made from the one before.
    wanted : sequence of Derived of Block
        Those that are needed, the last one among them.
    """
    newest = next((at for at in range(len(blocks), 0, -1) if _there(store, blocks[at - 1])), 0)
    for block in blocks[newest:]:
        made = store.value(block)
        if store.disk is not None:
            store.disk.keep(block.content_key, made.arrays)
    for block in wanted:
        _there(store, block)


def _there(store: DerivedStore, block: Derived[Block]) -> bool:
    """Whether a block is kept, in memory or on disk; then it is in memory."""
    if store.known(block):
        return True
    saved = None if store.disk is None else store.disk.load(block.content_key)
    if saved is not None:
        store.put(block, Block(dict(saved)))
    return saved is not None


@derived("remembered frames", cost=Cost.BACKGROUND)
def _block(
    before: Block | None,
    span: Span,
    each: Growth | Springs,
    graph: PointGraph,
    signals: Mapping[str, Callable[[int], Array]],
) -> Block:
    def values(field: str) -> ValuesAt:
        def at(frame: int) -> Any:
            found = signals[field](frame)
            if len(found) != len(graph.one):
                raise MeshError(
                    f"“{each.name}” is remembered at {len(graph.one):,} points, and at frame {frame} there are {len(found):,}: "
                    "only what has the same points in each frame can remember"
                )
            return graph.at_points(found)

        return at

    if isinstance(each, Growth):
        return gather_touches(before, span, each, values("signal"), values("heals") if "heals" in signals else None)
    return gather_springs(before, span, each, graph, values("signal"))


@derived("signal at a frame", cost=Cost.SLOW)
def _first_of(read: Callable[[int], Array], frame: int) -> Array:
    return read(frame)


@derived("row", cost=Cost.INSTANT)
def row_of(values: Array, row: int) -> Array:
    """One row of values `(width, v)`, as an attribute `(v, 1)`.

    Parameters
    ----------
    values : Array
        `(width, v)`.
    row : int
        From 0.
    """
    return np.ascontiguousarray(values[row][:, None])
