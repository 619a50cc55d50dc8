"""An object that floats on water that a signal describes."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import Finite, Fraction, Model, Name, Positive


class Floats(Model):
    """How an object is carried by water: drawn to its height under it, and to its slope, as a body that has weight."""

    signal: Name = Field(description="A shared signal: the height of the water in metres, by the place in the world.")
    draught: Positive = Field(
        0.1,
        description="Metres that it lies in calm water; the deeper, the slower it rises and sinks: once in 2π √(draught/g) seconds.",
    )
    damping: Annotated[Finite, Field(ge=0, le=4)] = Field(
        0.2, description="Below 1 it swings on when a wave has passed."
    )
    tilts: Fraction = Field(1.0, description="How far it follows the slope of the water.")
