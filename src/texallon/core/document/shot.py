"""A shot: a scene, a camera, a frame range and the looks in use, in one document."""

from typing import Annotated, Literal

from pydantic import Field

from texallon.core.document.atmosphere import Atmosphere
from texallon.core.document.backdrop import Backdrop
from texallon.core.document.base import Model, Name, Positive
from texallon.core.document.bloom import Bloom
from texallon.core.document.camera import Camera
from texallon.core.document.light import Environment, Light
from texallon.core.document.light_group import LightGroup
from texallon.core.document.limits import Limits
from texallon.core.document.locator import Locator
from texallon.core.document.look import Look
from texallon.core.document.named_number import NamedNumber
from texallon.core.document.number_use import NumberUse
from texallon.core.document.object import Object
from texallon.core.document.object_group import ObjectGroup
from texallon.core.document.recipe import Signal
from texallon.core.document.sampling import Sampling
from texallon.core.document.saved_view import SavedView
from texallon.core.document.shutter import Shutter
from texallon.core.document.time_formula import Clock
from texallon.core.document.track import Track

SCHEMA: Literal[2] = 2
"""The number of the present form of the document; `migrate` brings older ones up to it."""


Frame = Annotated[int, Field(ge=-1_000_000, le=1_000_000)]


class Frames(Model):
    first: Frame = 1
    last: Frame = 48
    rate: Positive = Field(24.0, description="Frames per second.")

    @property
    def clock(self) -> Clock:
        """By which a frame has a time."""
        return Clock(self.first, self.last, self.rate)


class Shot(Model):
    schema_: Literal[2] = Field(SCHEMA, alias="schema", description="The form of this document.")
    name: Name = Field(description="Such as GH010.")
    title: str = Field("", max_length=200)
    frames: Frames = Field(default_factory=Frames)
    resolution: tuple[Annotated[int, Field(ge=16, le=8192)], Annotated[int, Field(ge=16, le=8192)]] = Field(
        (1280, 720), description="Width and height of final pictures, pixels."
    )
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = Field(0, description="Of the render's random numbers.")
    bounces: Annotated[int, Field(ge=0, le=64)] = Field(8, description="How often a light path may turn in all.")
    bloom: Bloom = Field(default_factory=Bloom)
    limits: Limits = Field(default_factory=Limits)
    sampling: Sampling = Field(default_factory=Sampling)
    camera: Camera = Field(default_factory=Camera)
    shutter: Shutter = Field(default_factory=Shutter)
    views: list[SavedView] = Field(default_factory=list, max_length=64)
    backdrop: Backdrop | None = Field(None, description="Seen by the camera in place of the surroundings.")
    environment: Environment = Field(default_factory=Environment)
    atmosphere: Atmosphere | None = Field(None, description="A volume that fills the whole shot under a height.")
    lights: list[Light] = Field(default_factory=list, max_length=64)
    light_groups: list[LightGroup] = Field(default_factory=list, max_length=15)
    locators: list[Locator] = Field(default_factory=list, max_length=256)
    object_groups: list[ObjectGroup] = Field(default_factory=list, max_length=256)
    objects: list[Object] = Field(default_factory=list, max_length=1024)
    numbers: list[NamedNumber] = Field(default_factory=list, max_length=256)
    number_uses: list[NumberUse] = Field(
        default_factory=list, max_length=1024, description="Places outside of recipes that take named numbers."
    )
    tracks: list[Track] = Field(
        default_factory=list, max_length=1024, description="Numbers that change over time, by keys or by a formula."
    )
    signals: list[Signal] = Field(default_factory=list, max_length=256)
    looks: list[Look] = Field(min_length=1, max_length=256)
