"""OpenEXR pictures: scene-linear light, written with the document's hash in the header."""

from collections.abc import Mapping
from pathlib import Path
from typing import Literal

import numpy as np
import numpy.typing as npt
import OpenEXR


class PictureError(ValueError):
    """A picture that can't be used, in a sentence for a person."""


Beyond = Literal["float", "clamp"]
Compression = Literal["zip", "zips", "piz", "dwaa", "none"]
COMPRESSIONS: dict[Compression, OpenEXR.Compression] = {
    "zip": OpenEXR.ZIP_COMPRESSION,
    "zips": OpenEXR.ZIPS_COMPRESSION,
    "piz": OpenEXR.PIZ_COMPRESSION,
    "dwaa": OpenEXR.DWAA_COMPRESSION,
    "none": OpenEXR.NO_COMPRESSION,
}
"""All but `dwaa` keep every bit."""

MOST_HALF = 65_504.0
"""The largest number that a half float holds (IEEE 754)."""

FAR = np.float32(1e10)
"""Stands for infinity in layers of data: the depth of nothing."""

LETTERS = {1: ("Y",), 2: ("X", "Y"), 3: ("R", "G", "B")}
VECTORS = ("position", "normal")
"""Layers of three numbers that are no colour: theirs are x, y and z."""


def within_reach(
    picture: npt.NDArray[np.float32], beyond: Beyond
) -> tuple[npt.NDArray[np.float32], str, type[np.floating]]:
    """The picture in finite numbers, what was done to it in words (or nothing), and the type that it fits."""
    notes = []
    broken = ~np.isfinite(picture)
    if broken.any():
        notes.append(f"{int(broken.any(axis=2).sum())} pixels were no finite numbers")
        picture = np.nan_to_num(picture, nan=0.0, posinf=3.0e38, neginf=0.0)
    above = np.abs(picture) > MOST_HALF
    kind: type[np.floating] = np.float16
    if above.any():
        count = int(above.any(axis=2).sum())
        if beyond == "clamp":
            picture = np.clip(picture, -MOST_HALF, MOST_HALF)
            notes.append(f"{count} pixels were brighter than 65504 and are held there")
        else:
            kind = np.float32
            notes.append(f"{count} pixels are brighter than 65504, so the picture is in whole floats")
    return picture, "; ".join(notes), kind


def write_exr(
    path: Path,
    picture: npt.NDArray[np.float32],
    comments: dict[str, str] | None = None,
    layers: Mapping[str, npt.NDArray[np.float32]] | None = None,
    beyond: Beyond = "float",
    compression: Compression = "zip",
) -> None:
    """Write `(height, width, 3)` as half floats, Rec.709 primaries named in the header.

    The file holds only finite numbers: light brighter than a half float can be, 65 504, makes the picture whole floats, or is held at
    that where `beyond` says `clamp`; what is infinite or no number becomes the largest number, or 0. The header says so.

    `comments` become text attributes; `layers (height, width, 1…4)` stand beside the picture under their names, as whole
    floats so that positions and numbers stay exact; those of four numbers, which are masks by id, in a second part. The file appears whole or not at all.
    """
    picture, note, kind = within_reach(picture, beyond)
    header = {
        "compression": COMPRESSIONS[compression],
        "type": OpenEXR.scanlineimage,
        # ITU-R BT.709 red, green, blue and white (D65).
        "chromaticities": (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290),
        **(comments or {}),
        **({"rangeNote": note} if note else {}),
    }
    planes: dict[str, npt.NDArray[np.floating]] = {
        name: np.ascontiguousarray(picture[:, :, i], kind) for i, name in enumerate("RGB")
    }
    ids: dict[str, npt.NDArray[np.floating]] = {}
    for layer, values in (layers or {}).items():
        if values.shape[2] == 4:
            ids |= {f"{layer}.{letter}": np.ascontiguousarray(values[:, :, i]) for i, letter in enumerate("RGBA")}
            continue
        letters = ("X", "Y", "Z") if layer in VECTORS else LETTERS[values.shape[2]]
        for i, letter in enumerate(letters):
            planes[f"{layer}.{letter}"] = np.nan_to_num(
                values[:, :, i].astype(np.float32), nan=0.0, posinf=FAR, neginf=-FAR
            )
    temporary = path.with_name(f".{path.name}.part")
    try:
        if ids:  # in a part of their own: readers take 64 channels of one for a damaged file
            parts = [OpenEXR.Part(dict(header), planes, "picture"), OpenEXR.Part(dict(header), ids, "ids")]
            OpenEXR.File(parts).write(str(temporary))
        else:
            OpenEXR.File(header, planes).write(str(temporary))
        temporary.replace(path)
    finally:
        temporary.unlink(missing_ok=True)
