"""Pictures as a video that plays everywhere: H.264 in an .mp4 file, with its colours named."""

from collections.abc import Iterable
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import numpy.typing as npt
from av.video.reformatter import ColorPrimaries, ColorRange, Colorspace, ColorTrc

Bytes = npt.NDArray[np.uint8]

QUALITY = 16
"""Constant rate factor of the encoder: from 17 or so on a loss is seen by nobody (the encoder's own manual says 17 or 18)."""


def write_video(path: Path, pictures: Iterable[Bytes], rate: float, quality: int = QUALITY) -> int:
    """Write pictures one after the other, and tell how many there were. The file appears whole or not at all.

    They are taken as an sRGB screen shows them: primaries of Rec. 709, the curve of sRGB, and Rec. 709's matrix into luma and
    chroma at half the resolution, in studio range; the file names all four (ITU-T H.273). An odd width or height is made even by repeating the last
    column or row.

    Parameters
    ----------
    path : Path
        Of an `.mp4` file.
    pictures : iterable of Bytes
        `(height, width, 3)` each, all of one size.
    rate : float
        Pictures a second.
    quality : int, optional
        The encoder's constant rate factor: less is better and larger.

    Raises
    ------
    ValueError
        Where there are no pictures, or they differ in size.
    """
    temporary = path.with_name(f".{path.name}.part")
    count, size = 0, (0, 0)
    try:
        with av.open(str(temporary), "w", format="mp4", options={"movflags": "+faststart"}) as container:
            stream: Any = None
            for picture in pictures:
                if stream is None:
                    size = picture.shape[:2]
                    stream = _stream(container, size, rate, quality)
                if picture.shape[:2] != size:
                    raise ValueError(
                        f"picture {count + 1} has {picture.shape[1]} × {picture.shape[0]} pixels, the first {size[1]} × {size[0]}"
                    )
                for packet in stream.encode(_frame(picture)):
                    container.mux(packet)
                count += 1
            if stream is None:
                raise ValueError("there are no pictures")
            for packet in stream.encode():
                container.mux(packet)
        temporary.replace(path)
    finally:
        temporary.unlink(missing_ok=True)
    return count


def _stream(container: Any, size: tuple[int, int], rate: float, quality: int) -> Any:
    stream = container.add_stream("libx264", rate=_exactly(rate))
    stream.height, stream.width = (each + each % 2 for each in size)
    stream.pix_fmt = "yuv420p"
    stream.options = {"crf": str(quality), "preset": "medium"}
    codec = stream.codec_context
    codec.color_primaries, codec.color_trc = ColorPrimaries.BT709, ColorTrc.IEC61966_2_1
    codec.colorspace, codec.color_range = Colorspace.ITU709, ColorRange.MPEG
    return stream


def _exactly(rate: float) -> Fraction:
    """The rate that is meant: 23.976 is 24000/1001 (SMPTE ST 12-1)."""
    slowed = rate * 1.001
    if abs(rate - round(rate)) > 1e-6 and abs(slowed - round(slowed)) < 1e-3:
        return Fraction(round(slowed) * 1000, 1001)
    return Fraction(rate).limit_denominator(1001)


def _frame(picture: Bytes) -> av.VideoFrame:
    height, width = picture.shape[:2]
    even = np.pad(picture, ((0, height % 2), (0, width % 2), (0, 0)), mode="edge")
    frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(even), format="rgb24")
    return frame.reformat(
        format="yuv420p",
        src_colorspace=Colorspace.ITU709,
        dst_colorspace=Colorspace.ITU709,
        src_color_range=ColorRange.JPEG,
        dst_color_range=ColorRange.MPEG,
    )
