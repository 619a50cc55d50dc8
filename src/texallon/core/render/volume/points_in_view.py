"""What bright points add to the pixels of a view: closed-form energy, spread over at least two pixels.

A point's light falls from its middle in a straight line, `gain (1 − d / w)` per metre at distance d. Towards the eye it sends
`gain π w³ / 3` in all, over the square of its distance; a pixel takes what falls into it over its solid angle. So a point's light in the picture
does not depend on where in a pixel it lies, or on how large it is there.
"""

from math import asinh, pi, sqrt
from typing import NamedTuple

import numpy as np

from texallon.core.derived import derived
from texallon.core.kernel import Array, Float, Integers, inlined, kernel
from texallon.core.render.camera.view import View
from texallon.core.render.volume.bright_points import ListedPoints

WIDEST = 200.0
"""Pixels to either side that a point may cover."""

RESOLVED = 2.0
"""Radius in pixels from which a point's profile is drawn; below it is a small tent."""


class PointsInView(NamedTuple):
    """By pixel: entries `first[p] … first[p + 1]` of `depth (e,)`, metres from the eye, nearest first, `light (3, e)`, radiance, and `group
    (e,)`. `shown (pixels,)`: how plainly points are seen there, 0…1."""

    first: Integers
    depth: Array
    light: Array
    group: Integers
    shown: Array


def no_points() -> PointsInView:
    """None in any pixel."""
    return _entries(np.zeros(1, np.int32), 0)


def _entries(first: Integers, total: int) -> PointsInView:
    light = np.empty((3, total), np.float32)
    return PointsInView(first, np.empty(total, np.float32), light, np.empty(total, np.int32), np.zeros(0, np.float32))


@derived("bright points in view")
def points_in_view(points: tuple[ListedPoints, ...], groups: tuple[int, ...], view: View) -> PointsInView:
    """What the points of all volumes add to the pixels of a view.

    Parameters
    ----------
    points : tuple of ListedPoints
        Of each volume.
    groups : tuple of int
        Their light groups.
    view : View
        The camera's.
    """
    pixels = view.width * view.height
    position = np.concatenate([each.position for each in points], axis=1)
    radius = np.concatenate([each.radius for each in points])
    radiance = np.concatenate([each.radiance for each in points], axis=1)
    group = np.repeat(np.array(groups, np.int32), [len(each.radius) for each in points])
    count = np.zeros(pixels + 1, np.int32)
    seen = Seen(view.basis.astype(np.float64), view.width, view.height, view.lens, view.focus)
    none = _entries(count, 0)
    splat(seen, position, radius, radiance, none, group, count, False)
    first = np.zeros(pixels + 1, np.int32)
    np.cumsum(count[:pixels], out=first[1:])
    total = int(first[-1])
    made = _entries(first, total)
    at = first.copy()
    splat(seen, position, radius, radiance, made, group, at, True)
    shown = np.zeros(pixels, np.float32)
    nearest_first(made, shown)
    return made._replace(shown=shown)


class Seen(NamedTuple):
    """A view for kernels: `basis (4, 3)`, pixels, and the lens's radius and depth of focus."""

    basis: Array
    width: int
    height: int
    lens: float
    focus: float


@inlined
def profile(b: Float, w: Float) -> Float:
    """What a line passes of a point's light, at distance `b` from its middle, for a gain of 1: ∫ (1 − d / w) ds in closed form.

    Parameters
    ----------
    b : float
        Metres.
    w : float
        The point's radius, metres.
    """
    if b >= w:
        return 0.0
    half = sqrt(w * w - b * b)
    return half - (b * b / w * asinh(half / b) if b > 1e-9 * w else 0.0)


@kernel
def splat(
    seen: Seen,
    position: Array,
    radius: Array,
    radiance: Array,
    out: PointsInView,
    group: Integers,
    at: Integers,
    write: bool,
) -> None:
    """Count the entries of each pixel, or write them.

    Parameters
    ----------
    seen : Seen
        The view.
    position, radius, radiance : Array
        As `ListedPoints`, m points.
    out : PointsInView
        Written where `write` is set.
    group : Integers
        `(m,)` light groups.
    at : Integers
        `(pixels,)` or more: how many entries each has, or where its next one goes; counted up.
    write : bool
        Whether entries are written.
    """
    e = seen.basis
    wide = sqrt(e[1, 0] ** 2 + e[1, 1] ** 2 + e[1, 2] ** 2)
    tall = sqrt(e[2, 0] ** 2 + e[2, 1] ** 2 + e[2, 2] ** 2)
    pixel_x, pixel_y = 2.0 * wide / seen.width, 2.0 * tall / seen.height
    for i in range(radius.shape[0]):
        ax, ay, az = position[0, i] - e[0, 0], position[1, i] - e[0, 1], position[2, i] - e[0, 2]
        depth = ax * e[3, 0] + ay * e[3, 1] + az * e[3, 2]
        w = radius[i]
        if depth <= 0.5 * w:
            continue
        x = (ax * e[1, 0] + ay * e[1, 1] + az * e[1, 2]) / (wide * wide) / depth
        y = (ax * e[2, 0] + ay * e[2, 1] + az * e[2, 2]) / (tall * tall) / depth
        away = sqrt(ax * ax + ay * ay + az * az)
        px, py = (0.5 + 0.5 * x) * seen.width - 0.5, (0.5 - 0.5 * y) * seen.height - 0.5
        # How wide it is in pixels, and how far the lens spreads it.
        size = w / (depth * pixel_x)
        blur = abs(depth - seen.focus) / (seen.focus * depth) * seen.lens / pixel_x
        resolved = size > RESOLVED and blur < size
        reach = min(max(1.0, size if resolved else blur), WIDEST)
        about = reach if resolved or blur <= 1.0 else reach + 0.5
        x0, x1 = int(np.ceil(px - about)), int(np.floor(px + about))
        y0, y1 = int(np.ceil(py - about)), int(np.floor(py + about))
        x1, y1 = max(x1, x0), max(y1, y0)
        if x1 < 0 or y1 < 0 or x0 >= seen.width or y0 >= seen.height:
            continue
        total = 0.0
        for qy in range(y0, y1 + 1):
            for qx in range(x0, x1 + 1):
                total += _share(qx - px, qy - py, reach, size, w, resolved, blur)
        if total <= 0.0:
            continue
        # A pixel's solid angle falls with the cube of the cosine to the view's axis.
        cosine = depth / away
        solid = pixel_x * pixel_y * cosine**3
        energy = pi * w * w * w / 3.0 / (away * away * solid)
        for qy in range(max(y0, 0), min(y1, seen.height - 1) + 1):
            for qx in range(max(x0, 0), min(x1, seen.width - 1) + 1):
                share = _share(qx - px, qy - py, reach, size, w, resolved, blur)
                if share <= 0.0:
                    continue
                pixel = qy * seen.width + qx
                if write:
                    slot = at[pixel]
                    out.depth[slot] = away
                    out.group[slot] = group[i]
                    for c in range(3):
                        out.light[c, slot] = radiance[c, i] * energy * share / total
                at[pixel] += 1


@kernel
def nearest_first(entries: PointsInView, shown: Array) -> None:
    """Put the entries of each pixel in the order of their depths, and add up how much is seen of them.

    Parameters
    ----------
    entries : PointsInView
        Those of a pixel are put in order among themselves.
    shown : Array
        `(pixels,)` filled: the light of all entries, at most 1.

    References
    ----------
    D. L. Shell, "A high-speed sorting procedure", CACM 2(7), 1959, with the gaps of Knuth (TAOCP 3, 5.2.1): a pixel has few entries, or very many when a cloud is far away.
    """
    depth, light, group = entries.depth, entries.light, entries.group
    for pixel in range(shown.shape[0]):
        begin, end = entries.first[pixel], entries.first[pixel + 1]
        gap = 1
        while gap < (end - begin) // 3:
            gap = 3 * gap + 1
        while gap > 0:
            for i in range(begin + gap, end):
                far, which = depth[i], group[i]
                r, g, b = light[0, i], light[1, i], light[2, i]
                j = i
                while j >= begin + gap and depth[j - gap] > far:
                    depth[j], group[j] = depth[j - gap], group[j - gap]
                    for c in range(3):
                        light[c, j] = light[c, j - gap]
                    j -= gap
                depth[j], group[j] = far, which
                light[0, j], light[1, j], light[2, j] = r, g, b
            gap //= 3
        total = 0.0
        for i in range(begin, end):
            total += max(light[0, i], light[1, i], light[2, i])
        shown[pixel] = min(total, 1.0)


@inlined
def _share(dx: Float, dy: Float, reach: Float, size: Float, w: Float, resolved: bool, blur: Float) -> Float:
    """What a pixel gets, in proportion: the point's profile, a disc out of focus, or a small tent."""
    if resolved:
        return profile(sqrt(dx * dx + dy * dy) / size * w, w)
    if blur > 1.0:
        # Soft by a pixel at its edge, so that nothing jumps when the camera moves.
        return min(max(reach + 0.5 - sqrt(dx * dx + dy * dy), 0.0), 1.0)
    return max(1.0 - abs(dx), 0.0) * max(1.0 - abs(dy), 0.0)
