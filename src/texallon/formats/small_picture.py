"""Pictures made small, for lists."""

import io

from PIL import Image

WIDTH, HEIGHT = 240, 135
"""Most pixels across and down."""


def small_png(data: bytes) -> bytes:
    """A PNG that fits into a list, of any PNG or JPEG that was made here.

    Parameters
    ----------
    data : bytes
        The picture's file.
    """
    with Image.open(io.BytesIO(data)) as opened:
        small = opened.convert("RGB")
        small.thumbnail((WIDTH, HEIGHT), Image.Resampling.LANCZOS)
        out = io.BytesIO()
        small.save(out, "PNG", optimize=True)
    return out.getvalue()
