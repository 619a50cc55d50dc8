"""Pictures from PNG, JPEG, TIFF, OpenEXR and Radiance HDR files: checked before they are believed, and limited in size.

What a file says it is and what it holds must agree: the kind is recognised by its first bytes. A colour is brought to scene-linear
light by the file's own transfer curve (sRGB, IEC 61966-2-1, for PNG, JPEG and TIFF with whole numbers; EXR, HDR and
floating-point TIFF are linear already); raw numbers are left as they are, whole ones as shares of their largest.
"""

import os
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
import numpy.typing as npt
import OpenImageIO as oiio

from texallon.core.ops.pyramid import BAND, Pyramid, build_pyramid, level_sizes, pixel_count
from texallon.formats.exr import PictureError
from texallon.formats.scratch import room_for

KINDS = ("png", "jpg", "jpeg", "tif", "tiff", "exr", "hdr")
LARGEST_FILE = 128_000_000
MOST_PIXELS = 64_000_000
MOST_ACROSS = 16_384

MAGIC: dict[str, tuple[bytes, ...]] = {
    "png": (b"\x89PNG\r\n\x1a\n",),
    "jpg": (b"\xff\xd8\xff",),
    "tif": (b"II*\x00", b"MM\x00*", b"II+\x00", b"MM\x00+"),
    "exr": (b"\x76\x2f\x31\x01",),
    "hdr": (b"#?RADIANCE", b"#?RGBE"),
}


def same_kind(ending: str) -> str:
    """`jpeg` is `jpg`, `tiff` is `tif`."""
    return {"jpeg": "jpg", "tiff": "tif"}.get(ending, ending)


def sniff_picture(data: bytes) -> str:
    """`png`, `jpg`, `tif`, `exr` or `hdr` by the first bytes, or nothing."""
    return next((kind for kind, starts in MAGIC.items() if data.startswith(starts)), "")


class OpenPicture:
    """A picture of which bands of rows are read, each by itself, so that not all of it must be in memory.

    `width`, `height` and `channels` (1…4) are known when it is opened; `raw` says whether numbers are left as they stand in the file.
    """

    def __init__(self, opened: oiio.ImageInput, path: Path, ending: str, raw: bool) -> None:
        spec = opened.spec()
        self.width, self.height, self.channels = int(spec.width), int(spec.height), min(int(spec.nchannels), 4)
        self._opened, self._spec, self._path, self._ending = opened, spec, path, ending
        self._curved = not raw and spec.format.basetype not in (oiio.HALF, oiio.FLOAT, oiio.DOUBLE)

    def bands(self, rows: int) -> Iterator[npt.NDArray[np.float32]]:
        """The picture in bands `(rows or fewer, width, channels)`, from the top; raises `PictureError` where it is damaged."""
        tall = self._spec.tile_height if self._spec.tile_width else 1
        rows = max(rows // tall, 1) * tall
        for start in range(0, self.height, rows):
            end = min(start + rows, self.height)
            pixels = self._read(self._spec.y + start, self._spec.y + end)
            if pixels is None:
                raise PictureError(
                    f"the {self._ending.upper()} file is damaged: {_reason(self._opened.geterror(), self._path)}"
                )
            band: npt.NDArray[np.float32] = np.ascontiguousarray(pixels, np.float32)
            band = band.reshape(end - start, self.width, self.channels)
            if self._curved:
                colours = 1 if self.channels < 3 else 3
                band[:, :, :colours] = from_srgb(band[:, :, :colours])
            yield band

    def _read(self, top: int, bottom: int) -> npt.NDArray[np.float32] | None:
        spec = self._spec
        if not spec.tile_width:
            return self._opened.read_scanlines(0, 0, top, bottom, 0, 0, self.channels, oiio.FLOAT)
        return self._opened.read_tiles(
            0, 0, spec.x, spec.x + spec.width, top, bottom, 0, 1, 0, self.channels, oiio.FLOAT
        )


@contextmanager
def open_picture(path: Path, raw: bool) -> Iterator[OpenPicture]:
    """Open a picture to read it in bands; raises `PictureError` in words for a person."""
    size = path.stat().st_size
    if size > LARGEST_FILE:
        raise PictureError(f"the file has {size / 1e6:.0f} MB; at most {LARGEST_FILE / 1e6:.0f} MB are read")
    with path.open("rb") as file:
        kind = sniff_picture(file.read(16))
    ending = same_kind(path.suffix.lower().removeprefix("."))
    if ending not in MAGIC:
        raise PictureError(
            f"a picture comes as PNG, JPEG, TIFF, EXR or HDR, not as “{ending or 'a file without an ending'}”"
        )
    if kind != ending:
        known = f"it looks like {kind.upper()}" if kind else "its contents are none of these"
        raise PictureError(f"this is not a {ending.upper()} file: {known}")
    oiio.attribute("limits:channels", 64)
    config = oiio.ImageSpec()
    # Alpha is kept apart from colour, as it stands in the file.
    config.attribute("oiio:UnassociatedAlpha", 1)
    opened = oiio.ImageInput.open(str(path), config)
    if opened is None:
        raise PictureError(f"the {ending.upper()} file can't be read: {_reason(oiio.geterror(), path)}")
    try:
        spec = opened.spec()
        if spec.width * spec.height > MOST_PIXELS or max(spec.width, spec.height) > MOST_ACROSS:
            raise PictureError(
                f"the picture is {spec.width} × {spec.height}; at most {MOST_PIXELS // 10**6} million pixels are read"
            )
        yield OpenPicture(opened, path, ending, raw)
    finally:
        opened.close()


def read_picture(path: Path, raw: bool) -> npt.NDArray[np.float32]:
    """A whole picture `(height, width, 1…4)`, its first row at the top; raises `PictureError` in words for a person."""
    with open_picture(path, raw) as opened:
        picture = np.empty((opened.height, opened.width, opened.channels), np.float32)
        at = 0
        for band in opened.bands(max(BAND // opened.width, 1)):
            picture[at : at + len(band)] = band
            at += len(band)
    return picture


def read_pyramid(path: Path, raw: bool, scratch: Path | None = None) -> Pyramid:
    """A picture with its ever smaller copies; a large one lies in a file in `scratch`, not in memory. Raises `PictureError`."""
    with open_picture(path, raw) as opened:
        levels = level_sizes(opened.width, opened.height)
        room = room_for(pixel_count(levels), opened.channels, scratch)
        return build_pyramid(levels, opened.bands(max(BAND // opened.width, 1)), room)


def from_srgb(values: npt.NDArray[np.float32]) -> npt.NDArray[np.float32]:
    """Stored values 0…1 to light (IEC 61966-2-1)."""
    low = values / np.float32(12.92)
    high = ((values + np.float32(0.055)) / np.float32(1.055)) ** np.float32(2.4)
    return np.where(values <= 0.04045, low, high).astype(np.float32)


def write_png(path: Path, picture: npt.NDArray[np.uint8]) -> None:
    """Write `(height, width, channels)` bytes; the file appears whole or not at all."""
    handle, name = tempfile.mkstemp(suffix=".png", dir=path.parent)
    os.close(handle)
    try:
        out = oiio.ImageOutput.create(name)
        spec = oiio.ImageSpec(picture.shape[1], picture.shape[0], picture.shape[2], oiio.UINT8)
        spec.attribute("oiio:UnassociatedAlpha", 1)
        if out is None or not out.open(name, spec) or not out.write_image(np.ascontiguousarray(picture)):
            raise PictureError(f"{path.name} can't be written: {_reason(oiio.geterror(), path)}")
        out.close()
        os.chmod(name, 0o644)
        Path(name).replace(path)
    finally:
        Path(name).unlink(missing_ok=True)


def _reason(said: str, path: Path) -> str:
    """The first thing that a reader or writer said, without the file's path: that is nobody's business, and cut short it could not be found again."""
    first = said.replace(f'("{path}")', "").replace(str(path), path.name).strip().split("\n")[0]
    return first[:160].strip() or "it is damaged"
