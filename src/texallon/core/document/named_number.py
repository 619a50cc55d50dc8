"""Named numbers: one value that several parameters use, also multiplied; they stand at the top of a look as its knobs."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Annotated, Any

from pydantic import Field

from texallon.core.document.base import Finite, Name
from texallon.core.document.ids import Identified
from texallon.core.document.look import Layer, Look
from texallon.core.document.names import nearest
from texallon.core.document.number_in_formula import formula_with, numbers_in_formula
from texallon.core.document.number_ref import NumberRef, is_number_ref
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
    project: bool = Field(False, description="Whether it is one number in all shots of the project.")


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
    known = {each.name: each.value for each in numbers}
    names = {look.name for look in looks}
    for index, each in enumerate(numbers):
        if each.look is not None and each.look not in names:
            yield Problem(
                pointer("numbers", index, "look"), f"there is no look “{each.look}”", nearest(each.look, names)
            )
        if each.low is not None and each.high is not None and each.low >= each.high:
            yield Problem(pointer("numbers", index, "low"), "the range has no extent", "low is less than high")
        if each.project and each.look is not None:
            yield Problem(pointer("numbers", index, "look"), "a number of the project is no look's own", "no look")
    for layer, path in _layers(looks):
        if isinstance(layer.opacity, NumberRef) and layer.opacity.number not in known:
            number = layer.opacity.number
            yield Problem(pointer(*path, "opacity"), f"there is no number “{number}”", nearest(number, known))
        elif isinstance(layer.opacity, NumberRef):
            wanted = layer.opacity.value_of(known[layer.opacity.number])
            if not 0 <= wanted <= 1:
                reason = f"“{layer.opacity.number}” would make the opacity of “{layer.name}” {wanted:.6g}"
                yield Problem(pointer(*path, "opacity"), reason, "between 0 and 1")
    for recipe, path in _recipes(signals, looks):
        for number, at in _refs([step.params for step in recipe.steps], (*path, "steps")):
            if number not in known:
                yield Problem(pointer(*at), f"there is no number “{number}”", nearest(number, known))


def _recipes(signals: Sequence[Signal], looks: Sequence[Look]) -> Iterator[tuple[Recipe, Path]]:
    for index, signal in enumerate(signals):
        yield signal.recipe, ("signals", index, "recipe")
    for layer, at in _layers(looks):
        if layer.where is not None:
            yield layer.where, (*at, "where")
        for name, entry in layer.channels.items():
            yield entry.recipe, (*at, "channels", name, "recipe")


def _layers(looks: Sequence[Look]) -> Iterator[tuple[Layer, Path]]:
    for look_index, look in enumerate(looks):
        for index, layer in enumerate(look.layers):
            yield layer, ("looks", look_index, "layers", index)


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
    opacity = layer.opacity
    if isinstance(opacity, NumberRef) and opacity.number in values:
        # Checked for what stands in the document; a number with keys may go on beyond.
        opacity = min(max(opacity.value_of(values[opacity.number]), 0.0), 1.0)
    made: Layer = _same_or(layer, where=where, channels=channels, opacity=opacity)
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


def project_numbers(document: Mapping[str, Any]) -> list[Any]:
    """The numbers that a shot has in common with its project's other shots.

    Parameters
    ----------
    document : mapping
        A shot as parsed JSON.
    """
    return [each for each in document.get("numbers", []) if each.get("project")]


def with_project_numbers(document: Mapping[str, Any], shared: Sequence[Any]) -> dict[str, Any]:
    """A shot with the project's numbers in the place of those that it had in common so far.

    Those that stay keep their places among the shot's own; new ones come after them.

    Parameters
    ----------
    document : mapping
        A shot as parsed JSON.
    shared : sequence
        Numbers of the project.

    Examples
    --------
    >>> shared = [{"name": "hue", "project": True}]
    >>> with_project_numbers({"numbers": [{"name": "own"}, {"name": "old", "project": True}]}, shared)
    {'numbers': [{'name': 'own'}, {'name': 'hue', 'project': True}]}
    """
    new = {each["name"]: each for each in shared}
    kept = [new.pop(each["name"], None) if each.get("project") else each for each in document.get("numbers", [])]
    return {**document, "numbers": [*(each for each in kept if each is not None), *new.values()]}


def used_numbers(part: Any) -> set[str]:
    """The names of numbers that a part of a document uses, in parameters, formulas and uses outside of recipes.

    Parameters
    ----------
    part : object
        Parsed JSON.

    Examples
    --------
    >>> sorted(used_numbers([{"size": {"number": "a", "times": 2}}, {"expression": 'number("b")'}]))
    ['a', 'b']
    """
    if isinstance(part, list):
        return set[str]().union(*map(used_numbers, part))
    if not isinstance(part, dict):
        return set()
    found = set[str]().union(*map(used_numbers, part.values()))
    if is_number_ref({key: each for key, each in part.items() if key not in ("at", "id")}):
        found.add(str(part["number"]))
    if isinstance(part.get("expression"), str):
        found.update(numbers_in_formula(part["expression"]))
    return found
