"""The three lights of a review sheet, all for one exposure: a grey of 18 % comes out near the middle under each."""

from dataclasses import dataclass
from typing import Any

import numpy as np

Json = dict[str, Any]


@dataclass(frozen=True)
class Rig:
    """A light of our own: `environment` and `lights` of a document, around a thing of radius 1 m at the origin."""

    name: str
    environment: Json
    lights: tuple[Json, ...]


RIGS = (
    Rig(
        "overcast",
        {"colour": [0.5, 0.52, 0.55], "visible": False},
        (
            {
                "name": "bright sky", "shape": "disc", "position": [0.4, 5.0, 0.8], "target": [0, 0, 0], "width": 7.0,
                "colour": [1.0, 1.0, 1.0], "power": 190.0, "visible": False,
            },
        ),
    ),
    Rig(
        "low sun",
        {"colour": [0.17, 0.2, 0.26], "visible": False},
        (
            {
                "name": "low sun", "shape": "sun", "position": [-3.0, 1.1, 1.6], "target": [0, 0, 0], "colour": [1.0, 0.72, 0.45],
                "power": 5.2,
            },
        ),
    ),
    Rig(
        "dark with one lamp",
        {"colour": [0.006, 0.008, 0.012], "visible": False},
        (
            {
                "name": "lamp", "shape": "disc", "position": [2.1, 2.3, 1.4], "target": [0, 0, 0], "width": 0.7,
                "colour": [1.0, 0.86, 0.68], "power": 220.0, "visible": False,
            },
        ),
    ),
)  # fmt: skip

NEUTRAL = Rig("even white", {"colour": [1.0, 1.0, 1.0], "visible": False}, ())
"""For measuring: a diffuse patch gives back its reflectance."""


def placed_lights(rig: Rig, centre: np.ndarray, radius: float) -> list[Json]:
    """A rig's lamps around a thing: as far away as it is large, and as strong as that takes.

    Parameters
    ----------
    rig : Rig
        One of `RIGS`.
    centre : ndarray
        `(3,)` metres.
    radius : float
        Metres.
    """
    made = []
    for light in rig.lights:
        own = dict(light)
        for name in ("position", "target"):
            own[name] = [round(float(x), 5) for x in centre + radius * np.array(light[name], np.float64)]
        if light["shape"] != "sun":
            own["width"] = light["width"] * radius
            own["power"] = light["power"] * radius * radius
        made.append(own)
    return made
