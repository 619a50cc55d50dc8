"""The small pictures and measurements beside the stage: a recipe step by step, and the cells of the look sheet."""

from dataclasses import asdict
from typing import Any

import numpy as np

from texallon.core.document import Look, Shot
from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.document.recipe import Recipe
from texallon.core.kernel import Array
from texallon.core.render.display import colour_bytes, data_bytes
from texallon.core.render.seen import SeenPoints
from texallon.core.signal.plan import Path, Planner
from texallon.core.signal.statistics import statistics
from texallon.engine.encode import data_address

GROUND = np.array([13, 16, 20], np.uint8)
"""Shown where the camera sees nothing that wears the look."""


def paint(points: SeenPoints, look: int, values: Array, colour: bool) -> np.typing.NDArray[np.uint8]:
    """Values of a look's points as a picture `(height, width, 3)`, the rest left as ground."""
    view = points.view
    picture = np.empty((view.width * view.height, 3), np.uint8)
    picture[:] = GROUND
    pixels = points.group(look).pixels
    if colour:
        picture[pixels] = colour_bytes(np.broadcast_to(values, (3, values.shape[1])).T)
    else:
        picture[pixels] = data_bytes(values[0])[:, None]
    return picture.reshape(view.height, view.width, 3)


def spread_out(values: Array) -> Array:
    """Values that leave 0…1, such as heights, stretched over their own range so that their picture says something."""
    finite = values[np.isfinite(values)]
    if len(finite) == 0:
        return values
    low, high = float(finite.min()), float(finite.max())
    if low >= -1e-4 and high <= 1.0001:
        return values
    return (values - np.float32(low)) / np.float32(max(high - low, 1e-12))


def measure_recipe(shot: Shot, points: SeenPoints, look: int, recipe: Recipe, path: Path) -> list[dict[str, Any]]:
    """For each step its picture, the statistics of its values, and of the values that come in."""
    planner = Planner(shot)
    nodes = planner.recipe(recipe, path)
    for index, node in enumerate(nodes):
        planner.want(str(index), node)
    values = points.group(look).values(planner.plan())
    measured = []
    before = None
    for index in range(len(nodes)):
        value = values[str(index)]
        colour = value.shape[0] == 3
        own = asdict(statistics(value))
        shown = value if colour else spread_out(value)
        covered = float(np.clip(np.nan_to_num(value), 0, 1).mean()) if value.size else 0.0
        measured.append(
            {
                "picture": data_address(paint(points, look, shown, colour)),
                "incoming": before,
                "values": own,
                "covered": covered,
                "colour": colour,
            }
        )
        before = own
    return measured


def sheet_cells(shot: Shot, look: Look) -> dict[str, tuple[str, Planner, bool]]:
    """For each filled cell of a look's sheet: a key that changes with its value, how to plan it, whether a colour."""
    cells: dict[str, tuple[str, Planner, bool]] = {}
    look_index = shot.looks.index(look)
    for index, layer in enumerate(look.layers):
        at: Path = ("looks", look_index, "layers", index)
        wanted = {"where": None} if layer.where is not None else {}
        for name in [*wanted, *layer.channels]:
            planner = Planner(shot)
            mask = planner.mask(layer, at)
            node = mask if name == "where" else planner.layer_channel(layer, name, at)
            planner.want("value", node)
            planner.want("mask", mask)
            plan = planner.plan()
            colour = name != "where" and CHANNEL_BY_NAME[name].width == 3
            cells[f"{index}/{name}"] = (plan.key("value") + plan.key("mask"), planner, colour)
    return cells


def draw_cell(points: SeenPoints, look: int, name: str, planner: Planner, colour: bool) -> dict[str, Any]:
    """One cell: a channel is shown where the layer's mask lets it be seen, the mask as it is."""
    values = points.group(look).values(planner.plan())
    value, mask = values["value"], np.clip(np.nan_to_num(values["mask"]), 0, 1)
    mean = [float(np.nan_to_num(row).mean()) if row.size else 0.0 for row in value]
    if name.endswith("/where"):
        shown = spread_out(value)
    else:
        shown = (value if colour else spread_out(value)) * (np.float32(0.12) + np.float32(0.88) * mask)
    return {"picture": data_address(paint(points, look, shown, colour)), "mean": mean}
