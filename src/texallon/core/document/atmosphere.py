"""The atmosphere: a volume that fills the whole shot under a height."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import Finite, Model, Name


class Atmosphere(Model):
    """What fills the air, but not the bodies that light passes: mist, haze, fog."""

    look: Name = Field(description="A look of the volume domain.")
    ceiling: Finite = Field(20.0, description="Metres: it fills what lies lower.")
    floor: Finite = Field(-2.0, description="Metres: it fills what lies higher.")
    centre: tuple[Finite, Finite] = Field((0.0, 0.0), description="x and z of its middle, metres.")
    reach: Annotated[Finite, Field(ge=0.01, le=100_000)] = Field(
        60.0, description="Metres that it reaches to all sides; nothing finer than a thousandth of this is kept of it."
    )
    on: bool = True
