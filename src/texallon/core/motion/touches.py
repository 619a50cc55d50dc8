"""When and how far a signal touched each point, gathered frame by frame."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from texallon.core.derived import checkpoint
from texallon.core.document.remembered import Growth
from texallon.core.motion.point_graph import Doubles, Longs

ValuesAt = Callable[[int], Doubles]
"""The values `(p,)` of a signal at a frame."""


@dataclass(frozen=True, eq=False)
class Block:
    """What is remembered over some frames that follow each other: arrays by names; those of each frame are `(frames, p)`."""

    arrays: Mapping[str, npt.NDArray[np.generic]]

    @property
    def nbytes(self) -> int:
        """What it takes in memory."""
        return sum(each.nbytes for each in self.arrays.values())


@dataclass(frozen=True)
class Span:
    """Frames `start` to `end` of a shot that begins at `first`, the last included, at `rate` a second."""

    first: int
    start: int
    end: int
    rate: float

    def seconds(self, frame: float) -> float:
        """Since the shot's first frame.

        Parameters
        ----------
        frame : float
            Of the shot.
        """
        return (frame - self.first) / self.rate


def gather_touches(
    before: Block | None, span: Span, growth: Growth, values: ValuesAt, healing: ValuesAt | None
) -> Block:
    """What happened in some frames, after what happened before.

    Parameters
    ----------
    before : Block, optional
        Of the frames before; none at the first.
    span : Span
        The frames.
    growth : Growth
        Whose signals they are.
    values : callable
        Of what touches.
    healing : callable, optional
        Of what takes away.

    Returns
    -------
    Block
        `last (p,)` the signal at its last frame; `since (p,)` the second since which each point is touched, `inf` where it is not; `first (p,)`
        when it was first touched; `at`, `begun`, `ended` of touches that are over, those of blocks before included, where touches fade;
        `most (frames, p)` the largest value so far, where nothing spreads; `healed (frames, p)` of the mask in all, where it heals.
    """
    check, step = checkpoint(), 1 / span.rate
    lost = growth.fades * step
    fading = growth.fades > 0 or healing is not None
    arrays = {} if before is None else dict(before.arrays)
    over: list[tuple[Longs, Doubles, Doubles]] = []
    most, healed = [], []
    for frame in range(span.start, span.end + 1):
        check()
        now, heal = values(frame), None if healing is None else healing(frame) * growth.healing
        seconds = span.seconds(frame)
        if "last" not in arrays:
            since = np.where(now > growth.above, 0.0, np.inf)
            arrays |= {"last": now, "since": since, "first": since.copy()}
            arrays |= {"most now": np.clip(now, 0, 1)}
            if heal is not None:
                arrays |= {"healed now": np.zeros(len(now)), "heal": heal}
        else:
            last, since = _double(arrays["last"]), _double(arrays["since"]).copy()
            span_of = np.where(now == last, 1.0, now - last)
            crossed = seconds - step + np.clip((growth.above - last) / span_of, 0, 1) * step
            begins, ends = (now > growth.above) & (last <= growth.above), (now <= growth.above) & (last > growth.above)
            if fading and ends.any():
                over.append((np.flatnonzero(ends), since[ends], crossed[ends]))
            since[ends], since[begins] = np.inf, crossed[begins]
            taken = np.full(len(now), lost)
            if heal is not None:
                part = 0.5 * (_double(arrays["heal"]) + heal) * step
                taken = taken + np.maximum(part, 0)
                arrays |= {"healed now": _double(arrays["healed now"]) + np.maximum(part, 0), "heal": heal}
            arrays["most now"] = np.maximum(np.clip(now, 0, 1), _double(arrays["most now"]) - taken)
            arrays |= {"last": now, "since": since, "first": np.minimum(_double(arrays["first"]), since)}
        if growth.speed == 0:
            most.append(_double(arrays["most now"]).astype(np.float32))
        if heal is not None:
            healed.append(_double(arrays["healed now"]).astype(np.float32))
    arrays |= {"most": np.array(most, np.float32)} if most else {}
    arrays |= {"healed": np.array(healed, np.float32)} if healed else {}
    arrays |= _joined(arrays, over)
    return Block(arrays)


def _joined(
    arrays: Mapping[str, npt.NDArray[np.generic]], over: list[tuple[Longs, Doubles, Doubles]]
) -> dict[str, npt.NDArray[np.generic]]:
    known = (arrays["at"], arrays["begun"], arrays["ended"]) if "at" in arrays else _nothing()
    parts = [known, *over]
    return {name: np.concatenate([part[k] for part in parts]) for k, name in enumerate(("at", "begun", "ended"))}


def _nothing() -> tuple[npt.NDArray[np.generic], ...]:
    return np.zeros(0, np.int64), np.zeros(0), np.zeros(0)


def _double(values: npt.NDArray[np.generic]) -> Doubles:
    found: Doubles = np.asarray(values, np.float64)
    return found
