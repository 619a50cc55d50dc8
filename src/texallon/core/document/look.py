"""A look: a complete material as a table of layers (rows) and channels (columns)."""

from enum import StrEnum
from typing import Annotated

from pydantic import Discriminator, Field, Tag, model_validator

from texallon.core.document.base import Finite, Fraction, Model, Name
from texallon.core.document.channels import LookDomain
from texallon.core.document.ids import Identified
from texallon.core.document.number_ref import NumberRef
from texallon.core.document.recipe import Recipe
from texallon.core.document.space import Space


class Blend(StrEnum):
    """How a layer's value meets the value of the layers below it, where the mask is 1."""

    replace = "replace"  # type: ignore[assignment]
    multiply = "multiply"
    add = "add"
    lighter = "lighter"
    darker = "darker"


class ChannelValue(Model):
    """What one layer puts into one channel."""

    recipe: Recipe
    blend: Blend = Blend.replace


class LookRef(Model):
    """Another look that a layer carries: all its layers, blended one after the other with what lies below, lie where the layer does."""

    look: Name
    bare: bool = Field(
        False,
        description="Begin from what channels are by default, as a material of its own; else from what lies below.",
    )
    stand_ins: dict[Name, Space] = Field(
        default_factory=dict,
        description="What stands in, here, for locators and objects that the look measures from, by their names.",
    )


def _own_or_named(value: object) -> str:
    return "‹named›" if isinstance(value, dict | NumberRef) else "‹own›"


Opacity = Annotated[
    Annotated[Fraction, Tag("‹own›")] | Annotated[NumberRef, Tag("‹named›")], Discriminator(_own_or_named)
]
"""A number of its own, or a named one; what is wrong is said of the one that it was meant to be."""


class Layer(Identified):
    """One row of a look: where it lies, and the channels it changes there, or another look that it puts there."""

    name: Name
    on: bool = True
    opacity: Opacity = Field(1.0, description="Scales the mask; may be a named number.")
    where: Recipe | None = Field(None, description="The mask; none means everywhere.")
    channels: dict[str, ChannelValue] = Field(default_factory=dict, description="By channel name (OpenPBR Surface).")
    look: LookRef | None = Field(None, description="Another look, in place of channels of the layer's own.")

    @property
    def plain_opacity(self) -> float:
        """Its opacity where named numbers have their values, as in a resolved shot; raises `TypeError` elsewhere."""
        if isinstance(self.opacity, NumberRef):
            raise TypeError(f"the opacity of {self.name} names a number that has not got its value yet")
        return self.opacity

    @model_validator(mode="after")
    def _either(self) -> "Layer":
        if self.look is not None and self.channels:
            raise ValueError("a layer has channels of its own or carries a look, not both")
        return self


class ShelfLink(Model):
    """Which look of the shelf a look came from, and which version of it."""

    name: Name
    version: int = Field(ge=1)


class BrightPoints(Model):
    """Where the bright points of a volume lie: one at random in each cell of a lattice in the space of what it fills."""

    spacing: Annotated[Finite, Field(ge=1e-4, le=1e4)] = Field(0.1, description="Size of a cell, metres.")
    filled: Fraction = Field(1.0, description="Share of the cells that have a point.")
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 0


class Look(Identified):
    """A material: its layers from the bottom (first) to the top (last)."""

    name: Name
    domain: LookDomain = Field("surface", description="Whether it is what surfaces look like, or what fills bodies.")
    layers: list[Layer] = Field(min_length=1, max_length=64)
    shelf: ShelfLink | None = Field(None, description="The look of the shelf that it stays linked to, if any.")
    points: BrightPoints | None = Field(
        None, description="Of a volume: where its bright points lie, if its layers give them light."
    )
