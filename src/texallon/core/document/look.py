"""A look: a complete material as a table of layers (rows) and channels (columns)."""

from enum import StrEnum

from pydantic import Field

from texallon.core.document.base import Fraction, Model, Name
from texallon.core.document.ids import Identified
from texallon.core.document.recipe import Recipe


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


class Layer(Identified):
    """One row of a look: where it lies, and the channels it changes there."""

    name: Name
    on: bool = True
    opacity: Fraction = Field(1.0, description="Scales the mask.")
    where: Recipe | None = Field(None, description="The mask; none means everywhere.")
    channels: dict[str, ChannelValue] = Field(default_factory=dict, description="By channel name (OpenPBR Surface).")


class Look(Identified):
    """A material: its layers from the bottom (first) to the top (last)."""

    name: Name
    layers: list[Layer] = Field(min_length=1, max_length=64)
