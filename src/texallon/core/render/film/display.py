"""From scene-linear light to what a screen shows.

Pictures go through an OpenColorIO view, baked once into a 65³ table over a logarithmic scale because the exact transform
takes most of a second; data (masks, heights) are shown as they are, and single colours through the sRGB curve.
"""

from collections.abc import Callable
from functools import cache

import numpy as np
import numpy.typing as npt
import PyOpenColorIO as ocio

from texallon.core.kernel import Array, kernel
from texallon.core.render.workers import workers

DISPLAY = "sRGB - Display"
VIEW = "ACES 2.0 - SDR 100 nits (Rec.709)"
VIEWS = (VIEW, "Un-tone-mapped", "Raw")
"""Ways to show the same light, by the configuration's own names."""

LINEAR = "Linear Rec.709 (sRGB)"
SIZE = 65
LOWEST, HIGHEST = -12.0, 9.0
"""Ends of the table in stops about middle grey (0.18)."""

PART = 32_768
"""Pixels shown between two looks at whether the picture is still wanted."""

Bytes = npt.NDArray[np.uint8]


@cache
def _config() -> ocio.Config:
    return ocio.Config.CreateFromFile("ocio://default")


def exact_view(picture: Array, view: str = VIEW) -> Array:
    """A view of `(…, 3)` scene-linear Rec.709 light by OpenColorIO itself, 0…1; slow, and what the table is held to.

    Parameters
    ----------
    picture : Array
        `(…, 3)` scene-linear Rec.709 light.
    view : str, optional
        By its name.

    Returns
    -------
    Array
        `(…, 3)`.
    """
    transform = ocio.DisplayViewTransform(src=LINEAR, display=DISPLAY, view=view)
    processor = _config().getProcessor(transform).getDefaultCPUProcessor()
    flat = np.ascontiguousarray(picture, np.float32).reshape(-1, 3).copy()
    processor.applyRGB(flat)
    shown: Array = flat.reshape(picture.shape)
    return shown


@cache
def view_table(view: str = VIEW) -> Array:
    """A view as a table `(65, 65, 65, 3)` over red, green and blue on the logarithmic scale.

    Parameters
    ----------
    view : str, optional
        By its name.

    Returns
    -------
    Array
        `(65, 65, 65, 3)`.
    """
    steps = 0.18 * np.exp2(LOWEST + (HIGHEST - LOWEST) * np.arange(SIZE) / (SIZE - 1))
    steps[0] = 0.0
    r, g, b = np.meshgrid(steps, steps, steps, indexing="ij")
    return np.ascontiguousarray(exact_view(np.stack([r, g, b], axis=3).astype(np.float32), view))


def view_bytes(
    picture: Array, exposure: float, check: Callable[[], None] = lambda: None, view: str = VIEW, gamma: float = 1.0
) -> Bytes:
    """`(height, width, 3)` scene-linear light as bytes for a screen, after `exposure` stops; `gamma` bends what is shown.

    `check` is called before every part and may raise, so that a large picture can be interrupted.

    Parameters
    ----------
    picture : Array
        `(…, 3)` scene-linear Rec.709 light.
    exposure : float
        Stops.
    check : callable, optional
        Called between pieces of work; may raise `Interrupted`.
    view : str, optional
        By its name.
    gamma : float, optional
        Applied after the view.
    """
    flat = np.ascontiguousarray(picture, np.float32).reshape(-1, 3)
    out = np.empty(flat.shape, np.uint8)
    table, gain = view_table(view).reshape(-1), np.float32(2.0**exposure / 0.18)
    scale = np.float32((SIZE - 1) / (HIGHEST - LOWEST))

    def one(start: int) -> None:
        check()
        part = slice(start, start + PART)
        with np.errstate(all="ignore"):
            place = np.log2(flat[part] * gain)
        place -= np.float32(LOWEST)
        place *= scale
        # What is not a number, or not positive, is black.
        np.minimum(np.fmax(place, 0, out=place), SIZE - 1, out=place)
        look_up(place, table, out[part])

    for _ in workers().map(one, range(0, len(flat), PART)):
        pass
    if gamma != 1.0:
        warped = np.rint(255 * (np.arange(256) / 255) ** (1 / gamma)).astype(np.uint8)
        out = warped[out]
    return out.reshape(picture.shape)


def data_bytes(values: Array) -> Bytes:
    """`(…,)` values as grey levels, 0…1 evenly; what lies outside, or is not a number, is clamped.

    Parameters
    ----------
    values : Array
        `(…)` or `(…, 3)`.
    """
    kept: Bytes = np.rint(np.clip(np.nan_to_num(values, nan=0.0, posinf=1.0, neginf=0.0), 0, 1) * 255).astype(np.uint8)
    return kept


def srgb_curve(linear: npt.NDArray[np.floating]) -> npt.NDArray[np.floating]:
    """The sRGB transfer curve (IEC 61966-2-1): 0.0031308 and below are linear; `srgb_curve(0.18)` is about 0.4614.

    Parameters
    ----------
    linear : Array
        `(…)` 0 and above.
    """
    x = np.clip(np.nan_to_num(linear, nan=0.0), 0, 1)
    curved: npt.NDArray[np.floating] = np.where(x <= 0.0031308, 12.92 * x, 1.055 * x ** (1 / 2.4) - 0.055)
    return curved


def colour_bytes(values: Array) -> Bytes:
    """Scene-linear colours through the sRGB curve, clamped: how a colour channel is shown alone.

    Parameters
    ----------
    values : Array
        `(…)` or `(…, 3)`.
    """
    shown: Bytes = np.rint(srgb_curve(values) * 255).astype(np.uint8)
    return shown


@kernel
def look_up(place: Array, table: Array, out: Bytes) -> None:
    """Tetrahedral interpolation (as in ICC and OpenColorIO practice) at places `(n, 3)`, 0…64, in a table laid out flat; rounded to
    bytes. Which of six tetrahedra a place is in is chosen without a branch: pictures are too noisy for a processor to foresee it.

    Parameters
    ----------
    place : Array
        `(n, 3)` 0…64.
    table : Array
        `(65 · 65 · 65, 3)`.
    out : Bytes
        `(n, 3)` bytes, filled.
    """
    last = SIZE - 1
    none, one, byte, half = np.float32(0), np.float32(1), np.float32(255), np.float32(0.5)
    red, green, blue = SIZE * SIZE * 3, SIZE * 3, 3
    for i in range(place.shape[0]):
        a, b, c = min(int(place[i, 0]), last - 1), min(int(place[i, 1]), last - 1), min(int(place[i, 2]), last - 1)
        x, y, z = place[i, 0] - np.float32(a), place[i, 1] - np.float32(b), place[i, 2] - np.float32(c)
        most, least = max(x, y, z), min(x, y, z)
        middle = x + y + z - most - least
        first = red if x >= y and x >= z else (green if y >= z else blue)
        rest = blue if z <= x and z <= y else (green if y <= x else red)
        near = a * red + b * green + c * blue
        far = near + red + green + blue
        for k in range(3):
            value = (
                (one - most) * table[near + k]
                + (most - middle) * table[near + first + k]
                + (middle - least) * table[far - rest + k]
                + least * table[far + k]
            )
            out[i, k] = np.uint8(min(max(value, none), one) * byte + half)
