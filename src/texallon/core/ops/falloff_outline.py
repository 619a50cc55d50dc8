"""Lines along a falloff shape, in its own space: what a picture of it draws."""

from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

if TYPE_CHECKING:
    from texallon.core.ops.falloff import Falloff

Line = npt.NDArray[np.float64]

ROUND = 48
"""Points of a circle."""


def outline(shape: "Falloff", grown: float = 0.0) -> list[Line]:
    """Lines `(n, 3)` along the surface where the distance from the shape is `grown`.

    Parameters
    ----------
    shape : Falloff
        Its op.
    grown : float
        In the shape's units; below 0 within it, where nothing may be left.
    """
    width, height, depth = (each + 2 * grown for each in (shape.width, shape.height, shape.depth))
    if shape.shape == "plane":
        half = 1.0
        corners = [[-half, grown, -half], [half, grown, -half], [half, grown, half], [-half, grown, half]]
        return [_closed(corners)]
    if width <= 0 or (shape.shape in ("box", "cylinder", "cone") and height <= 0):
        return []
    r, h = width / 2, height / 2
    if shape.shape == "sphere":
        return [_circle(r, axis) for axis in range(3)]
    if shape.shape == "box":
        return _box(r, h, depth / 2) if depth > 0 else []
    if shape.shape == "torus":
        ring = min(shape.ring / 2, shape.width / 2) + grown
        middle = shape.width / 2 - min(shape.ring / 2, shape.width / 2)
        if ring <= 0:
            return []
        around = [_circle(each, 1) for each in (middle + ring, middle - ring) if each > 0]
        # Where the ring is thicker than its hole is wide, its other side begins at the axis.
        most = np.arccos(max(-1.0, -middle / ring))
        angle = np.linspace(-most, most, ROUND + 1)
        arc = np.stack([middle + ring * np.cos(angle), ring * np.sin(angle), np.zeros(ROUND + 1)], axis=1)
        return [*around, *(_turned(arc, turn) for turn in range(4))]
    if shape.shape == "capsule":
        straight = max(shape.height / 2 - shape.width / 2, 0.0)
        return [_moved(_circle(r, 1), 0, at, 0) for at in (-straight, straight)] + [
            _profile(r, straight, turn) for turn in range(2)
        ]
    if shape.shape == "cylinder":
        ends = [_moved(_circle(r, 1), 0, at, 0) for at in (-h, h)]
        return [*ends, *_sides([r, -h], [r, h])]
    return _cone(shape.width / 2, shape.height / 2, grown)


def _cone(radius: float, half: float, grown: float) -> list[Line]:
    slant = np.hypot(radius, 2 * half)
    if grown < 0:  # within it the offset of a cone is a cone: its tip goes farther down than its foot goes up
        tip, foot = half + grown * slant / radius, -half - grown
        wide = (tip - foot) * radius / (2 * half)
        return [_moved(_circle(wide, 1), 0, foot, 0), *_sides([wide, foot], [0, tip])] if wide > 0 else []
    out, up = grown * 2 * half / slant, grown * radius / slant
    rings = [(radius, -half - grown), (radius + out, -half + up), (out, half + up)]
    circles = [_moved(_circle(wide, 1), 0, at, 0) for wide, at in rings if wide > 0]
    return [*circles, *_sides([radius + out, -half + up], [out, half + up])]


def _sides(low: list[float], high: list[float]) -> list[Line]:
    return [_turned(np.array([[low[0], low[1], 0.0], [high[0], high[1], 0.0]]), turn) for turn in range(4)]


def _circle(radius: float, axis: int) -> Line:
    angle = np.linspace(0, 2 * np.pi, ROUND + 1)
    flat = np.stack([np.cos(angle), np.sin(angle)], axis=1) * radius
    made: Line = np.insert(flat, axis, 0.0, axis=1)
    return made


def _moved(line: Line, x: float, y: float, z: float) -> Line:
    made: Line = line + np.array([x, y, z])
    return made


def _turned(line: Line, quarters: int) -> Line:
    """About the shape's axis by quarters of a turn."""
    for _ in range(quarters):
        line = np.stack([line[:, 2], line[:, 1], -line[:, 0]], axis=1)
    return line


def _closed(corners: list[list[float]]) -> Line:
    return np.array([*corners, corners[0]])


def _box(x: float, y: float, z: float) -> list[Line]:
    ring = [[-x, 0, -z], [x, 0, -z], [x, 0, z], [-x, 0, z]]
    levels = [_closed([[a, level, c] for a, _, c in ring]) for level in (-y, y)]
    return [*levels, *(np.array([[a, -y, c], [a, y, c]]) for a, _, c in ring)]


def _profile(radius: float, straight: float, turn: int) -> Line:
    up = np.linspace(0, np.pi, ROUND // 2 + 1)
    top = np.stack([np.cos(up) * radius, np.sin(up) * radius + straight, np.zeros(len(up))], axis=1)
    return _turned(np.concatenate([top, -top, top[:1]]), turn)
