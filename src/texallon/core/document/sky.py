"""A sky by the sun's height, day or night, in place of a picture of the surroundings."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import Finite, Model, NonNegative


class Sky(Model):
    """By day the zenith has radiance 1 when the sun stands high; `Environment.intensity` scales it."""

    sun_height: Annotated[
        float, Field(ge=-90, le=90, description="Degrees above the horizon; below it night falls.")
    ] = 35.0
    sun_direction: Finite = Field(0.0, description="Degrees about the vertical, from −z towards +x.")
    haze: Annotated[float, Field(ge=2, le=10, description="Turbidity: 2 very clear, 10 hazy.")] = 3.0
    stars: NonNegative = Field(1.0, description="Scales the light of stars and of the night sky.")
