"""A shot at one time: everything after it computes from plain numbers, never from the document and a frame beside it."""

from typing import NamedTuple

from pydantic import Field

from texallon.core.derived import content_key
from texallon.core.document.carried_looks import CarriedLooks, carried_looks
from texallon.core.document.named_number import with_numbers
from texallon.core.document.number_use import with_number_uses
from texallon.core.document.shot import Shot


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

    @property
    def carried_looks(self) -> CarriedLooks:
        """The looks that layers carry, by name."""
        return carried_looks(self.looks)

    @property
    def content_key(self) -> str:
        """The same for shots that are the same at the same time; `time` is no member of the document."""
        return content_key((self.model_dump_json(), self.time))


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
    first = shot.frames.first
    at = float(first if frame is None else frame)
    members = {name: getattr(shot, name) for name in Shot.model_fields}
    if shot.numbers:
        members["signals"], members["looks"] = with_numbers(shot.numbers, shot.signals, shot.looks)
        members = with_number_uses(members, shot.numbers, shot.number_uses)
    if any(item.sequence is not None for item in shot.objects):
        members["objects"] = [
            item
            if item.sequence is None
            else item.model_copy(update={"geometry": item.sequence.at(at), "sequence": None})
            for item in members["objects"]
        ]
    return ResolvedShot.model_construct(**members, time=Time(at, (at - first) / shot.frames.rate))
