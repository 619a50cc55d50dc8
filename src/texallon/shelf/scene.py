"""A look on the test body under one fixed light: the picture by which the shelf shows it."""

from typing import Any

from texallon.core.document import read_shot, shot_json
from texallon.core.document.shot import SCHEMA
from texallon.demo.document import layer, look, made, stops, value

SIZE = (240, 240)
"""Pixels of the picture."""


def shelf_scene(looks: list[Any], shown: str, body: Any, **members: Any) -> dict[str, Any]:
    """A shot of the test body in a look.

    The floor is a quiet checker, so that what is transparent has something to show; a soft key from the left, a cool rim from behind, and
    a grey sky.

    Parameters
    ----------
    looks : list
        As JSON: the look, and those that it carries.
    shown : str
        Name of the one that the body wears.
    body : dict
        The test body's file.
    **members : object
        More of the document: signals, numbers, locators.
    """
    floor = layer(
        "floor",
        base_color=made(("checker", {"size": 0.18}), ("ramp", {"stops": stops((0.0, 0.13), (1.0, 0.24))})),
        specular_roughness=value(0.5),
    )
    ground = "the shelf's floor"
    document = {
        "schema": SCHEMA,
        "name": "shelf",
        "resolution": list(SIZE),
        "camera": {"position": [0.75, 0.95, 2.25], "target": [0.0, 0.43, 0.0], "focal_length": 62},
        "environment": {"colour": [0.2, 0.22, 0.26], "intensity": 1.0},
        "lights": [
            {
                "name": "key", "shape": "disc", "position": [-1.7, 1.9, 1.5], "target": [0.0, 0.45, 0.0], "width": 0.7,
                "colour": [1.0, 0.93, 0.84], "power": 190.0, "visible": False,
            },
            {
                "name": "rim", "shape": "disc", "position": [1.6, 1.5, -1.6], "target": [0.0, 0.5, 0.0], "width": 0.6,
                "colour": [0.75, 0.87, 1.0], "power": 90.0, "visible": False,
            },
        ],
        "objects": [
            {"name": "test body", "geometry": body, "look": shown},
            {"name": "floor", "geometry": {"shape": "plane", "width": 8.0, "depth": 8.0}, "look": ground, "position": [0, -5e-4, 0]},
        ],
        "looks": [*looks, look(ground, floor)],
        **members,
    }  # fmt: skip
    return shot_json(read_shot(document))
