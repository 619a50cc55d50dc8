"""The documents that new shots begin with."""

from typing import Any, Literal

from texallon.core.document import read_shot, shot_json
from texallon.core.document.shot import SCHEMA

Json = dict[str, Any]

Start = Literal["empty", "starter"]
"""What a new shot may begin with, beside a copy of another."""

BODY_FILE = "geometry/turned-body.glb"


def new_shot(name: str, title: str, body: Json | None) -> Json:
    """A shot to begin with: an even grey sky and one look; with a ground, a lamp and the test body where its file is given.

    Parameters
    ----------
    name, title : str
        Of the shot.
    body : dict, optional
        The test body's file (`file` and `sha256`).

    Returns
    -------
    dict
        The whole document as plain JSON values.
    """
    members: Json = {
        "schema": SCHEMA,
        "name": name,
        "title": title,
        "camera": {"position": [0.9, 1.0, 2.3], "target": [0.0, 0.42, 0.0], "focal_length": 50},
        "environment": {"colour": [0.5, 0.5, 0.5], "intensity": 1.0},
        "looks": [_look("grey", 0.4)],
    }
    if body is not None:
        members |= {
            "environment": {"colour": [0.32, 0.33, 0.35], "intensity": 1.0},
            "lights": [
                {
                    "name": "lamp", "shape": "disc", "position": [-1.4, 2.4, 1.6], "target": [0.0, 0.4, 0.0], "width": 0.9,
                    "power": 160.0, "visible": False,
                }
            ],
            "objects": [
                {"name": "test body", "geometry": body, "look": "grey"},
                {"name": "ground", "geometry": {"shape": "plane", "width": 12.0, "depth": 12.0}, "look": "ground"},
            ],
            "looks": [_look("grey", 0.4), _look("ground", 0.25)],
        }  # fmt: skip
    return shot_json(read_shot(members))


def _look(name: str, grey: float) -> Json:
    def even(value: Any) -> Json:
        return {"recipe": {"steps": [{"op": "constant", "params": {"value": value}}]}}

    channels = {"base_color": even([grey] * 3), "specular_roughness": even(0.45)}
    return {"name": name, "layers": [{"name": "base", "channels": channels}]}
