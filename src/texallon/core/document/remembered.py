"""What an object's surface, or its copies, remember: attributes whose values at a frame depend on all frames before."""

from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag

from texallon.core.document.base import Finite, Name, NonNegative
from texallon.core.document.ids import Identified

AGE = "age"
FRONT = "front"
VELOCITY = "velocity"
"""What stands after a name and a space in the names of the attributes beside the one of that name."""

FAR = 1e4
"""Metres: a front that never comes is said to be so far."""


class _Remembered(Identified):
    name: Name = Field(description="Of the attribute, as looks ask for it; others begin with it.")
    signal: Name = Field(description="A shared signal; of a colour the luminance counts.")
    of: Literal["surface", "copies"] = Field(
        "surface", description="What remembers: each point of its mesh, or each of its copies."
    )
    cell: NonNegative = Field(
        0.0,
        description="Metres between the points of a surface that remember, at most: its faces are divided until no edge is longer; at 0 they stay as they are.",
    )


class Growth(_Remembered):
    """A mask that starts where a signal rises above a level, spreads over the surface, and stays, or fades.

    Attributes: `NAME` 0…1, `NAME age` in seconds since the front came, and `NAME front`, metres to the front, below 0 behind it.
    """

    kind: Literal["growth"]
    above: Finite = Field(0.5, description="It starts where the signal lies above this.")
    speed: NonNegative = Field(
        0.05, description="Metres per second over the surface; at 0 the largest value of the signal so far is kept."
    )
    edge: NonNegative = Field(0.02, description="Metres behind the front within which it rises from 0 to 1.")
    ragged: Name | None = Field(
        None,
        description="A shared signal that makes the front faster where it is high, as it is at the first frame; the mean speed stays.",
    )
    unevenness: Annotated[Finite, Field(ge=0, le=0.95)] = Field(
        0.5,
        description="How much slower than the mean it is where that signal is 0, and how much faster where it is 1.",
    )
    fades: NonNegative = Field(0.0, description="How much of it is lost in a second, once nothing touches any more.")
    heals: Name | None = Field(None, description="A shared signal that takes it away where it is high.")
    healing: NonNegative = Field(1.0, description="How much of it is lost in a second where that signal is 1.")


class Springs(_Remembered):
    """A height that is drawn to a signal, overshoots, and hands what it has on to its neighbours, so that rings travel.

    Attributes: `NAME`, and `NAME velocity` per second.
    """

    kind: Literal["springs"]
    frequency: NonNegative = Field(
        2.0,
        description="Swings a second of a point by itself; at 0 nothing draws it, and the signal pushes it instead.",
    )
    damping: NonNegative = Field(
        0.2,
        description="Below 1 it swings, at 1 it comes to rest soonest, above it creeps; of the frequency, or of 1 Hz at 0.",
    )
    spread: NonNegative = Field(0.0, description="Metres per second at which short rings travel.")
    strength: Finite = Field(1.0, description="Multiplies the signal.")


def _kind(value: Any) -> str:
    return f"‹{value.get('kind') if isinstance(value, dict) else getattr(value, 'kind', None)}›"


Remembered = Annotated[
    Annotated[Growth, Tag("‹growth›")] | Annotated[Springs, Tag("‹springs›")],
    Discriminator(_kind, custom_error_type="kind", custom_error_message="growth or springs"),
]
"""What an object remembers, one of each."""


def remembered_names(each: Growth | Springs) -> tuple[str, ...]:
    """The attributes that it gives, each of one number.

    Parameters
    ----------
    each : Growth or Springs
        Of an object.

    Examples
    --------
    >>> remembered_names(Growth(kind="growth", name="frost", signal="cold"))
    ('frost', 'frost age', 'frost front')
    """
    beside = (AGE, FRONT) if isinstance(each, Growth) else (VELOCITY,)
    return (each.name, *(f"{each.name} {what}" for what in beside))


def signals_of(each: Growth | Springs) -> dict[str, str]:
    """The signals that it reads, by the fields that name them.

    Parameters
    ----------
    each : Growth or Springs
        Of an object.
    """
    named = {field: getattr(each, field, None) for field in ("signal", "ragged", "heals")}
    return {field: name for field, name in named.items() if name is not None}
