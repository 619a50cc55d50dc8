"""The small pictures and measurements beside the stage: a recipe step by step, and the cells of the look sheet."""

from dataclasses import asdict
from typing import Any

import numpy as np

from texallon.core.document import Look, Shot
from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.document.recipe import Recipe
from texallon.core.ops.op import Modifier
from texallon.core.ops.points import Points
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.signal.plan import Node, Path, Planner
from texallon.core.signal.statistics import statistics
from texallon.engine.encode import data_address
from texallon.engine.paint import grid_picture, paint, range_of

RESPONSE = 65
"""Values at which a step's response is taken."""


def measure_recipe(
    shot: Shot, points: GBuffer, look: int, recipe: Recipe, path: Path, frame: float | None = None
) -> list[dict[str, Any]]:
    """For each step its picture, the statistics of its values, and of the values that come in.

    A space step has a picture of the bent coordinates and no values.
    """
    planner = Planner(shot, frame)
    nodes = planner.recipe(recipe, path)
    for index, node in enumerate(nodes):
        planner.want(str(index), node)
    values = points.batch(look).values(planner.plan())
    measured = []
    before = None
    for index, node in enumerate(nodes):
        value = values[str(index)]
        if planner.node(node).op.kind == "warp":
            picture = data_address(grid_picture(points, look, value))
            measured.append({"picture": picture, "incoming": None, "values": None, "covered": 0.0, "colour": False})
            measured[-1]["response"] = None
            continue
        colour = value.shape[0] == 3
        own = asdict(statistics(value))
        covered = float(np.clip(np.nan_to_num(value), 0, 1).mean()) if value.size else 0.0
        measured.append(
            {
                "picture": data_address(paint(points, look, value, colour)),
                "incoming": before,
                "values": own,
                "covered": covered,
                "colour": colour,
                "response": response(planner.node(node), before),
            }
        )
        before = own
    return measured


def response(node: Node, incoming: dict[str, Any] | None) -> dict[str, Any] | None:
    """What a step makes of even values from `low` to `high`: over what comes in, and everywhere that it changes its ways.

    Nothing for steps that also look at the point, and for colours.
    """
    op = node.op
    if incoming is None or not isinstance(op, Modifier) or op.inputs() or op.required_data() or node.width != 1:
        return None
    ends = [incoming["low"], incoming["high"], *op.corners()]
    low, high = min(ends), max(ends)
    given = np.linspace(low, high, RESPONSE, dtype=np.float32)[None]
    out = np.empty_like(given)
    with np.errstate(all="ignore"):
        op.run(Points(RESPONSE, {}), given, {}, out)
    return {"low": low, "high": high, "values": [float(x) for x in np.nan_to_num(out[0], posinf=1e30, neginf=-1e30)]}


def sheet_cells(shot: Shot, look: Look, frame: float | None = None) -> dict[str, tuple[str, Planner, bool]]:
    """For each filled cell of a look's sheet: a key that changes with its value, how to plan it, whether a colour."""
    cells: dict[str, tuple[str, Planner, bool]] = {}
    look_index = shot.looks.index(look)
    for index, layer in enumerate(look.layers):
        at: Path = ("looks", look_index, "layers", index)
        wanted = {"where": None} if layer.where is not None else {}
        for name in [*wanted, *layer.channels]:
            planner = Planner(shot, frame)
            mask = planner.mask(layer, at)
            node = mask if name == "where" else planner.layer_channel(layer, name, at)
            planner.want("value", node)
            planner.want("mask", mask)
            plan = planner.plan()
            colour = name != "where" and CHANNEL_BY_NAME[name].width == 3
            cells[f"{index}/{name}"] = (plan.key("value") + plan.key("mask"), planner, colour)
    return cells


def draw_cell(points: GBuffer, look: int, name: str, planner: Planner, colour: bool) -> dict[str, Any]:
    """One cell: a channel is shown where the layer's mask lets it be seen, the mask as it is."""
    values = points.batch(look).values(planner.plan())
    value, mask = values["value"], np.clip(np.nan_to_num(values["mask"]), 0, 1)
    mean = [float(np.nan_to_num(row).mean()) if row.size else 0.0 for row in value]
    if name.endswith("/where"):
        return {"picture": data_address(paint(points, look, value, colour)), "mean": mean}
    seen = np.float32(0.12) + np.float32(0.88) * mask
    span = None if colour else range_of(value)
    channel = CHANNEL_BY_NAME[name.partition("/")[2]]
    found = {"picture": data_address(paint(points, look, value * seen, colour, span)), "mean": mean}
    finite = value[np.isfinite(value)]
    if finite.size:
        for asked in (float(finite.min()), float(finite.max())):
            if abs(channel.hold(asked) - asked) > 1e-4 * min(channel.high - channel.low, 1.0):
                found["held"] = {"at": channel.hold(asked), "asked": asked}
    return found
