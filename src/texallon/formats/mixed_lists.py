"""PLY files whose lists differ in length, as faces of three and four corners: the mesh library reads only some of them."""

import struct
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import numpy.typing as npt

KINDS = {
    "char": "i1", "int8": "i1", "uchar": "u1", "uint8": "u1", "short": "i2", "int16": "i2", "ushort": "u2", "uint16": "u2",
    "int": "i4", "int32": "i4", "uint": "u4", "uint32": "u4", "float": "f4", "float32": "f4", "double": "f8", "float64": "f8",
}  # fmt: skip
"""The types of the format (G. Turk, *The PLY Polygon File Format*, 1994) and their later names."""

Columns = dict[str, npt.NDArray[Any]]
Read = dict[str, Columns]
"""By the names of elements."""

LONGEST_LIST = 100_000


@dataclass
class Element:
    """What a header says of one element: `properties` are name, type of the length (None for a single number), type."""

    name: str
    length: int
    properties: list[tuple[str, str | None, str]] = field(default_factory=list)

    @property
    def has_lists(self) -> bool:
        return any(length for _, length, _ in self.properties)


def read_mixed(data: bytes, even: bool = False) -> Read | None:
    """Every element of a binary file with its columns, lists as `(n,)` objects; None where it is text, or its lists are even.

    With `even`, also where they are. Raises `ValueError` with element and row where the file ends too early.
    """
    header, order, body = _split(data)
    elements = _header(header, order or "")
    if order is None or elements is None or (not even and _is_even(elements, data, body)):
        return None
    found: Read = {}
    for element in elements:
        if element.has_lists:
            found[element.name], body = _rows(element, data, body)
        else:
            row = np.dtype([(name, each) for name, _, each in element.properties])
            if body + element.length * row.itemsize > len(data):
                raise ValueError(f"it ends within its {element.length:,} × “{element.name}”")
            block = np.frombuffer(data, row, element.length, body)
            found[element.name] = {name: block[name] for name in row.names or ()}
            body += element.length * row.itemsize
    return found


def read_text(data: bytes) -> Read | None:
    """The same of a text file, row by row; None where it is binary or its header is not as the format has it."""
    header, order, body = _split(data)
    elements = _header(header, "<")
    if order is not None or elements is None:
        return None
    lines = iter(data[body:].decode("ascii", "replace").splitlines())
    found: Read = {}
    for element in elements:
        columns = _empty(element)
        for row in range(element.length):
            words = iter(next(lines, "").split())
            try:
                for name, length, kind in element.properties:
                    number = int(next(words)) if length else 1
                    values = np.array([float(next(words)) for _ in range(number)]).astype(kind)
                    columns[name][row] = values if length else values[0]
            except (StopIteration, ValueError, OverflowError) as error:
                raise ValueError(
                    f"row {row:,} of its {element.length:,} × “{element.name}” is cut short or no numbers"
                ) from error
        found[element.name] = columns
    return found


def _split(data: bytes) -> tuple[list[str], str | None, int]:
    """The lines of the header, the order of bytes (None for text), and where the header ends."""
    end = data.find(b"end_header")
    body = data.find(b"\n", end) + 1 if end >= 0 else len(data)
    header = data[: max(end, 0)].decode("ascii", "replace").splitlines()
    kind = next((line.split()[1] for line in header if line.startswith("format ") and len(line.split()) > 1), "")
    return header, (">" if "big" in kind else "<") if kind.startswith("binary") else None, body


def _empty(element: Element) -> Columns:
    return {name: np.empty(element.length, object if length else value) for name, length, value in element.properties}


def _header(lines: list[str], order: str) -> list[Element] | None:
    """The elements in order, or None where a line is not as the format has it: the other reader says what is wrong."""
    elements: list[Element] = []
    for line in lines:
        words = line.split()
        if words[:1] == ["element"] and len(words) == 3 and words[2].isdigit():
            elements.append(Element(words[1], int(words[2])))
        elif words[:1] == ["property"] and elements:
            kinds = [KINDS.get(word) for word in (words[2:4] if words[1:2] == ["list"] else words[1:2])]
            if None in kinds or len(words) != 2 + len(kinds) + (words[1] == "list"):
                return None
            length, value = (order + str(each) for each in kinds) if len(kinds) == 2 else (None, order + str(kinds[0]))
            elements[-1].properties.append((words[-1], length, value))
    return elements


def _is_even(elements: list[Element], data: bytes, body: int) -> bool:
    """Whether the file is as long as it would be if all lists of a property were as long as its first."""
    for element in elements:
        size = 0
        for _, length, value in element.properties:
            if length is not None:
                at = body + size
                if element.length == 0 or at + np.dtype(length).itemsize > len(data):
                    return True
                number = int(np.frombuffer(data, length, 1, at)[0])
                size += np.dtype(length).itemsize + max(number, 0) * np.dtype(value).itemsize
            else:
                size += np.dtype(value).itemsize
        body += size * element.length
    return body == len(data)


def _rows(element: Element, data: bytes, at: int) -> tuple[Columns, int]:
    """The columns of an element with lists, row by row, and where the next element begins."""
    columns = _empty(element)
    read = []
    for name, length, value in element.properties:
        kind = np.dtype(value)
        counter = struct.Struct(_code(length)) if length else None
        read.append((columns[name], counter, kind, kind.itemsize))
    for row in range(element.length):
        for column, counter, kind, size in read:
            try:
                number = 1 if counter is None else int(counter.unpack_from(data, at)[0])
                if not 0 <= number <= LONGEST_LIST:
                    raise ValueError(
                        f"a list of {number:,} in row {row} of “{element.name}”; at most {LONGEST_LIST:,} are read"
                    )
                at += counter.size if counter else 0
                values = np.frombuffer(data, kind, number, at) if number else np.empty(0, kind)
            except (struct.error, ValueError) as error:
                if "a list of" in str(error):
                    raise
                raise ValueError(f"it ends in row {row:,} of its {element.length:,} × “{element.name}”") from error
            column[row] = values if counter else values[0]
            at += number * size
    return columns, at


def _code(kind: str) -> str:
    """The letter of `struct` for a NumPy type with its byte order."""
    return kind[0] + np.dtype(kind).char
