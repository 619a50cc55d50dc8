"""Every op by name, found by looking into this folder: adding an op touches no list."""

import importlib
import json
import pkgutil
from functools import cache, lru_cache
from typing import Any

from pydantic import BaseModel, ValidationError
from pydantic.fields import FieldInfo

import texallon.core.ops as folder
from texallon.core.document.names import nearest
from texallon.core.document.problem import Problem, pointer
from texallon.core.document.recipe import Recipe, SignalRef, Step
from texallon.core.ops.op import Op
from texallon.core.ops.synonyms import synonyms_of

KINDS = ("source", "modifier", "warp")


@cache
def ops() -> dict[str, type[Op]]:
    """All ops by name: sources, steps, then those that bend space, each in alphabetical order."""
    for module in pkgutil.iter_modules(folder.__path__):
        importlib.import_module(f"{folder.__name__}.{module.name}")
    found = [kind for kind in _below(Op) if "name" in vars(kind) and kind.__module__.startswith(folder.__name__)]
    return {kind.name: kind for kind in sorted(found, key=lambda kind: (KINDS.index(kind.kind), kind.name))}


def _below(base: type[Op]) -> list[type[Op]]:
    return [each for kind in base.__subclasses__() for each in (kind, *_below(kind))]


def make_op(step: Step, *path: str | int) -> Op | list[Problem]:
    """The op of a step with its parameters checked, or what is wrong with it; `path` leads to the step.

    Parameters
    ----------
    step : Step
        One step of a recipe.
    *path : object
        Where it stands in the document, or more of the same.
    """
    try:
        return _made(step.op, json.dumps(step.params))
    except (_WrongStepError, TypeError):
        return _checked(step, *path)


class _WrongStepError(ValueError):
    """What is wrong depends on where the step stands: it is not kept."""


@lru_cache(maxsize=4096)
def _made(name: str, params: str) -> Op:
    """An op by its name and its parameters as JSON. Ops never change, and a shot is planned anew at each move of a hand."""
    made = _checked(Step(op=name, params=json.loads(params)))
    if isinstance(made, list):
        raise _WrongStepError(name)
    return made


def _checked(step: Step, *path: str | int) -> Op | list[Problem]:
    kind = ops().get(step.op)
    if kind is None:
        return [Problem(pointer(*path, "op"), f"there is no op “{step.op}”", nearest(step.op, ops()))]
    varied: dict[str, SignalRef | Recipe] = {}
    problems: list[Problem] = []
    plain = dict(step.params)
    for name, value in step.params.items():
        if not _stands_in(value) or type_word(kind, name) not in NUMBERS:
            continue
        del plain[name]
        at = (*path, "params", name)
        if name not in kind.can_vary:
            may = ", ".join(kind.can_vary)
            hint = f"of {kind.name} these may vary from point to point: {may}" if may else "give it a number"
            problems.append(Problem(pointer(*at), f"“{name}” of {kind.name} is one number for all points", hint))
            continue
        model = Recipe if "steps" in value else SignalRef
        try:
            varied[name] = model.model_validate(value)
        except ValidationError as error:
            problems += [
                Problem(pointer(*at, *detail["loc"]), f"{kind.name}: {detail['msg']}") for detail in error.errors()
            ]
    try:
        op = kind.model_validate(plain)
    except ValidationError as error:
        problems += [
            Problem(
                pointer(*path, "params", *_plain(detail["loc"])),
                f"{kind.name}: {detail['msg'].removeprefix('Value error, ')}",
                _hint(detail, kind),
                getattr(detail.get("ctx", {}).get("error"), "at", None),
            )
            for detail in error.errors()
        ]
        return problems
    return problems or (op.with_varied(varied) if varied else op)


NUMBERS = ("number", "whole number")
"""Kinds of parameters that could vary from point to point."""


def _stands_in(value: Any) -> bool:
    return isinstance(value, dict) and ("steps" in value or "signal" in value)


def type_word(kind: type[Op], name: str) -> str:
    """What the page offers for a parameter; empty where there is no such one.

    Parameters
    ----------
    kind : type[Op]
        The op's class.
    name : str
        Of the parameter.
    """
    return _type_words(kind).get(name, "")


@cache
def _type_words(kind: type[Op]) -> dict[str, str]:
    return {name: _type_word(schema) for name, schema in kind.model_json_schema()["properties"].items()}


def limits_of(kind: type[Op], name: str) -> tuple[float | None, float | None]:
    """The least and the most that a parameter may be, where there are such.

    Parameters
    ----------
    kind : type[Op]
        The op's class.
    name : str
        Of the parameter.
    """
    limits = {type(limit).__name__: limit for limit in kind.model_fields[name].metadata}
    low = getattr(limits.get("Ge"), "ge", getattr(limits.get("Gt"), "gt", None))
    return low, getattr(limits.get("Le"), "le", None)


def _plain(loc: tuple[str | int, ...]) -> list[str | int]:
    """The part of pydantic's location that is a place in the document (a union's branches are not)."""
    keep: list[str | int] = list(loc[:1])
    if loc and loc[0] == "stops":
        keep = [part for part in loc[:3] if isinstance(part, int) or part in ("stops", "at", "value")]
    return keep


def _hint(detail: Any, kind: type[Op]) -> str:
    if detail["type"] == "extra_forbidden":
        return nearest(str(detail["loc"][-1]), kind.model_fields)
    return ""


def describe(kind: type[Op]) -> dict[str, Any]:
    """What a person, a page or a program needs to know to use an op, as plain JSON values.

    Parameters
    ----------
    kind : type[Op]
        The op's class.
    """
    return {
        "name": kind.name,
        "kind": kind.kind,
        "category": kind.category,
        "purpose": kind.purpose,
        "synonyms": list(synonyms_of(kind.name)),
        "source": kind.reference,
        "phrase": kind.phrase,
        "signal_phrase": kind.signal_phrase or kind.phrase,
        "narrow": dict(kind.narrow),
        "fresh": dict(kind.fresh),
        "handles": list(kind.handles),
        "non_finite": kind.non_finite,
        "parameters": [_describe_parameter(kind, name, field) for name, field in kind.model_fields.items()],
    }


def _describe_parameter(kind: type[Op], name: str, field: FieldInfo) -> dict[str, Any]:
    schema = kind.model_json_schema()["properties"][name]
    return {
        "name": name,
        "type": _type_word(schema),
        "unit": schema.get("unit", ""),
        "range": list(limits_of(kind, name)),
        "varies": (4 if name in kind.bends else 1) if name in kind.can_vary else 0,
        "choices": schema.get("enum", []),
        "default": None if field.is_required() else _plain_value(field.get_default()),
        "purpose": field.description or "",
    }


def _plain_value(default: Any) -> Any:
    if isinstance(default, BaseModel):
        return default.model_dump(mode="json")
    return [_plain_value(item) for item in default] if isinstance(default, tuple) else default


def _type_word(schema: dict[str, Any]) -> str:
    if "kind" in schema:
        return str(schema["kind"])
    if "enum" in schema:
        return "choice"
    if "anyOf" in schema:
        return "number or colour"
    return {"number": "number", "integer": "whole number", "boolean": "switch", "array": "vector"}.get(
        schema.get("type", ""), "text"
    )
