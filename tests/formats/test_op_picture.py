"""Every op's small picture: a PNG that shows something, each unlike the others of its kind."""

import io

import numpy as np
import pytest
from PIL import Image

from texallon.core.ops.registry import ops
from texallon.review.op_picture import SIDE, op_picture

EVEN = {"attribute", "constant", "normal map", "random", "depth", "luminance", "component", "position", "height blend"}
"""Those that are even where nothing is put into them, or that are shown by the same ramp."""


@pytest.mark.parametrize("name", list(ops()))
def test_a_picture_shows_something(name: str) -> None:
    with Image.open(io.BytesIO(op_picture(name))) as opened:
        assert opened.size == (SIDE, SIDE) and opened.mode == "RGB"
        pixels = np.asarray(opened, np.float64)
    assert name in EVEN or pixels.std() > 5


def test_sources_and_bends_are_told_apart() -> None:
    for kind in ("source", "warp"):
        names = [name for name, each in ops().items() if each.kind == kind and name not in EVEN]
        made = {name: np.asarray(Image.open(io.BytesIO(op_picture(name))), np.float64) for name in names}
        for at, one in enumerate(names):
            for other in names[at + 1 :]:
                alike = np.abs(made[one] - made[other]).mean() < 1
                assert not alike, f"{one} looks as {other} does"
