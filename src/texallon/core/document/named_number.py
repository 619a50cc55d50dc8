"""Named numbers: one value that several parameters use, also multiplied; they stand at the top of a look as its knobs."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Annotated, Any

from pydantic import Field

from texallon.core.document.base import Finite, Model, Name
from texallon.core.document.ids import Identified
from texallon.core.document.look import Layer, Look
from texallon.core.document.names import nearest
from texallon.core.document.number_in_formula import formula_with, numbers_in_formula
from texallon.core.document.problem import Path, Problem, pointer
from texallon.core.document.recipe import Recipe, Signal, Step


class NamedNumber(Identified):
    """A number with a name that parameters of steps can use."""

    name: Name
    value: Finite = 1.0
    unit: Annotated[str, Field(max_length=16)] = ""
    low: Finite | None = Field(None, description="The least that it is dragged to.")
    high: Finite | None = Field(None, description="The most that it is dragged to.")
    note: Annotated[str, Field(max_length=400)] = ""
    look: Name | None = Field(None, description="The look whose knob it is; of the whole shot where none is named.")


class NumberRef(Model):
    """A named number in a parameter's place: its value times `times`, plus `plus`."""

    number: Name
    times: Finite = 1.0
    plus: Finite = 0.0


def is_number_ref(value: Any) -> bool:
    """Whether a parameter's value names a number.

    Parameters
    ----------
    value : object
        Of a parameter.
    """
    return isinstance(value, dict) and "number" in value and value.keys() <= {"number", "times", "plus"}


def with_numbers(
    numbers: Sequence[NamedNumber], signals: Sequence[Signal], looks: Sequence[Look]
) -> tuple[list[Signal], list[Look]]:
    """Signals and looks with the values of named numbers in the place of their names.

    What names no number is the same object as before. A name that there is none of stays as it is, for whoever checks parameters.

    Parameters
    ----------
    numbers : sequence of NamedNumber
        Of the shot.
    signals : sequence of Signal
        Of the shot.
    looks : sequence of Look
        Of the shot.
    """
    if not numbers:
        return list(signals), list(looks)
    values = {each.name: each.value for each in numbers}
    made = [_same_or(each, recipe=_recipe(each.recipe, values)) for each in signals]
    return made, [_same_or(look, layers=[_layer(layer, values) for layer in look.layers]) for look in looks]


def number_problems(
    numbers: Sequence[NamedNumber], signals: Sequence[Signal], looks: Sequence[Look]
) -> Iterator[Problem]:
    """Numbers that parameters name and the shot does not have, numbers of looks that are not there, and ranges that are none.

    Parameters
    ----------
    numbers : sequence of NamedNumber
        Of the shot.
    signals : sequence of Signal
        Of the shot.
    looks : sequence of Look
        Of the shot.
    """
    known = {each.name for each in numbers}
    names = {look.name for look in looks}
    for index, each in enumerate(numbers):
        if each.look is not None and each.look not in names:
            yield Problem(
                pointer("numbers", index, "look"), f"there is no look “{each.look}”", nearest(each.look, names)
            )
        if each.low is not None and each.high is not None and each.low >= each.high:
            yield Problem(pointer("numbers", index, "low"), "the range has no extent", "low is less than high")
    for recipe, path in _recipes(signals, looks):
        for number, at in _refs([step.params for step in recipe.steps], (*path, "steps")):
            if number not in known:
                yield Problem(pointer(*at), f"there is no number “{number}”", nearest(number, known))


def _recipes(signals: Sequence[Signal], looks: Sequence[Look]) -> Iterator[tuple[Recipe, Path]]:
    for index, signal in enumerate(signals):
        yield signal.recipe, ("signals", index, "recipe")
    for look_index, look in enumerate(looks):
        for index, layer in enumerate(look.layers):
            at: Path = ("looks", look_index, "layers", index)
            if layer.where is not None:
                yield layer.where, (*at, "where")
            for name, entry in layer.channels.items():
                yield entry.recipe, (*at, "channels", name, "recipe")


def _refs(steps: list[dict[str, Any]], path: Path) -> Iterator[tuple[str, Path]]:
    for index, params in enumerate(steps):
        yield from _refs_in(params, (*path, index, "params"))


def _refs_in(value: Any, path: Path) -> Iterator[tuple[str, Path]]:
    if is_number_ref(value):
        yield str(value["number"]), path
    elif isinstance(value, dict):
        if isinstance(value.get("expression"), str):
            yield from ((name, (*path, "expression")) for name in numbers_in_formula(value["expression"]))
        for key, each in value.items():
            yield from _refs_in(each, (*path, key))
    elif isinstance(value, list):
        for index, each in enumerate(value):
            yield from _refs_in(each, (*path, index))


def _same_or(model: Any, **changed: Any) -> Any:
    if all(_is(getattr(model, name), value) for name, value in changed.items()):
        return model
    return model.model_copy(update=changed)


def _is(old: Any, new: Any) -> bool:
    if isinstance(old, list):
        return len(old) == len(new) and all(a is b for a, b in zip(old, new, strict=True))
    if isinstance(old, dict):
        return old.keys() == new.keys() and all(old[key] is new[key] for key in old)
    return old is new


def _layer(layer: Layer, values: Mapping[str, float]) -> Layer:
    where = None if layer.where is None else _recipe(layer.where, values)
    channels = {name: _same_or(entry, recipe=_recipe(entry.recipe, values)) for name, entry in layer.channels.items()}
    made: Layer = _same_or(layer, where=where, channels=channels)
    return made


def _recipe(recipe: Recipe, values: Mapping[str, float]) -> Recipe:
    made: Recipe = _same_or(recipe, steps=[_step(step, values) for step in recipe.steps])
    return made


def _step(step: Step, values: Mapping[str, float]) -> Step:
    params = {name: _value(value, values) for name, value in step.params.items()}
    if step.op == "formula":
        params = _formula(params, values)
    made: Step = _same_or(step, params=params)
    return made


def _value(value: Any, values: Mapping[str, float]) -> Any:
    if is_number_ref(value):
        if value["number"] not in values:
            return value
        return values[value["number"]] * value.get("times", 1.0) + value.get("plus", 0.0)
    if isinstance(value, dict):
        inner = {key: _value(each, values) for key, each in value.items()}
        if value.get("op") == "formula" and isinstance(inner.get("params"), dict):
            inner["params"] = _formula(inner["params"], values)
        return value if all(inner[key] is value[key] for key in value) else inner
    if isinstance(value, list):
        made = [_value(each, values) for each in value]
        return value if all(a is b for a, b in zip(made, value, strict=True)) else made
    return value


def _formula(params: dict[str, Any], values: Mapping[str, float]) -> dict[str, Any]:
    """A formula's parameters with the values of the numbers that it names."""
    text = params.get("expression")
    if not isinstance(text, str) or not numbers_in_formula(text):
        return params
    written = {name: f"({value!r})" for name, value in values.items()}
    return {**params, "expression": formula_with(text, written.get)}
