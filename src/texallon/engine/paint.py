"""Values as pictures: grey, false colour or iso-lines, with what is negative, infinite or no number shown in its own way.

Negative values are cool blue, the stronger the farther below 0; infinities are hatched in amber (+∞) and blue (−∞), and what is no
number in rose, so that none of them can be taken for a value.
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from texallon.core.kernel import Array
from texallon.core.ops.ramp import from_oklab, to_oklab
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.render.film.display import colour_bytes, data_bytes
from texallon.engine.encode import data_address

Bytes = npt.NDArray[np.uint8]

GROUND = np.array([13, 16, 20], np.uint8)
"""Shown where the camera sees nothing that wears the look."""

COOL = np.array([140, 193, 226], np.float32)
AMBER = np.array([242, 178, 92], np.uint8)
BLUE = np.array([70, 130, 235], np.uint8)
ROSE = np.array([226, 62, 128], np.uint8)
HATCH = 3
"""Pixels from one line of a hatch to the next."""

STYLES = ("grey", "false colour", "lines")

STOPS = np.array([[0.010, 0.012, 0.045], [0.03, 0.09, 0.30], [0.06, 0.34, 0.32], [0.80, 0.46, 0.10], [1.0, 0.93, 0.72]])
"""False colour from night blue to lantern light, ever lighter; scene-linear, mixed in Oklab."""

LINES = 10
"""About how many iso-lines cross the whole range."""


@dataclass(frozen=True)
class Range:
    """What a picture's dark and light ends stand for; `step` is the distance between iso-lines."""

    low: float
    high: float
    step: float


def bounded(values: Array) -> Range:
    """0…1, as a mask is looked at."""
    return Range(0.0, 1.0, 1 / LINES)


def range_of(values: Array) -> Range:
    """0…1 where values lie within it; else from the lowest (or 0) to the highest, so that a picture says something."""
    finite = values[np.isfinite(values)]
    if len(finite) == 0:
        return Range(0.0, 1.0, 1 / LINES)
    low, high = float(finite.min()), float(finite.max())
    if low >= -1e-4 and high <= 1.0001:
        return Range(0.0, 1.0, 1 / LINES)
    if low < 0:
        reach = max(-low, high)
        return Range(-reach if low < 0 else 0.0, reach, nice_step(2 * reach if high > 0 else reach))
    return Range(low, max(high, low + 1e-12), nice_step(high - low))


def nice_step(reach: float) -> float:
    """1, 2 or 5 times a power of ten, about a tenth of the reach."""
    rough = max(reach, 1e-30) / LINES
    power = 10.0 ** np.floor(np.log10(rough))
    return float(power * next(part for part in (1, 2, 5, 10) if part * power >= rough * 0.999))


def paint(
    points: GBuffer, look: int, values: Array, colour: bool, span: Range | None = None, style: str = "grey"
) -> Bytes:
    """Values `(1 or 3, n)` of a look's points as a picture `(height, width, 3)`, the rest left as ground."""
    view = points.view
    picture = np.empty((view.width * view.height, 3), np.uint8)
    picture[:] = GROUND
    pixels = points.batch(look).pixels
    if colour:
        wide = np.broadcast_to(values, (3, values.shape[1]))
        shown = colour_bytes(wide.T)
        odd = ~np.isfinite(wide).all(axis=0)
        _hatch(shown, odd, pixels, view.width, ROSE)
    else:
        shown = scalar_bytes(values[0], span or range_of(values), style)
        where = values[0]
        for chosen, tone in ((np.isposinf(where), AMBER), (np.isneginf(where), BLUE), (np.isnan(where), ROSE)):
            _hatch(shown, chosen, pixels, view.width, tone)
        if style == "lines":
            _draw_lines(shown, where, span or range_of(values), pixels, view.width, view.height)
    picture[pixels] = shown
    return picture.reshape(view.height, view.width, 3)


def scalar_bytes(values: Array, span: Range, style: str) -> Bytes:
    """Values `(n,)` as `(n, 3)` bytes."""
    if style == "false colour":
        t = (values - np.float32(span.low)) / np.float32(max(span.high - span.low, 1e-12))
        place = np.clip(np.nan_to_num(t, posinf=1, neginf=0), 0, 1) * (len(_false_colours()) - 1)
        result: Bytes = _false_colours()[np.rint(place).astype(np.int64)]
        return result
    base = max(span.low, 0.0)
    reach = np.float32(max(span.high - base, 1e-12))
    grey = data_bytes((values - np.float32(base)) / reach)[:, None]
    if style == "lines":
        grey = (grey.astype(np.uint16) * 5 // 8 + 24).astype(np.uint8)
    out = np.repeat(grey, 3, axis=1)
    below = values < min(0.0, span.low + 1e-12) if span.low >= 0 else values < 0
    if below.any():
        share = np.clip(-values[below] / reach, 0, 1)[:, None] * np.float32(0.8) + np.float32(0.2)
        out[below] = (COOL * np.nan_to_num(share, posinf=1)).astype(np.uint8)
    return out


def scale_strip(span: Range, style: str) -> str:
    """A strip of the tones from the lowest to the highest value, as an address that holds its own data."""
    values = np.linspace(span.low, span.high, 120, dtype=np.float32)
    return data_address(np.tile(scalar_bytes(values, span, style)[None], (4, 1, 1)))


def grid_picture(points: GBuffer, look: int, coordinates: Array) -> Bytes:
    """Bent coordinates `(4, n)` as a picture: a grid drawn on them, so that one sees how space was bent."""
    view = points.view
    picture = np.empty((view.width * view.height, 3), np.uint8)
    picture[:] = GROUND
    group = points.batch(look)
    if coordinates.shape[1]:
        place = coordinates[:3]
        finite = place[:, np.isfinite(place).all(axis=0)]
        extent = float((finite.max(axis=1) - finite.min(axis=1)).max()) if finite.size else 1.0
        edge = np.float32(nice_step(extent * 0.8))
        cells = place / edge
        whole = np.floor(cells)
        parity = whole.sum(axis=0)
        odd = parity - 2 * np.floor(parity / 2)
        near = np.abs(cells - np.rint(cells))
        # A coordinate that stays the same over the picture draws no lines.
        varies = (np.ptp(finite, axis=1) > 1e-6 * max(extent, 1e-6)) if finite.size else np.ones(3, bool)
        line = (near < 0.045) & varies[:, None]
        shown = np.where(odd[:, None] > 0, np.uint8(58), np.uint8(36)) + np.zeros(3, np.uint8)
        shown[line.any(axis=0)] = COOL.astype(np.uint8)
        shown[~np.isfinite(place).all(axis=0)] = ROSE
        picture[group.pixels] = shown
    return picture.reshape(view.height, view.width, 3)


def _hatch(shown: Bytes, chosen: npt.NDArray[np.bool_], pixels: Array, width: int, tone: Bytes) -> None:
    if not chosen.any():
        return
    place = pixels[chosen]
    line = (place // width + place % width) % (2 * HATCH) < HATCH
    shown[chosen] = np.where(line[:, None], tone, tone // 4)


def _draw_lines(shown: Bytes, values: Array, span: Range, pixels: Array, width: int, height: int) -> None:
    """Amber where a level lies between a pixel and its neighbour to the right or below; 0 is drawn in white."""
    level = np.full(width * height, np.nan, np.float32)
    level[pixels] = np.floor(values / np.float32(span.step))
    grid = level.reshape(height, width)
    crossed = np.zeros((height, width), bool)
    zero = np.zeros((height, width), bool)
    for axis in (0, 1):
        a = grid[:-1] if axis == 0 else grid[:, :-1]
        b = grid[1:] if axis == 0 else grid[:, 1:]
        differs = (a != b) & np.isfinite(a) & np.isfinite(b)
        through = differs & ((a < 0) != (b < 0))
        if axis == 0:
            crossed[:-1] |= differs
            zero[:-1] |= through
        else:
            crossed[:, :-1] |= differs
            zero[:, :-1] |= through
    shown[crossed.reshape(-1)[pixels]] = AMBER
    shown[zero.reshape(-1)[pixels]] = 255


_table: list[Bytes] = []


def _false_colours() -> Bytes:
    """256 colours `(256, 3)`."""
    if not _table:
        lab = to_oklab(STOPS.T)
        place = np.linspace(0, len(STOPS) - 1, 256)
        mixed = np.stack([np.interp(place, np.arange(len(STOPS)), row) for row in lab]).astype(np.float32)
        _table.append(colour_bytes(from_oklab(mixed).T))
    return _table[0]
