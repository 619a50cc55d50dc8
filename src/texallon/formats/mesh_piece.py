"""One piece of a mesh file, between the reader of its format and the mesh that all pieces become."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import numpy.typing as npt

from texallon.formats.import_report import ImportReport, count

Floats = npt.NDArray[np.float32]
WIDEST = 4
"""Values that one attribute has per point, at most."""
LAST = re.compile(r"^(?P<name>.+)[._\[](?P<axis>[xyzw]|[0-3])\]?$")
AXES = {"x": 0, "y": 1, "z": 2, "w": 3, "0": 0, "1": 1, "2": 2, "3": 3}
MOST_ATTRIBUTES = 64
"""Attributes that one piece of a file has, at most."""


@dataclass(frozen=True)
class FilePiece:
    """What a file holds under one name.

    `vertices (v, 3)` metres, `faces (f, 3)` vertex numbers, `normals (v, 3)` or None, `attributes` name → `(v, 1…4)`, among them
    `uv (v, 2)` and `color (v, 3)` in linear light.
    """

    name: str
    vertices: npt.NDArray[Any]
    faces: npt.NDArray[np.int64]
    normals: npt.NDArray[Any] | None = None
    attributes: Mapping[str, Floats] = field(default_factory=dict)


def without_unused(piece: FilePiece, report: ImportReport) -> FilePiece:
    """The piece without points that no face uses: they would count for its size. All that belongs to a point goes with it."""
    used = np.zeros(len(piece.vertices), bool)
    if piece.faces.size and (piece.faces.min() < 0 or piece.faces.max() >= len(used)):
        return piece  # refused later, with the numbers
    used[piece.faces.ravel()] = True
    unused = len(used) - int(used.sum())
    if not unused:
        return piece
    report.add("dropped", f"{count(unused, 'point')} that no face uses")
    number = np.cumsum(used) - 1
    return replace(
        piece,
        vertices=piece.vertices[used],
        faces=number[piece.faces],
        normals=None if piece.normals is None else piece.normals[used],
        attributes={name: values[used] for name, values in piece.attributes.items()},
    )


def keep_attribute(found: dict[str, Floats], name: str, values: Any, points: int, report: ImportReport) -> None:
    """Take an attribute up as 32-bit numbers per point, or say why it can't be."""
    name = "".join(c for c in name if c.isprintable())[:80]
    try:
        # What 32 bits can't hold becomes infinite here, and is reported and set to 0 with what is no number at all.
        with np.errstate(over="ignore", invalid="ignore"):
            array = np.asarray(values, np.float32).reshape(points, -1)
    except (TypeError, ValueError):
        report.add("dropped", f"“{name}”: it is not a list of numbers, as many for each point")
        return
    if not 1 <= array.shape[1] <= WIDEST:
        report.add("dropped", f"“{name}”: {array.shape[1]} values per point, at most {WIDEST} are read")
        return
    if name in found:
        report.add("dropped", f"a second “{name}”")
        return
    if len(found) >= MOST_ATTRIBUTES:
        report.add("dropped", f"“{name}”: at most {MOST_ATTRIBUTES} attributes are read")
        return
    wrong = ~np.isfinite(array)
    if wrong.any():
        report.add("changed", f"“{name}”: {count(int(wrong.sum()), 'value')} not finite as 32-bit numbers, set to 0")
        array = np.where(wrong, np.float32(0), array)
    found[name] = array


def keep_colours(found: dict[str, Floats], colours: npt.NDArray[Any], report: ImportReport) -> None:
    """Take colours `(v, 3…4)` up as `color` in linear light, and what covers less than fully as `alpha`."""
    encoded = colours.dtype.kind in "ui"
    keep_attribute(found, "color", linear(colours[:, :3]), len(colours), report)
    if encoded:
        report.add("changed", "“color”: whole numbers are taken as sRGB and turned into linear light")
    if colours.shape[1] > 3:
        most = np.iinfo(colours.dtype).max if encoded else 1
        if np.any(colours[:, 3] != most):
            keep_attribute(found, "alpha", colours[:, 3] / most, len(colours), report)


def linear(colours: npt.NDArray[Any]) -> Floats:
    """Integers hold sRGB (as painted); floats hold linear light (glTF 2.0, COLOR_0)."""
    if colours.dtype.kind in "ui":
        c = colours.astype(np.float32) / np.float32(np.iinfo(colours.dtype).max)
        return np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4).astype(np.float32)
    return colours.astype(np.float32)


def grouped(names: list[str]) -> dict[str, list[str]]:
    """Columns that are parts of one attribute by their names' ends (`.x`, `_y`, `[2]`), in order."""
    groups: dict[str, dict[int, str]] = {}
    for name in names:
        found = LAST.match(name)
        if found:
            groups.setdefault(found["name"], {})[AXES[found["axis"]]] = name
    made: dict[str, list[str]] = {}
    for name in names:
        found = LAST.match(name)
        members = groups.get(found["name"], {}) if found else {}
        # Only where no part is missing, and the name is not a column of its own.
        if found and len(members) > 1 and sorted(members) == list(range(len(members))) and found["name"] not in names:
            made.setdefault(found["name"], [members[at] for at in range(len(members))])
        else:
            made[name] = [name]
    return made
