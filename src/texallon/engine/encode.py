"""Pictures as bytes for a page: JPEG for what streams, PNG for what is kept."""

import base64
import io

import numpy as np
import numpy.typing as npt
from PIL import Image

Bytes = npt.NDArray[np.uint8]


def jpeg(picture: Bytes, quality: int = 90, rough: bool = False) -> bytes:
    """`(height, width)` grey or `(height, width, 3)` colour; a rough one has a quarter of its colours, and takes half as long."""
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "JPEG", quality=quality, subsampling=2 if rough else 0)
    return out.getvalue()


def png(picture: Bytes) -> bytes:
    out = io.BytesIO()
    Image.fromarray(picture).save(out, "PNG", compress_level=4)
    return out.getvalue()


def data_address(picture: Bytes) -> str:
    """A small picture as a `data:` address that a page can show as it is."""
    return "data:image/jpeg;base64," + base64.b64encode(jpeg(picture, 82)).decode()
