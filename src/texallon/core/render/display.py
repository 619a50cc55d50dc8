"""From scene-linear light to what a screen shows.

Pictures go through an OpenColorIO view, baked once into a 65³ table over a logarithmic scale because the exact transform
takes most of a second; data (masks, heights) are shown as they are, and single colours through the sRGB curve.
"""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache

import numpy as np
import numpy.typing as npt
import PyOpenColorIO as ocio

from texallon.core.kernel import Array, Real, allocating

DISPLAY = "sRGB - Display"
VIEW = "ACES 2.0 - SDR 100 nits (Rec.709)"
VIEWS = (VIEW, "Un-tone-mapped", "Raw")
"""Ways to show the same light, by the configuration's own names."""

LINEAR = "Linear Rec.709 (sRGB)"
SIZE = 65
LOWEST, HIGHEST = -12.0, 9.0
"""Ends of the table in stops about middle grey (0.18)."""

PART = 65_536
"""Pixels shown between two looks at whether the picture is still wanted."""

Bytes = npt.NDArray[np.uint8]


@cache
def _config() -> ocio.Config:
    return ocio.Config.CreateFromFile("ocio://default")


def exact_view(picture: Array, view: str = VIEW) -> Array:
    """A view of `(…, 3)` scene-linear Rec.709 light by OpenColorIO itself, 0…1; slow, and what the table is held to."""
    transform = ocio.DisplayViewTransform(src=LINEAR, display=DISPLAY, view=view)
    processor = _config().getProcessor(transform).getDefaultCPUProcessor()
    flat = np.ascontiguousarray(picture, np.float32).reshape(-1, 3).copy()
    processor.applyRGB(flat)
    shown: Array = flat.reshape(picture.shape)
    return shown


@cache
def view_table(view: str = VIEW) -> Array:
    """A view as a table `(65, 65, 65, 3)` over red, green and blue on the logarithmic scale."""
    steps = 0.18 * np.exp2(LOWEST + (HIGHEST - LOWEST) * np.arange(SIZE) / (SIZE - 1))
    steps[0] = 0.0
    r, g, b = np.meshgrid(steps, steps, steps, indexing="ij")
    return np.ascontiguousarray(exact_view(np.stack([r, g, b], axis=3).astype(np.float32), view))


def view_bytes(
    picture: Array, exposure: float, check: Callable[[], None] = lambda: None, view: str = VIEW, gamma: float = 1.0
) -> Bytes:
    """`(height, width, 3)` scene-linear light as bytes for a screen, after `exposure` stops; `gamma` bends what is shown.

    `check` is called before every part and may raise, so that a large picture can be interrupted.
    """
    flat = np.ascontiguousarray(picture, np.float32).reshape(-1, 3)
    out = np.empty(flat.shape, np.uint8)
    table, gain = view_table(view), np.float32(2.0**exposure)

    def one(start: int) -> None:
        check()
        part = slice(start, start + PART)
        apply_table(flat[part], table, gain, out[part])

    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        for _ in pool.map(one, range(0, len(flat), PART)):
            pass
    if gamma != 1.0:
        bent = np.rint(255 * (np.arange(256) / 255) ** (1 / gamma)).astype(np.uint8)
        out = bent[out]
    return out.reshape(picture.shape)


def data_bytes(values: Array) -> Bytes:
    """`(…,)` values as grey levels, 0…1 evenly; what lies outside, or is not a number, is clamped."""
    kept: Bytes = np.rint(np.clip(np.nan_to_num(values, nan=0.0, posinf=1.0, neginf=0.0), 0, 1) * 255).astype(np.uint8)
    return kept


def srgb_curve(linear: npt.NDArray[np.floating]) -> npt.NDArray[np.floating]:
    """The sRGB transfer curve (IEC 61966-2-1): 0.0031308 and below are linear; `srgb_curve(0.18)` is about 0.4614."""
    x = np.clip(np.nan_to_num(linear, nan=0.0), 0, 1)
    curved: npt.NDArray[np.floating] = np.where(x <= 0.0031308, 12.92 * x, 1.055 * x ** (1 / 2.4) - 0.055)
    return curved


def colour_bytes(values: Array) -> Bytes:
    """Scene-linear colours through the sRGB curve, clamped: how a colour channel is shown alone."""
    shown: Bytes = np.rint(srgb_curve(values) * 255).astype(np.uint8)
    return shown


@allocating
def apply_table(picture: Array, table: Array, gain: Real, out: Bytes) -> None:
    """Tetrahedral interpolation in the table (as in ICC and OpenColorIO practice), rounded to bytes."""
    last = SIZE - 1
    scale = np.float32(last / (HIGHEST - LOWEST))
    place = np.empty(3, np.float32)
    cell = np.empty(3, np.int64)
    for i in range(picture.shape[0]):
        for c in range(3):
            x = picture[i, c] * gain
            t = (np.log2(x * np.float32(1 / 0.18)) - np.float32(LOWEST)) * scale if x > 0 else np.float32(0)
            t = min(max(t, np.float32(0)), np.float32(last)) if t == t else np.float32(0)
            cell[c] = min(int(t), last - 1)
            place[c] = t - cell[c]
        x, y, z = place[0], place[1], place[2]
        a, b, d = cell[0], cell[1], cell[2]
        for c in range(3):
            p000 = table[a, b, d, c]
            p111 = table[a + 1, b + 1, d + 1, c]
            if x >= y:
                if y >= z:
                    p1, p2, w0, w1, w2 = table[a + 1, b, d, c], table[a + 1, b + 1, d, c], x, y, z
                elif x >= z:
                    p1, p2, w0, w1, w2 = table[a + 1, b, d, c], table[a + 1, b, d + 1, c], x, z, y
                else:
                    p1, p2, w0, w1, w2 = table[a, b, d + 1, c], table[a + 1, b, d + 1, c], z, x, y
            elif z >= y:
                p1, p2, w0, w1, w2 = table[a, b, d + 1, c], table[a, b + 1, d + 1, c], z, y, x
            elif z >= x:
                p1, p2, w0, w1, w2 = table[a, b + 1, d, c], table[a, b + 1, d + 1, c], y, z, x
            else:
                p1, p2, w0, w1, w2 = table[a, b + 1, d, c], table[a + 1, b + 1, d, c], y, x, z
            value = p000 + w0 * (p1 - p000) + w1 * (p2 - p1) + w2 * (p111 - p2)
            out[i, c] = np.uint8(min(max(value, np.float32(0)), np.float32(1)) * np.float32(255) + np.float32(0.5))
