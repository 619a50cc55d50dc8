"""A locator: a placed, turned and scaled point that masks are measured from and objects may follow."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import Name, Positive, Vector
from texallon.core.document.ids import Identified
from texallon.core.document.object_group import Stretch


class Locator(Identified):
    name: Name
    position: Vector = Field((0.0, 0.0, 0.0), description="Metres.")
    rotation: Vector = Field((0.0, 0.0, 0.0), description="Degrees about x, then y, then z.")
    scale: Positive = 1.0
    stretch: Stretch = Field((1.0, 1.0, 1.0), description="Factors along its own axes, beside the scale.")
    follows: Name | None = Field(None, description="An object whose placement this locator's is added to.")
    belongs_to: Name | None = Field(
        None, description="An object group; its placement counts unless an object is followed."
    )
    along: Name | None = Field(
        None,
        description="An object that is a tube: the locator stands on the line in its middle, and its own placement is added there.",
    )
    along_share: Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)] = Field(
        0.0,
        description="Share of that line's length, 0…1; round a closed line it goes on beyond them.",
    )
    turns_along: bool = Field(True, description="Whether its z axis goes the way of that line.")
    aims_at: Name | None = Field(None, description="A locator that its z axis points at, in place of its own rotation.")
    locked: bool = Field(False, description="Whether it is kept from being moved by hand.")
