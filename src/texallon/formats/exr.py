"""OpenEXR pictures: scene-linear light, written with the document's hash in the header."""

from collections.abc import Iterator, Mapping
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

Layers = Mapping[str, npt.NDArray[np.float32]]
Channels = dict[str, npt.NDArray[np.float32]]
MOST_CHANNELS = 60
"""Of one part: OpenImageIO 3.2 takes a part of 64 or more for a damaged file; a multiple of 3 and 4 parts no layer."""

PICTURE = "picture"
"""The name of the first part."""

MOST_HALF = 65_504.0
"""The largest number that a half float holds (IEEE 754)."""

FAR = np.float32(1e10)
"""Stands for infinity in layers of data: the depth of nothing."""

LETTERS = {1: ("Y",), 2: ("X", "Y"), 3: ("R", "G", "B"), 4: ("R", "G", "B", "A")}
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
    parts: Mapping[str, Layers] | None = None,
    beyond: Beyond = "float",
    compression: Compression = "zip",
) -> None:
    """Write `(height, width, 3)` as half floats, Rec.709 primaries named in the header.

    The file holds only finite numbers: light brighter than a half float can be, 65 504, makes the picture whole floats, or is held at
    that where `beyond` says `clamp`; what is infinite or no number becomes the largest number, or 0. The header says so.

    `comments` become text attributes of every part. `parts` hold what stands beside the picture, by the part's name: its layers `(height, width, 1…4)`
    by theirs, as whole floats so that positions and numbers stay exact. One with more than `MOST_CHANNELS` goes on in another. The file appears
    whole or not at all.
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
    planes = {name: np.ascontiguousarray(picture[:, :, i], kind) for i, name in enumerate("RGB")}
    beside = dict(part for name, layers in (parts or {}).items() for part in _divided(name, _channels(layers)))
    temporary = path.with_name(f".{path.name}.part")
    try:
        if beside:
            all_parts = {PICTURE: planes, **beside}
            OpenEXR.File([OpenEXR.Part(dict(header), own, name) for name, own in all_parts.items()]).write(
                str(temporary)
            )
        else:
            OpenEXR.File(header, planes).write(str(temporary))
        temporary.replace(path)
    finally:
        temporary.unlink(missing_ok=True)


def _divided(name: str, channels: Channels) -> Iterator[tuple[str, Channels]]:
    """A part, or as many as its channels need, numbered from the second on."""
    names = list(channels)
    for start in range(0, len(names), MOST_CHANNELS):
        number = start // MOST_CHANNELS + 1
        own = {each: channels[each] for each in names[start : start + MOST_CHANNELS]}
        yield (name if number == 1 else f"{name} {number}"), own


def _channels(layers: Layers) -> Channels:
    """The channels of a part, `(height, width)` each, by name."""
    planes = {}
    for layer, values in layers.items():
        letters = ("X", "Y", "Z") if layer in VECTORS else LETTERS[values.shape[2]]
        exact = values.shape[2] == 4  # numbers that stand for names: any bits mean something
        for i, letter in enumerate(letters):
            own = np.ascontiguousarray(values[:, :, i], np.float32)
            planes[f"{layer}.{letter}"] = own if exact else np.nan_to_num(own, nan=0.0, posinf=FAR, neginf=-FAR)
    return planes


def read_channels(path: Path) -> dict[str, npt.NDArray[np.float32]]:
    """The channels of all parts of a file, `(height, width)` each, by name.

    Parameters
    ----------
    path : Path
        Of a file whose parts have no channel's name in common.
    """
    with OpenEXR.File(str(path), separate_channels=True) as file:
        return {name: np.array(each.pixels, np.float32) for part in file.parts for name, each in part.channels.items()}
