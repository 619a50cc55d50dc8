"""A shot at one time: everything after it computes from plain numbers, never from the document and a frame beside it."""

from collections.abc import Callable
from typing import NamedTuple

from pydantic import Field

from texallon.core.derived import content_key
from texallon.core.document.along import on_their_lines
from texallon.core.document.carried_looks import CarriedLooks, carried_looks
from texallon.core.document.named_number import with_numbers
from texallon.core.document.number_use import with_number_uses
from texallon.core.document.object import Object
from texallon.core.document.shot import Shot
from texallon.core.document.simulation import Simulation
from texallon.core.document.track import Track, number_limits, with_tracks


class Time(NamedTuple):
    """When a shot is looked at.

    Attributes
    ----------
    frame : float
        Integers are frames of the shot; what lies between is within a shutter's interval.
    seconds : float
        Since the shot's first frame.
    """

    frame: float = 1.0
    seconds: float = 0.0


class ResolvedShot(Shot):
    """A shot whose members hold what they are at a time: no keys, no formulas."""

    time: Time = Field(default=Time(), exclude=True)
    document: Shot | None = Field(default=None, exclude=True)
    """What it was resolved from, which alone knows of other times: what remembers looks there."""

    @property
    def carried_looks(self) -> CarriedLooks:
        """The looks that layers carry, by name."""
        return carried_looks(self.looks)

    @property
    def content_key(self) -> str:
        """The same for shots that are the same at the same time; `time` is no member of the document."""
        remembers = self.document is not None and any(item.remembers or item.floats for item in self.objects)
        return content_key((self.model_dump_json(), self.time, self.document if remembers else None))


def resolve(shot: Shot, frame: float | None = None) -> ResolvedShot:
    """A shot at a time. The only place that knows how a document's values depend on time.

    Parameters
    ----------
    shot : Shot
        A document that has been read.
    frame : float, optional
        The shot's first frame unless given; may lie beyond the shot's range.

    Returns
    -------
    ResolvedShot
        With the same members, as they are at the frame.

    Examples
    --------
    >>> from texallon.core.document import read_shot
    >>> shot = read_shot({"schema": 1, "name": "T", "frames": {"first": 11, "last": 20, "rate": 25},
    ...                   "looks": [{"name": "a", "layers": [{"name": "b"}]}]})
    >>> resolve(shot, 36).time
    Time(frame=36.0, seconds=1.0)
    """
    at = float(shot.frames.first if frame is None else frame)
    return _resolved(shot, at, lambda track: track.value(at, shot.frames.clock))


def resolve_extremes(shot: Shot) -> tuple[ResolvedShot, ...]:
    """A shot with all that has keys at its lowest, and at its highest key: what both can have, all between can; none where nothing has keys.

    Parameters
    ----------
    shot : Shot
        A document that has been read.
    """
    if not shot.tracks:
        return ()
    at = float(shot.frames.first)
    clock = shot.frames.clock
    low, high = (_resolved(shot, at, lambda track, end=end: track.bounds(clock)[end]) for end in (0, 1))  # type: ignore[misc]
    return low, high


def _resolved(shot: Shot, at: float, value_of: Callable[[Track], float]) -> ResolvedShot:
    first = shot.frames.first
    members = {name: getattr(shot, name) for name in Shot.model_fields}
    if shot.tracks:
        members = with_tracks(members, shot.tracks, value_of, shot.frames.clock)
    numbers = members["numbers"]
    if numbers:
        members["signals"], members["looks"] = with_numbers(numbers, members["signals"], members["looks"])
        members = with_number_uses(
            members, numbers, shot.number_uses, number_limits(members, shot.tracks, shot.frames.clock)
        )
    seconds = (at - first) / shot.frames.rate
    if any(item.sequence is not None or isinstance(item.geometry, Simulation) for item in members["objects"]):
        members["objects"] = [_at_moment(item, at, seconds, shot.frames.rate) for item in members["objects"]]
    members["locators"] = on_their_lines(members["locators"], members["objects"])
    return ResolvedShot.model_construct(**members, document=shot, time=Time(at, seconds))


def _at_moment(item: Object, frame: float, seconds: float, rate: float) -> Object:
    """An object with the geometry that it has then."""
    if item.sequence is not None:
        return item.model_copy(update={"geometry": item.sequence.between(frame, rate), "sequence": None})
    if isinstance(item.geometry, Simulation):
        made = item.geometry.model_copy(update={"seconds": item.geometry.seconds + seconds})
        return item.model_copy(update={"geometry": made})
    return item
