"""Words in the lower edge of a picture: which shot, which frame, from which document."""

import numpy as np
import numpy.typing as npt
from PIL import Image, ImageDraw

Bytes = npt.NDArray[np.uint8]


def burnt_in(pixels: Bytes, words: str) -> Bytes:
    """A picture `(height, width, 3)` with words in its lower edge.

    Parameters
    ----------
    pixels : Bytes
        As shown.
    words : str
        One line.
    """
    picture = Image.fromarray(pixels)
    tall = max(10, picture.height // 36)
    shade = Image.new("RGBA", picture.size, (0, 0, 0, 0))
    pen = ImageDraw.Draw(shade)
    pen.rectangle((0, picture.height - int(tall * 1.6), picture.width, picture.height), fill=(10, 12, 16, 170))
    pen.text((tall // 2, picture.height - int(tall * 1.4)), words, fill=(242, 214, 160, 255), font_size=tall)
    made: Bytes = np.asarray(Image.alpha_composite(picture.convert("RGBA"), shade).convert("RGB"))
    return made
