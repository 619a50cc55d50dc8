"""Bloom: the glow round what is very bright, as light scatters in every lens and eye."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import SMALLEST, Fraction, Model, NonNegative


class Bloom(Model):
    """A share of the light above a threshold is spread over its surroundings; none is added and none lost."""

    intensity: Fraction = Field(0.0, description="Share of that light which is spread.")
    threshold: NonNegative = Field(1.0, description="Brightness from which light spreads, in the picture's own units.")
    size: Annotated[
        float, Field(ge=SMALLEST, le=1, description="Radius of the glow, as a share of the picture's width.")
    ] = 0.06
