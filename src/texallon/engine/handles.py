"""Where the stage draws the handles of locators: everything in shares of the picture, so that a page needs no camera."""

from typing import Any

import numpy as np

from texallon.core.curve import distinct_at, natural_tangents
from texallon.core.document import Shot
from texallon.core.document.body import Tube
from texallon.core.document.ids import NOTHING, member
from texallon.core.document.problem import tokens_of
from texallon.core.render.camera.view import View
from texallon.core.render.light.lamps import lamp_axes
from texallon.core.signal.placement import Places, placement

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
        axes = _axes(at, np.eye(3), view)
        handles.append({"name": locator.name, "at": [x, y], "axes": axes, "ring": _ring(matrix, view)})
    return handles


def gizmo(shot: Shot, chosen: str, view: View) -> dict[str, Any] | None:
    """The handles of what is chosen, by JSON Pointer by id; nothing where that is gone or lies behind the camera."""
    tokens = tokens_of(chosen) if chosen else []
    if len(tokens) != 2 or tokens[0] not in (*PLACES, "lights"):
        return None
    item = member(getattr(shot, tokens[0]), tokens[1])
    if item is NOTHING:
        return None
    target = None
    if tokens[0] == "lights":
        matrix, parent = placement(item.position, (0.0, 0.0, 0.0), 1.0), np.eye(4)
        _, across, up, normal = lamp_axes(item)
        matrix[:3, :3] = np.stack([each / max(np.linalg.norm(each), 1e-12) for each in (across, up, normal)], axis=1)
        target = _target(np.array(item.target), matrix[:3, :3], view)
    else:
        places = Places(shot)
        matrix = getattr(places, PLACES[tokens[0]])(item.name)
        parent = places.parent(item)
    at = matrix[:3, 3]
    x, y, depth = view.project(at.astype(np.float32))
    if not depth > 0.01:
        return None
    turn = matrix[:3, :3] / np.maximum(np.linalg.norm(matrix[:3, :3], axis=0), 1e-12)
    return {
        "thing": chosen,
        "at": [x, y],
        "position": at.tolist(),
        "world": _axes(at, np.eye(3), view),
        "own": _axes(at, turn, view),
        "turn": turn.ravel().tolist(),
        "parent": parent[:3, :3].ravel().tolist(),
        "target": target,
        "tube": _tube(item.geometry, matrix, view) if isinstance(getattr(item, "geometry", None), Tube) else None,
    }


MOST_POINTS = 64
"""Points of a tube that get handles."""


def _tube(body: Tube, matrix: np.ndarray, view: View) -> dict[str, Any]:
    points = []
    tangents = _tangents(body)
    for number, own in enumerate(body.points[:MOST_POINTS]):
        at = matrix[:3, :3] @ np.array(own) + matrix[:3, 3]
        x, y, depth = view.project(at.astype(np.float32))
        if not depth > 0.01:
            continue
        spot: dict[str, Any] = {"number": number, "at": [x, y], "axes": _axes(at, matrix[:3, :3], view)}
        if number in tangents:
            tangent, by_hand = tangents[number]
            way = matrix[:3, :3] @ tangent
            ends = [view.project((at + side * way).astype(np.float32)) for side in (1, -1)]
            if all(end[2] > 0.01 for end in ends):
                spot |= {"tangent": tangent.tolist(), "by_hand": by_hand, "ends": [end[:2] for end in ends]}
        points.append(spot)
    return {"points": points, "into_own": np.linalg.inv(matrix)[:3].ravel().tolist()}


def _tangents(body: Tube) -> dict[int, tuple[np.ndarray, bool]]:
    """By the number of a point its tangent, and whether it is by hand."""
    if not body.smooth:
        return {}
    given = np.asarray(body.points, np.float64)
    kept = distinct_at(given, body.closed)
    found = dict(
        zip(kept.tolist(), ((each, False) for each in natural_tangents(given[kept], body.closed)), strict=True)
    )
    for number, tangent in enumerate(body.tangents[: len(given)]):
        if tangent is not None:
            found[number] = (np.array(tangent), True)
    return found


def _target(at: np.ndarray, turn: np.ndarray, view: View) -> dict[str, Any] | None:
    """What a lamp faces; nothing where that lies behind the camera."""
    x, y, depth = view.project(at.astype(np.float32))
    if not depth > 0.01:
        return None
    return {"at": [x, y], "position": at.tolist(), "world": _axes(at, np.eye(3), view), "own": _axes(at, turn, view)}


PLACES = {"objects": "object", "locators": "locator", "object_groups": "group"}
"""Lists of what stands somewhere, and what `Places` calls the members."""


def _axes(at: np.ndarray, ways: np.ndarray, view: View) -> dict[str, list[float]]:
    """What a metre along three directions (columns) is in the picture."""
    x, y, _ = view.project(at.astype(np.float32))
    axes = {}
    for number, axis in enumerate("xyz"):
        tx, ty, _ = view.project((at + PROBE * ways[:, number]).astype(np.float32))
        axes[axis] = [(tx - x) / PROBE, (ty - y) / PROBE]
    return axes


def _ring(matrix: np.ndarray, view: View) -> list[list[float]]:
    points = []
    for angle in np.linspace(0, 2 * np.pi, RING, endpoint=False):
        local = matrix @ np.array([np.cos(angle) * 0.9, 0.0, np.sin(angle) * 0.9, 1.0])
        x, y, depth = view.project(local[:3].astype(np.float32))
        if not depth > 0.01:
            return []
        points.append([round(x, 5), round(y, 5)])
    return points
