"""A recipe: how a signal is made, a source followed by a run of steps; steps that bend space stand before the source."""

from typing import Any

from pydantic import Field

from texallon.core.document.base import Model, Name
from texallon.core.document.ids import Identified
from texallon.core.document.space import Space


class Step(Identified):
    """One op with its parameters."""

    op: str = Field(description="The op's name, as `texallon ops` lists it.")
    on: bool = Field(True, description="An op that is switched off passes its input on unchanged.")
    params: dict[str, Any] = Field(
        default_factory=dict, description="The op's parameters; those left out take defaults."
    )


class SignalRef(Model):
    """A named signal used where a number could stand."""

    signal: Name = Field(description="The name of a signal of the project.")
    space: list[Step] = Field(default_factory=list, max_length=16, description="Space steps that bend its lookup.")
    stand_ins: dict[Name, Space] = Field(
        default_factory=dict,
        description="What stands in, here, for locators and objects that the signal measures from, by their names.",
    )


class Recipe(Model):
    """A source and the steps that refine its values, in reading order; space steps first of all."""

    steps: list[Step] = Field(min_length=1, max_length=64)


class Signal(Identified):
    """A recipe with a name, usable by every look of every shot of the project."""

    name: Name
    recipe: Recipe
