"""The small pictures and measurements beside the stage: a recipe step by step, and the cells of the look sheet."""

from dataclasses import asdict
from typing import Any

import numpy as np

from texallon.core.derived import Cost, derived
from texallon.core.document import Look
from texallon.core.document.carried_looks import layer_channels
from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.document.problem import Path
from texallon.core.document.recipe import Recipe
from texallon.core.document.resolved import ResolvedShot
from texallon.core.ops.op import Modifier
from texallon.core.ops.points import Points
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.signal.plan import Node, Plan
from texallon.core.signal.planner import Planner, PlanScope
from texallon.core.signal.statistics import statistics
from texallon.engine.encode import data_address
from texallon.engine.paint import grid_picture, paint, range_of

RESPONSE = 65
"""Values at which a step's response is taken."""


def recipe_plan(scope: PlanScope, recipe: Recipe, path: Path) -> Plan:
    """The plan of every step of a recipe that stands at `path` in its document, its outputs by the steps' numbers."""
    planner = Planner(scope)
    for index, node in enumerate(planner.recipe(recipe, path)):
        planner.want(str(index), node)
    return planner.plan()


@derived("step measures", cost=Cost.INSTANT)
def step_measures(points: GBuffer, look: int, plan: Plan) -> list[dict[str, Any]]:
    """For each step its picture, the statistics of its values, and of the values that come in.

    A domain warp has a picture of the warped coordinates and no values.

    Parameters
    ----------
    look : int
        Position of the look whose points are measured.
    plan : Plan
        See `recipe_plan`.
    """
    values = points.batch(look).values(plan)
    measured = []
    before = None
    for index in range(len(plan.outputs)):
        value, node = values[str(index)], plan.nodes[plan.outputs[str(index)]]
        if node.op.kind == "warp":
            picture = data_address(grid_picture(points, look, value))
            measured.append(
                {
                    "picture": picture,
                    "incoming": None,
                    "values": None,
                    "covered": 0.0,
                    "colour": False,
                    "response": None,
                }
            )
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
                "response": response(node, before),
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


def sheet_plans(shot: ResolvedShot, look: Look) -> dict[str, Plan]:
    """For each filled cell of a look's sheet, by `LAYER NUMBER/where` or `LAYER NUMBER/CHANNEL`, the plan of its `value` and its layer's
    `mask`."""
    cells: dict[str, Plan] = {}
    planner = Planner(shot)
    look_index = shot.looks.index(look)
    for index, layer in enumerate(look.layers):
        at: Path = ("looks", look_index, "layers", index)
        mask = planner.mask(layer, at)
        if layer.where is not None:
            cells[f"{index}/where"] = planner.plan_of({"value": mask, "mask": mask})
        for name in layer_channels(layer, shot.carried_looks):
            if layer.look is None:
                node = planner.layer_channel(layer, name, at)
            else:
                below = planner.channel(look, name, ("looks", look_index), index - 1)
                node = planner.carried_channel(layer, name, at, below)
            cells[f"{index}/{name}"] = planner.plan_of({"value": node, "mask": mask})
    return cells


@derived("sheet cell", cost=Cost.SLOW)
def draw_cell(points: GBuffer, look: int, name: str, plan: Plan) -> dict[str, Any]:
    """One cell: a channel is shown where the layer's mask lets it be seen, the mask as it is."""
    values = points.batch(look).values(plan)
    value, mask = values["value"], np.clip(np.nan_to_num(values["mask"]), 0, 1)
    mean = [float(np.nan_to_num(row).mean()) if row.size else 0.0 for row in value]
    channel_name = name.partition("/")[2]
    colour = channel_name != "where" and CHANNEL_BY_NAME[channel_name].width == 3
    if channel_name == "where":
        return {"picture": data_address(paint(points, look, value, colour)), "mean": mean}
    seen = np.float32(0.12) + np.float32(0.88) * mask
    span = None if colour else range_of(value)
    channel = CHANNEL_BY_NAME[channel_name]
    found = {"picture": data_address(paint(points, look, value * seen, colour, span)), "mean": mean}
    finite = value[np.isfinite(value)]
    if finite.size:
        for extreme in (float(finite.min()), float(finite.max())):
            if abs(channel.hold(extreme) - extreme) > 1e-4 * min(channel.high - channel.low, 1.0):
                found["held"] = {"at": channel.hold(extreme), "asked": extreme}
    return found
