"""A group of objects and locators with a common placement."""

from pydantic import Field

from texallon.core.document.base import Name, Positive, Vector
from texallon.core.document.ids import Identified

Stretch = tuple[Positive, Positive, Positive]
"""Factors along a thing's own axes, beside its even scale."""


class ObjectGroup(Identified):
    """What belongs to it is moved, turned and scaled by it; groups may belong to groups."""

    name: Name
    belongs_to: Name | None = Field(None, description="An object group that this one lies in.")
    position: Vector = Field((0.0, 0.0, 0.0), description="Metres.")
    rotation: Vector = Field((0.0, 0.0, 0.0), description="Degrees about x, then y, then z.")
    scale: Positive = 1.0
    stretch: Stretch = Field((1.0, 1.0, 1.0), description="Factors along its own axes, beside the scale.")
    locked: bool = Field(False, description="Whether it is kept from being moved by hand.")
