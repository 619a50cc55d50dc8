"""Bright points of volumes lie in the same places of the stage's pictures, however small those are."""

from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from tests.builders import MadeFiles
from tests.core.test_bright_points import cloud
from texallon.core.derived import DerivedStore
from texallon.core.render.graph import FrameGraph
from texallon.engine.stage_picture import StagePicture

WIDTH, HEIGHT = 320, 180


def light_by_part(picture: np.ndarray) -> np.ndarray:
    """The share of the light in each of 8 × 4 parts of a picture."""
    height, width = picture.shape[:2]
    light = picture.sum(axis=2)
    edges = [np.linspace(0, count, parts + 1).round().astype(int)[:-1] for count, parts in ((height, 4), (width, 8))]
    parts = np.add.reduceat(np.add.reduceat(light, edges[0], axis=0), edges[1], axis=1)
    return parts / parts.sum()


@pytest.mark.parametrize("shift", [0.0, 0.7])
def test_coarse_and_half_pictures_show_bright_points_where_the_whole_one_does(shift: float) -> None:
    made = cloud(0.03, shift)  # 0.7: all of them lie left of the middle
    with ThreadPoolExecutor(2) as pool:
        stage = StagePicture(DerivedStore(), pool)
        context = stage.begin(FrameGraph(made, MadeFiles(), pool=pool), (WIDTH, HEIGHT), None, lambda: True)
        coarse, half = stage.first(context), stage.half(context)
        whole = stage.more(context)
    assert whole is not None and whole.kind == "full"
    want = light_by_part(whole.picture)
    for small in (coarse, half):
        assert small.picture.shape[1] < WIDTH
        # Tents are two pixels wide at least, so a little of the light crosses the edges of parts.
        assert np.abs(light_by_part(small.picture) - want).sum() < 0.25
    if shift:
        assert want[:, 4:].sum() < 0.05
