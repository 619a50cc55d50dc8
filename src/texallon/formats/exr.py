"""OpenEXR pictures: scene-linear light, read whole and written with the document's hash in the header."""

from collections.abc import Mapping
from pathlib import Path

import numpy as np
import numpy.typing as npt
import OpenEXR

MOST_PIXELS = 64_000_000


class PictureError(ValueError):
    """A picture that can't be used, in a sentence for a person."""


def read_exr(path: Path) -> npt.NDArray[np.float32]:
    """Red, green and blue `(height, width, 3)` float32; a picture with one channel is grey.

    Raises `PictureError` for what is not an EXR picture, has none of these channels or is too large.
    """
    try:
        with path.open("rb") as file:
            if file.read(4) != b"\x76\x2f\x31\x01":
                raise PictureError(f"{path.name} is not an OpenEXR picture")
        channels = OpenEXR.File(str(path), separate_channels=True).channels()
        planes = {name: channel.pixels for name, channel in channels.items()}
    except (OSError, RuntimeError) as error:
        raise PictureError(f"{path.name} can't be read: {error}") from error
    names = ["R", "G", "B"] if "R" in planes else [next(iter(planes), "")] * 3
    if not all(name in planes for name in names):
        raise PictureError(f"{path.name} has no red, green and blue (it has {', '.join(planes) or 'nothing'})")
    if planes[names[0]].size > MOST_PIXELS:
        raise PictureError(f"{path.name} has {planes[names[0]].size:,} pixels; at most {MOST_PIXELS:,} are read")
    return np.ascontiguousarray(np.stack([planes[name] for name in names], axis=2), np.float32)


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
