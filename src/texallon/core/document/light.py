"""Lights: the surrounding environment, and rectangles that shine from one side."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import Finite, Model, Name, NonNegative, Positive, Radiance, Vector
from texallon.core.document.object import FileRef


class Environment(Model):
    """Light from all directions: a latitude-longitude picture, or an even colour where there is none."""

    image: FileRef | None = Field(None, description="A latitude-longitude EXR in scene-linear light.")
    colour: Radiance = Field((1.0, 1.0, 1.0), description="Multiplies the picture, or stands alone.")
    intensity: NonNegative = 1.0
    rotation: Finite = Field(0.0, description="Degrees about the vertical.")
    visible: bool = Field(True, description="Whether the camera sees it, or black.")


class AreaLight(Model):
    """A rectangle that emits evenly over its front, the side that faces `target`."""

    name: Name
    on: bool = True
    position: Vector = (0.0, 3.0, 0.0)
    target: Vector = (0.0, 0.0, 0.0)
    width: Positive = Field(0.5, description="Metres.")
    height: Positive = Field(0.5, description="Metres.")
    colour: Radiance = (1.0, 1.0, 1.0)
    power: NonNegative = Field(10.0, description="Watts: radiance is power times colour over pi times area.")
    visible: Annotated[bool, Field(description="Whether the camera sees the rectangle itself.")] = True
