"""Where the stage draws the handles of locators: everything in shares of the picture, so that a page needs no camera."""

from typing import Any

import numpy as np

from texallon.core.document import Shot
from texallon.core.render.camera.view import View
from texallon.core.signal.placement import Places

RING = 64
PROBE = 0.01
"""Metres along each axis by which the projected length of a metre is measured."""


def locator_handles(shot: Shot, view: View) -> list[dict[str, Any]]:
    """For each locator before the camera: its place, what a metre along each world axis is there, and a level ring."""
    handles = []
    places = Places(shot)
    for locator in shot.locators:
        matrix = places.locator(locator.name)
        at = matrix[:3, 3]
        x, y, depth = view.project(at.astype(np.float32))
        if not depth > 0.01 or not (-1 < x < 2 and -1 < y < 2):
            continue
        axes = {}
        for number, axis in enumerate("xyz"):
            tip = at.copy()
            tip[number] += PROBE
            tx, ty, _ = view.project(tip.astype(np.float32))
            axes[axis] = [(tx - x) / PROBE, (ty - y) / PROBE]
        handles.append({"name": locator.name, "at": [x, y], "axes": axes, "ring": _ring(matrix, view)})
    return handles


def _ring(matrix: np.ndarray, view: View) -> list[list[float]]:
    points = []
    for angle in np.linspace(0, 2 * np.pi, RING, endpoint=False):
        local = matrix @ np.array([np.cos(angle) * 0.9, 0.0, np.sin(angle) * 0.9, 1.0])
        x, y, depth = view.project(local[:3].astype(np.float32))
        if not depth > 0.01:
            return []
        points.append([round(x, 5), round(y, 5)])
    return points
