"""Nodes of the MaterialX standard, worked out from the definitions that its own library publishes.

The standard's Python package carries node graphs (`stdlib_ng.mtlx`) and one-line implementations; both are followed here,
number by number. What the library writes in shader code (`HAND`) is written out from its specification, 1.39.
"""

import colorsys
import math
import re
from functools import cache
from pathlib import Path
from typing import Any

import MaterialX as mx

Number = float | tuple[float, ...]


@cache
def library() -> Any:
    document = mx.createDocument()
    mx.loadLibraries(["libraries"], mx.FileSearchPath(str(Path(mx.__file__).parent)), document)
    return document


def _clamp(x: float, low: float, high: float) -> float:
    return min(max(x, low), high)


MATHS: dict[str, Any] = {
    "pow": lambda a, b: math.pow(a, b),
    "sqrt": math.sqrt, "log": math.log, "abs": abs, "min": min, "max": max, "clamp": _clamp, "floor": math.floor,
    "sign": lambda x: (x > 0) - (x < 0),
    "mix": lambda a, b, t: a + t * (b - a),
}  # fmt: skip


def _smoothstep(given: dict[str, Any]) -> float:
    t = _clamp((given["in"] - given["low"]) / (given["high"] - given["low"]), 0, 1)
    return t * t * (3 - 2 * t)


HAND: dict[str, Any] = {
    "smoothstep": _smoothstep,
    "rgbtohsv": lambda given: colorsys.rgb_to_hsv(*given["in"]),
    "hsvtorgb": lambda given: colorsys.hsv_to_rgb(given["in"][0] % 1, *given["in"][1:]),
    "extract": lambda given: given["in"][given["index"]],
    "separate3": lambda given: given["in"],
    "combine2": lambda given: (given["in1"], given["in2"]),
    "combine3": lambda given: (given["in1"], given["in2"], given["in3"]),
    "convert": lambda given: given["in"],
    "ifgreater": lambda given: given["in1"] if given["value1"] > given["value2"] else given["in2"],
    "ifgreatereq": lambda given: given["in1"] if given["value1"] >= given["value2"] else given["in2"],
    "ifequal": lambda given: given["in1"] if given["value1"] == given["value2"] else given["in2"],
}


def node(category: str, kind: str, **given: Any) -> Any:
    """The value of a standard node of a type such as `float` or `color3`; inputs left out take the standard's defaults."""
    definition = next(
        each
        for each in library().getMatchingNodeDefs(category)
        if each.getType() == kind and (category != "multiply" or _plain(each))
    )
    values = {each.getName(): _read(each) for each in definition.getActiveInputs()} | given
    if category in HAND:
        return HAND[category](values)
    graph = definition.getImplementation()
    if isinstance(graph, mx.NodeGraph):
        return _graph(graph, values)
    source = definition.getImplementation("genglsl").getAttribute("sourcecode")
    assert source, f"the library has no definition of {category} that can be followed"
    wide = max((len(v) for v in values.values() if isinstance(v, tuple)), default=1)
    results = []
    for part in range(wide):
        scope = {name: v[part] if isinstance(v, tuple) else v for name, v in values.items()}
        text = re.sub(r"\{\{(\w+)\}\}", lambda found: f"given['{found.group(1)}']", source)
        text = re.sub(r"vec[34]\(([\d.]+)\)", r"\1", text)
        results.append(float(eval(text, {"__builtins__": {}, "given": scope, **MATHS})))
    return tuple(results) if wide > 1 else results[0]


def _plain(definition: Any) -> bool:
    kinds = {each.getType() for each in definition.getActiveInputs()}
    return len(kinds) == 1


def _read(element: Any) -> Any:
    value = element.getValue()
    return tuple(value[i] for i in range(3)) if isinstance(value, (mx.Color3, mx.Vector3)) else value


def _graph(graph: Any, values: dict[str, Any], wanted: str = "") -> Any:
    def of(name: str) -> Any:
        inner = graph.getNode(name)
        given = {}
        for each in inner.getInputs():
            if each.getInterfaceName():
                given[each.getName()] = values[each.getInterfaceName()]
            elif each.getNodeName():
                value = of(each.getNodeName())
                part = each.getOutputString()[-1:]
                given[each.getName()] = value["rgb".index(part)] if part and part in "rgb" else value
            else:
                given[each.getName()] = _read(each)
        return node(inner.getCategory(), inner.getType(), **given)

    return of(wanted or graph.getOutputs()[0].getNodeName())


@cache
def _surface_graph() -> tuple[Any, dict[str, Any]]:
    definition = library().getNodeDef("ND_open_pbr_surface_surfaceshader")
    values = {each.getName(): _read(each) for each in definition.getActiveInputs()}
    return definition.getImplementation(), values


def graph_value(name: str, given: dict[str, Any]) -> Any:
    """The value of one node within the standard's surface graph, at some inputs of the surface."""
    graph, defaults = _surface_graph()
    return _graph(graph, defaults | given, name)
