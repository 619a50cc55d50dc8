"""A recipe: how a signal is made, a source followed by a run of steps."""

from typing import Any

from pydantic import Field

from texallon.core.document.base import Model, Name


class SignalRef(Model):
    """A named signal used where a number could stand."""

    signal: Name = Field(description="The name of a signal of this shot.")


class Step(Model):
    """One op with its parameters; the first step of a recipe is its source."""

    op: str = Field(description="The op's name, as `texallon ops` lists it.")
    on: bool = Field(True, description="An op that is switched off passes its input on unchanged.")
    params: dict[str, Any] = Field(
        default_factory=dict, description="The op's parameters; those left out take defaults."
    )


class Recipe(Model):
    """A source and the steps that refine its values, in reading order."""

    steps: list[Step] = Field(min_length=1, max_length=64)


class Signal(Model):
    """A recipe with a name, usable by every look of the shot."""

    name: Name
    recipe: Recipe
