"""Particles from CSV files: a row for each, a name over each column."""

import csv
import io
import re
from pathlib import Path

import numpy as np

from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.formats.import_report import ImportReport, count
from texallon.formats.mesh_piece import FilePiece, Floats, grouped, keep_attribute, keep_colours

DELIMITERS = ",;\t"
PLACES = (("x", "y", "z"), ("px", "py", "pz"), ("position.x", "position.y", "position.z"), ("p.x", "p.y", "p.z"))
COLOURS = (
    ("red", "green", "blue"),
    ("r", "g", "b"),
    ("color.r", "color.g", "color.b"),
    ("color.x", "color.y", "color.z"),
)
MOST_COLUMNS = 256


def is_csv(head: bytes) -> bool:
    """Whether a file begins with a row of names among which there is a place."""
    first = head.split(b"\n", 1)[0].decode("utf-8", "replace").lower()
    words = {word.strip(' "\ufeff\r') for word in re.split(f"[{DELIMITERS} ]", first)}
    return any(all(axis in words for axis in place) for place in PLACES)


def rows_of_csv(data: bytes) -> int:
    """How many particles a file has at most, by its lines."""
    return max(data.count(b"\n") + (0 if data.endswith(b"\n") else 1) - 1, 0)


def pieces_of_csv(data: bytes, report: ImportReport) -> list[FilePiece]:
    """The particles of a CSV file as one piece without faces; raises `MeshError` with row and column.

    Columns `x`, `y`, `z` (also `px`…, `position.x`…) are its place in metres, `radius` its radius, `red`, `green`, `blue` (also `r`…) its colour:
    numbers as they are are linear light. Columns of one name that end in `.x`, `.y`, `.z`, `[0]`… become one attribute.
    """
    place, column = placed_rows(data)
    names = list(column)
    count_of_rows = len(column[names[0]])
    found: dict[str, Floats] = {}
    taken = set(place)
    colour = next((each for each in COLOURS if all(name in column for name in each)), None)
    if colour is not None:
        keep_colours(found, np.stack([column[name] for name in colour], axis=1).astype(np.float32), report)
        taken |= set(colour)
    for name, members in grouped([name for name in names if name not in taken]).items():
        keep_attribute(found, name, np.stack([column[each] for each in members], axis=1), count_of_rows, report)
    vertices = np.stack([column[axis] for axis in place], axis=1)
    return [FilePiece("all", vertices, np.zeros((0, 3), np.int64), None, found)]


def placed_rows(data: bytes) -> tuple[tuple[str, str, str], dict[str, Floats]]:
    """How a CSV file names places, and its columns by the names in its first row, `(n,)` each; raises `MeshError` with row and column."""
    head, _, rest = data.partition(b"\n")
    try:
        names, delimiter = _names(head.decode())
    except UnicodeDecodeError as error:
        raise MeshError(f"the first row is no text: byte {error.start} of it") from error
    place = next((each for each in PLACES if all(axis in names for axis in each)), None)
    if place is None:
        raise MeshError(f"its first row must name the columns x, y and z; it names {', '.join(names[:12])}")
    rows = _rows(rest, delimiter, len(names))
    return place, {name: rows[:, at] for at, name in enumerate(names)}


def write_csv(path: Path, points: Mesh) -> None:
    """Write particles with their attributes, a row for each; `pieces_of_csv` reads the same numbers back."""
    names, columns = ["x", "y", "z"], [points.vertices]
    for name, values in points.attributes.items():
        width = values.shape[1]
        names += [name] if width == 1 else [f"{name}.{axis}" for axis in ("rgb" if name == "color" else "xyzw")[:width]]
        columns.append(values)
    rows = np.column_stack(columns)
    with path.open("w", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(names)
        writer.writerows([f"{value:.9g}" for value in row] for row in rows)


def _names(row: str) -> tuple[list[str], str]:
    row = row.strip("\ufeff\r\n ")
    delimiter = max(DELIMITERS, key=row.count)
    if not row.count(delimiter):
        delimiter = " "
    names = [each.strip().lower() for each in next(csv.reader([row], delimiter=delimiter, skipinitialspace=True), [])]
    if len(names) > MOST_COLUMNS:
        raise MeshError(f"its first row names {len(names):,} columns; at most {MOST_COLUMNS} are read")
    twice = next((each for each in names if names.count(each) > 1), None)
    if twice is not None:
        raise MeshError(f"two columns are named “{twice[:80]}”")
    return names, delimiter


def _rows(rest: bytes, delimiter: str, columns: int) -> np.ndarray:
    try:
        rows = np.loadtxt(
            io.BytesIO(rest),
            np.float64,
            delimiter=None if delimiter == " " else delimiter,
            ndmin=2,
            comments=None,
            quotechar='"',
        )
    except ValueError as error:
        raise MeshError(f"below its first row: {str(error)[:160]}") from error
    if not rows.size:
        raise MeshError("the file has no particles: no row below the first")
    if rows.shape[1] != columns:
        raise MeshError(f"its rows have {count(rows.shape[1], 'number')} for {count(columns, 'name')} in the first")
    return rows
