"""Shared signals across a project's documents: who uses one, and giving it another name, or writing it out where it is used.

All work on documents as plain JSON, and return new ones.
"""

from collections.abc import Callable, Iterator
from copy import deepcopy
from dataclasses import dataclass
from typing import Any, NamedTuple

from texallon.core.document.ids import by_id
from texallon.core.document.problem import DocumentError, Path, Problem, pointer
from texallon.core.document.recipe_address import recipe_label
from texallon.core.ops.expression import FormulaError, parse, renamed_signal
from texallon.core.ops.registry import ops

Json = dict[str, Any]


@dataclass(frozen=True)
class Use:
    """A recipe that uses a signal: its look (empty within a signal), its address, what people call it, and its path."""

    look: str
    address: str
    where: str
    path: Path


def recipes(document: Json) -> Iterator[tuple[str, Path, Json]]:
    """Every recipe of a shot, outermost first: look, path, and the recipe itself.

    Parameters
    ----------
    document : Json
        Parsed JSON of a shot.
    """
    for index, signal in enumerate(document.get("signals", [])):
        yield "", ("signals", index, "recipe"), signal["recipe"]
    for look_index, look in enumerate(document.get("looks", [])):
        for layer_index, layer in enumerate(look.get("layers", [])):
            at: Path = ("looks", look_index, "layers", layer_index)
            if layer.get("where"):
                yield look["name"], (*at, "where"), layer["where"]
            for name, entry in layer.get("channels", {}).items():
                yield look["name"], (*at, "channels", name, "recipe"), entry["recipe"]


def uses(document: Json, name: str) -> list[Use]:
    """Where a signal is used, once for each recipe.

    Parameters
    ----------
    document : Json
        Parsed JSON of a shot.
    name : str
        Of the signal, channel or output.
    """
    found = [
        Use(look, by_id(document, path), recipe_label(document, path), path)
        for look, path, recipe in recipes(document)
        if any(name == used for used, _ in _references(recipe.get("steps", []), path))
    ]
    return found + [
        Use(each.look, by_id(document, each.path), each.label, each.path)
        for each in _on_objects(document)
        if each.holder[each.field] == name
    ]


def built_on(document: Json, names: set[str]) -> set[str]:
    """These signals, and all that are made from them, by however many others.

    Parameters
    ----------
    document : Json
        Parsed JSON of a shot.
    names : set
        Of signals.
    """
    found = set(names)
    signals = document.get("signals", [])
    made_from = {each["name"]: {used for used, _ in _references(each["recipe"]["steps"], ())} for each in signals}
    while wider := {name for name, used in made_from.items() if used & found} - found:
        found |= wider
    return found


def signals_used(part: Json) -> Iterator[str]:
    """Names of the signals that a look or a signal uses, in formulas too.

    Parameters
    ----------
    part : Json
        A look or a signal, as plain JSON.
    """
    whole = {"looks": [part]} if "layers" in part else {"signals": [part]}
    for _, path, recipe in recipes(whole):
        yield from (name for name, _ in _references(recipe.get("steps", []), path))


def rename(document: Json, old: str, new: str) -> Json:
    """The document with a signal under another name, and all that use it following.

    Parameters
    ----------
    document : Json
        Parsed JSON of a shot.
    old : str
        The name until now.
    new : str
        The name from now on.
    """
    result = deepcopy(document)
    for signal in result.get("signals", []):
        if signal["name"] == old:
            signal["name"] = new
    for _, _, recipe in recipes(result):
        _each_step(recipe["steps"], lambda step: _rename_in(step, old, new))
    for each in _on_objects(result):
        if each.holder[each.field] == old:
            each.holder[each.field] = new
    return result


def inline(document: Json, name: str) -> Json:
    """The document without a signal, its steps written out wherever it was used.

    Raises `DocumentError` where a formula uses it, which can't hold steps.

    Parameters
    ----------
    document : Json
        Parsed JSON of a shot.
    name : str
        Of the signal, channel or output.
    """
    result = deepcopy(document)
    signal = next((each for each in result.get("signals", []) if each["name"] == name), None)
    if signal is None:
        return result
    for each in _on_objects(result):
        if each.holder[each.field] == name:
            reason = f"“{name}” is used by “{each.label}”, which can't hold its steps"
            raise DocumentError([Problem(pointer(*each.path), reason, "use another there, or keep the signal")])
    own = signal["recipe"]["steps"]
    result["signals"] = [each for each in result["signals"] if each["name"] != name]
    for _, path, recipe in recipes(result):
        recipe["steps"] = _written_out(recipe["steps"], name, own, (*path, "steps"))
    return result


class _OnObject(NamedTuple):
    """What of an object names a signal: the JSON that holds the name, a look that is seen there, what it is called, and its path."""

    holder: Json
    look: str
    label: str
    path: Path
    field: str = "signal"


def _on_objects(document: Json) -> Iterator[_OnObject]:
    """Parts whose faces a signal picks, and what signals do to copies."""
    for index, item in enumerate(document.get("objects", [])):
        for at, part in enumerate(item.get("parts", [])):
            if part.get("picked"):
                path: Path = ("objects", index, "parts", at, "picked")
                yield _OnObject(part["picked"], part["look"], f"{item['name']} · part {part['name']}", path)
        for at, change in enumerate(item.get("copies", [])):
            yield _OnObject(change, item["look"], f"{item['name']} · copies", ("objects", index, "copies", at))
        if item.get("floats"):
            yield _OnObject(item["floats"], item["look"], f"{item['name']} · floats", ("objects", index, "floats"))
        for at, each in enumerate(item.get("remembers", [])):
            for field in ("signal", "ragged", "heals"):
                if each.get(field) is not None:
                    label = f"{item['name']} · remembers {each['name']}"
                    yield _OnObject(each, item["look"], label, ("objects", index, "remembers", at), field)


def _references(steps: list[Json], path: Path) -> Iterator[tuple[str, Path]]:
    for index, step in enumerate(steps):
        at = (*path, "steps", index)
        params = step.get("params", {})
        if step["op"] == "signal" and isinstance(params.get("signal"), str):
            yield params["signal"], at
        if step["op"] == "formula":
            try:
                yield from ((name, at) for name in parse(str(params.get("expression", ""))).signals)
            except FormulaError:
                pass  # it is reported elsewhere
        for name, value in params.items():
            for inner, where in _stand_in_values(value, (*at, "params", name)):
                if "signal" in inner:
                    yield inner["signal"], where
                    yield from _references(inner.get("space", []), where)
                else:
                    yield from _references(inner["steps"], where)


def _stand_in_values(value: Any, path: Path) -> Iterator[tuple[Json, Path]]:
    """Signals and recipes that stand in a parameter's place, or within it, as in a ramp's stops."""
    if isinstance(value, dict) and ("signal" in value or "steps" in value):
        yield value, path
    elif isinstance(value, dict | list):
        for key, each in value.items() if isinstance(value, dict) else enumerate(value):
            yield from _stand_in_values(each, (*path, key))


def _each_step(steps: list[Json], change: Callable[[Json], None]) -> None:
    for step in steps:
        change(step)
        for inner, _ in _stand_in_values(list(step.get("params", {}).values()), ()):
            _each_step(inner.get("steps", []) + inner.get("space", []), change)


def _rename_in(step: Json, old: str, new: str) -> None:
    params = step.get("params", {})
    if step["op"] == "signal" and params.get("signal") == old:
        params["signal"] = new
    if step["op"] == "formula" and "expression" in params:
        params["expression"] = renamed_signal(params["expression"], old, new)
    for value, _ in _stand_in_values(list(params.values()), ()):
        if value.get("signal") == old:
            value["signal"] = new


def _written_out(steps: list[Json], name: str, own: list[Json], path: Path) -> list[Json]:
    """Steps with a signal's own ones in its place."""
    result: list[Json] = []
    space = [step for step in steps if _is_space(step)]
    for index, step in enumerate(steps):
        params = step.get("params", {})
        at = (*path, index)
        if step["op"] == "formula" and name in parse(str(params.get("expression", "0"))).signals:
            reason = f"a formula uses “{name}”, and a formula can't hold its steps"
            raise DocumentError([Problem(pointer(*at), reason, "change the formula, or keep the signal")])
        if step["op"] == "signal" and params.get("signal") == name:
            if not step.get("on", True):
                result.append({"op": "constant", "on": True, "params": {"value": 0.0}})
                continue
            mine = _stand_ins(deepcopy(own), params.get("stand_ins", {}))
            for inner in mine:
                if space:
                    # Within the signal everything was looked up in the bent space, its second inputs too.
                    inner["params"] = {key: _bent(value, space) for key, value in inner.get("params", {}).items()}
            result += mine
            continue
        changed = dict(step)
        changed["params"] = {
            key: _input_written_out(value, name, own, (*at, "params", key)) for key, value in params.items()
        }
        result.append(changed)
    return result


def _input_written_out(value: Any, name: str, own: list[Json], path: Path) -> Any:
    if isinstance(value, list):
        return [_input_written_out(each, name, own, (*path, k)) for k, each in enumerate(value)]
    if not isinstance(value, dict):
        return value
    if value.get("signal") == name:
        mine = _stand_ins(deepcopy(own), value.get("stand_ins", {}))
        space = value.get("space", [])
        for inner in mine:
            if space:
                inner["params"] = {key: _bent(each, space) for key, each in inner.get("params", {}).items()}
        return {"steps": [*space, *mine]}
    if "steps" in value:
        return {**value, "steps": _written_out(value["steps"], name, own, (*path, "steps"))}
    return {key: _input_written_out(each, name, own, (*path, key)) for key, each in value.items()}


def _bent(value: Any, space: list[Json]) -> Any:
    """A second input that is looked up through space steps."""
    if isinstance(value, dict) and "signal" in value:
        return {**value, "space": [*space, *value.get("space", [])]}
    if isinstance(value, dict) and "steps" in value:
        return {**value, "steps": [*space, *value["steps"]]}
    if isinstance(value, dict):
        return {key: _bent(each, space) for key, each in value.items()}
    return [_bent(each, space) for each in value] if isinstance(value, list) else value


def _stand_ins(value: Any, spaces: Json) -> Any:
    """The same with locators and objects replaced by what stands in for them, within other signals too."""
    if not spaces:
        return value
    if isinstance(value, dict) and isinstance(value.get("signal"), str):
        own = {name: _stand_ins(place, spaces) for name, place in value.get("stand_ins", {}).items()}
        return {**{k: _stand_ins(v, spaces) for k, v in value.items()}, "stand_ins": {**deepcopy(spaces), **own}}
    if isinstance(value, dict):
        if set(value) in ({"locator"}, {"object"}) and next(iter(value.values())) in spaces:
            return deepcopy(spaces[next(iter(value.values()))])
        return {key: _stand_ins(each, spaces) for key, each in value.items()}
    return [_stand_ins(each, spaces) for each in value] if isinstance(value, list) else value


def _is_space(step: Json) -> bool:
    kind = ops().get(step["op"])
    return kind is not None and kind.kind == "warp"
