"""OpenEXR pictures: scene-linear light, written with the document's hash in the header."""

from collections.abc import Mapping
from pathlib import Path

import numpy as np
import numpy.typing as npt
import OpenEXR


class PictureError(ValueError):
    """A picture that can't be used, in a sentence for a person."""


LETTERS = {1: ("Y",), 2: ("X", "Y"), 3: ("R", "G", "B")}
VECTORS = ("position", "normal")
"""Layers of three numbers that are no colour: theirs are x, y and z."""


def write_exr(
    path: Path,
    picture: npt.NDArray[np.float32],
    comments: dict[str, str] | None = None,
    layers: Mapping[str, npt.NDArray[np.float32]] | None = None,
) -> None:
    """Write `(height, width, 3)` as half floats, Rec.709 primaries named in the header.

    `comments` become text attributes; `layers (height, width, 1…3)` stand beside the picture under their names, as whole
    floats so that positions and numbers stay exact. The file appears whole or not at all.
    """
    header = {
        "compression": OpenEXR.ZIP_COMPRESSION,
        "type": OpenEXR.scanlineimage,
        # ITU-R BT.709 red, green, blue and white (D65).
        "chromaticities": (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290),
        **(comments or {}),
    }
    planes: dict[str, npt.NDArray[np.floating]] = {
        name: np.ascontiguousarray(picture[:, :, i], np.float16) for i, name in enumerate("RGB")
    }
    for layer, values in (layers or {}).items():
        letters = ("X", "Y", "Z") if layer in VECTORS else LETTERS[values.shape[2]]
        for i, letter in enumerate(letters):
            planes[f"{layer}.{letter}"] = np.ascontiguousarray(values[:, :, i], np.float32)
    temporary = path.with_name(f".{path.name}.part")
    try:
        OpenEXR.File(header, planes).write(str(temporary))
        temporary.replace(path)
    finally:
        temporary.unlink(missing_ok=True)
