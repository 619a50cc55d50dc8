"""A mesh with its attributes under the names, and with the values, that its object gives them."""

from dataclasses import replace

import numpy as np
import numpy.typing as npt

from texallon.core.derived import derived
from texallon.core.document.attribute_edit import AttributeEdit
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.values_on_mesh import LUMINANCE

Floats = npt.NDArray[np.float32]

NUMBERS = "xyzw"


@derived("edited attributes")
def edited_attributes(mesh: Mesh, edits: tuple[AttributeEdit, ...]) -> Mesh:
    """The mesh with more attributes; edits of attributes that it does not carry are left out.

    Parameters
    ----------
    mesh : Mesh
        As its file has it.
    edits : tuple of AttributeEdit
        In order: a later one may take up what an earlier one made.
    """
    found = dict(mesh.attributes)
    for each in edits:
        if each.attribute in found:
            found[each.name] = _mapped(_part(found[each.attribute], each.part), each)
    return mesh if found.keys() == mesh.attributes.keys() and not edits else replace(mesh, attributes=found)


def _part(values: Floats, part: str) -> Floats:
    """Some of its numbers, or what is made of them, `(v, 1…4)`; of a number that is missing 0."""
    if part in NUMBERS:
        at = NUMBERS.index(part)
        return values[:, at : at + 1] if at < values.shape[1] else np.zeros((len(values), 1), np.float32)
    if part == "length":
        length: Floats = np.linalg.norm(values, axis=1, keepdims=True).astype(np.float32)
        return length
    if part == "luminance":
        return values[:, :3] @ LUMINANCE[:, None] if values.shape[1] >= 3 else values[:, :1]
    if part == "painted colour":
        # The transfer curve of sRGB, IEC 61966-2-1.
        held = np.clip(values[:, :3], 0, 1)
        return np.where(held <= 0.04045, held / 12.92, ((held + 0.055) / 1.055) ** 2.4).astype(np.float32)
    return values


def _mapped(values: Floats, edit: AttributeEdit) -> Floats:
    share = (values - np.float32(edit.from_start)) / np.float32(edit.from_end - edit.from_start)
    made: Floats = np.ascontiguousarray(
        np.float32(edit.to_start) + share * np.float32(edit.to_end - edit.to_start), np.float32
    )
    return made
