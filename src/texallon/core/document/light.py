"""Lights: the surrounding environment, and lamps of several shapes."""

from typing import Annotated, Literal

from pydantic import Field

from texallon.core.document.base import Finite, Model, Name, NonNegative, Positive, Radiance, Vector
from texallon.core.document.ids import Identified
from texallon.core.document.object import FileRef
from texallon.core.document.sky import Sky


class Environment(Model):
    """Light from all directions: a latitude-longitude picture, or an even colour where there is none."""

    image: FileRef | None = Field(None, description="A latitude-longitude EXR in scene-linear light.")
    sky: Sky | None = Field(None, description="A sky made from the sun's height, in place of a picture.")
    colour: Radiance = Field((1.0, 1.0, 1.0), description="Multiplies the picture, or stands alone.")
    intensity: NonNegative = 1.0
    rotation: Finite = Field(0.0, description="Degrees about the vertical.")
    tilt: Vector = Field(
        (0.0, 0.0, 0.0),
        description="Degrees about x, then y, then z, by which all of it is turned besides, about any axis.",
    )
    visible: bool = Field(True, description="Whether the camera sees it, or black.")
    group: Name | None = Field(None, description="The light group it belongs to.")


AREAS = ("rectangle", "disc", "sphere")
"""Shapes that have an extent in the picture."""


class Light(Identified):
    """A lamp. Rectangles, discs and spots face `target`; the sun shines from `position` towards it, from infinitely far."""

    name: Name
    on: bool = True
    shape: Literal["rectangle", "disc", "sphere", "point", "spot", "sun"] = "rectangle"
    position: Vector = (0.0, 3.0, 0.0)
    target: Vector = (0.0, 0.0, 0.0)
    width: Positive = Field(0.5, description="Metres; of a disc and a sphere the diameter.")
    height: Positive = Field(0.5, description="Metres, of a rectangle.")
    cone: Annotated[float, Field(ge=0.01, le=180, description="Degrees across a spot's cone.")] = 40.0
    blend: Annotated[float, Field(ge=0, le=1, description="Share of a spot's cone in which it fades.")] = 0.3
    angle: Annotated[float, Field(ge=0, le=90, description="Degrees across the sun's disc; 0 gives sharp shadows.")] = (
        0.53
    )
    colour: Radiance = (1.0, 1.0, 1.0)
    power: NonNegative = Field(
        10.0, description="Watts, sent out evenly by its surface or from its point; of the sun watts per square metre."
    )
    visible: Annotated[bool, Field(description="Whether the camera sees the lamp itself.")] = True
    group: Name | None = Field(None, description="The light group it belongs to.")
