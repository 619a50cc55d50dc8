"""Bright points of a pixel come in the order of their depths, however many they are."""

import numpy as np
import pytest

from texallon.core.render.volume.points_in_view import PointsInView, nearest_first


@pytest.mark.parametrize("counts", [(0, 1, 2, 3), (4, 40, 0, 7), (1, 20_000, 1, 0)])
def test_entries_are_put_in_order_pixel_by_pixel(counts: tuple[int, ...]) -> None:
    random = np.random.default_rng(7)
    total = sum(counts)
    first = np.concatenate([[0], np.cumsum(counts)]).astype(np.int32)
    depth = (1 + random.permutation(total) / 1024).astype(np.float32)
    light = random.uniform(0, 0.1, (3, total)).astype(np.float32)
    group = random.integers(0, 5, total).astype(np.int32)
    pixel = np.repeat(np.arange(len(counts)), counts)
    order = np.lexsort((depth, pixel))
    shown = np.full(len(counts), np.nan, np.float32)
    made = PointsInView(first, depth.copy(), light.copy(), group.copy(), shown)
    nearest_first(made, shown)
    assert (made.depth == depth[order]).all()
    assert (made.light == light[:, order]).all() and (made.group == group[order]).all()
    assert shown == pytest.approx(np.minimum(np.bincount(pixel, light.max(axis=0), len(counts)), 1), rel=1e-5)
