"""The core's contracts: numpydoc's own validation of every public function and class, and their examples run as doctests.

Rules of numpydoc that hold here: a docstring is there (GL08); every parameter is documented and no other (PR01, PR02), in the
signature's order (PR03), with a type (PR04) and a description (PR07); sections are underlined and known (GL06), in their order (GL07).

Exceptions, with their reasons:

* a method that fills in one of its base class inherits the contract from there (`Op.result_width`, `Op.verdict` …): Python hands
  the docstring down, and saying it sixty times would bury what differs; what only the base class calls is a hook (`_fill`, `_check_recipe`);
* models of the document say what a field means beside the field, where the JSON Schema and the page get it from;
* named tuples and dataclasses list their members as Attributes or in a sentence;
* a function without parameters has no such section.
"""

import doctest
import importlib
import inspect
import pkgutil
from collections.abc import Iterator
from types import ModuleType
from typing import Any

import pytest
from numpydoc.docscrape import get_doc_object
from numpydoc.validate import validate

import texallon.core

RULES = {"GL06", "GL07", "GL08", "PR01", "PR02", "PR03", "PR04", "PR07"}


def modules() -> list[ModuleType]:
    found = pkgutil.walk_packages(texallon.core.__path__, "texallon.core.")
    return [importlib.import_module(each.name) for each in found]


MODULES = modules()


def public(module: ModuleType) -> Iterator[tuple[str, Any]]:
    """Functions and methods that a module defines itself, kernels and derived functions among them, by dotted name."""
    for name, value in vars(module).items():
        inner = getattr(value, "py_func", getattr(value, "__wrapped__", value))
        if name.startswith("_") or getattr(inner, "__module__", None) != module.__name__:
            continue
        if inspect.isfunction(inner):
            yield f"{module.__name__}.{name}", inner
        elif inspect.isclass(inner):
            yield f"{module.__name__}.{name}", inner
            for own, method in vars(inner).items():  # a field whose default is a function is none of its methods
                if inspect.isfunction(method) and not own.startswith("_") and method.__name__ == own:
                    yield f"{module.__name__}.{name}.{own}", method


def is_override(name: str, value: Any) -> bool:
    """Whether a method fills in one of a base class, whose contract it inherits."""
    parts = name.rsplit(".", 2)
    if not inspect.isfunction(value) or parts[1][:1].islower():
        return False
    owner = getattr(importlib.import_module(parts[0]), parts[1], None)
    return owner is not None and any(parts[2] in vars(base) for base in owner.__mro__[1:])


FUNCTIONS = [
    (name, value)
    for module in MODULES
    for name, value in public(module)
    if inspect.isfunction(value) and not is_override(name, value)
]


def parameters(value: Any) -> list[str]:
    return [name for name in inspect.signature(value).parameters if name not in ("self", "cls")]


@pytest.mark.parametrize("module", sorted({value.__module__ for _, value in FUNCTIONS}))
def test_contracts_are_written_as_numpydoc_wants_them(module: str) -> None:
    faults = []
    for name, value in FUNCTIONS:
        if value.__module__ != module or not parameters(value):
            continue
        assert value.__doc__, f"{name} says nothing"
        for code, message in validate(get_doc_object(value))["errors"]:
            if code in RULES:
                faults.append(f"{name}: {code} {message}")
    assert faults == []


def test_all_of_the_core_is_looked_at() -> None:
    assert len(FUNCTIONS) > 450
    assert sum("Parameters\n" in (value.__doc__ or "") for _, value in FUNCTIONS) > 440


@pytest.mark.parametrize(
    "module", [each for each in MODULES if ">>>" in inspect.getsource(each)], ids=lambda m: m.__name__
)
def test_examples_are_true(module: ModuleType) -> None:
    failed, tried = doctest.testmod(module, optionflags=doctest.ELLIPSIS)
    assert tried > 0 and failed == 0


LONG = {
    # One point's numbers, in registers: a tuple of them would say no more than their names.
    "geometry.rays.aim",
    "ops.lattice.blend8",
    "render.light.lamps.lamp_hit_pdf",
    "render.transport.light_aovs.accumulate",
    "render.transport.next_event.sample_direct_light",
    "render.transport.next_vertex.continue_path",
    "shade.base.with_thin_film",
    "shade.stack.make_stack",
    "shade.surface.evaluate",
    "shade.surface.lit_from_above",
    "shade.surface.lit_from_below",
    "shade.surface.sample_clear",
    "shade.surface.sample_surface",
    # An op's own parameters, beside the arrays that it works on.
    "ops.bricks.bricks",
    "ops.cellular.cellular",
    "ops.pyramid.look_up",
    "ops.spots.spots",
    "ops.strands.strands",
    # A view's numbers beside the arrays that are filled.
    "render.camera.view.fill_camera_rays",
}


def test_no_function_but_these_takes_more_than_eight_arguments() -> None:
    many = {name.removeprefix("texallon.core.") for name, value in FUNCTIONS if len(parameters(value)) > 8}
    assert many == LONG, "the list may only get shorter"
