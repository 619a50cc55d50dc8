"""What a picture holds, judged by its numbers: normals, data of one number, or colours."""

from typing import Literal

import numpy as np

from texallon.core.ops.pyramid import Pyramid

Content = Literal["normals", "grey", "colours"]

LOOKED_AT = 65_536
"""Pixels that are judged by: of a large picture a smaller copy."""

TILT, SHORT, APART = 0.2, 0.12, 0.02
"""How far the mean of a normal map may lie from straight up, how far the lengths of normals from 1, and how little grey channels differ."""


def content_of(raw: Pyramid) -> Content:
    """Judge a picture that was read raw.

    A tangent-space normal map averages near (0.5, 0.5, 1) and its normals are of unit length (common practice; either direction of green);
    data has the same number in all channels, or only one.

    Parameters
    ----------
    raw : Pyramid
        As it was read, `(height, width, channels)`.
    """
    if raw.channels < 3:
        return "grey"
    start, width, height = next((row for row in raw.levels if row[1] * row[2] <= LOOKED_AT), raw.levels[-1])
    whole = raw.pixels[int(start) : int(start + width * height), :3].astype(np.float64)
    finest = raw.pixels[: raw.width * raw.height].reshape(raw.height, raw.width, -1)
    # Rows apart: a large picture lies in a file, of which only those are read then.
    every = max(int((raw.width * raw.height / LOOKED_AT) ** 0.5), 1)
    sample = finest[::every, ::every, :3].reshape(-1, 3).astype(np.float64)
    if np.percentile(np.ptp(whole, axis=1), 99) <= APART:
        return "grey"
    normals = 2 * sample - 1
    length = np.linalg.norm(normals, axis=1)
    mean = sample.mean(axis=0)
    upright = abs(mean[0] - 0.5) < TILT and abs(mean[1] - 0.5) < TILT and mean[2] > 0.75
    if upright and np.percentile(np.abs(length - 1), 90) < SHORT and np.percentile(normals[:, 2], 5) > 0:
        return "normals"
    return "colours"
