"""What camera rays hit is kept between pictures, and stays as it was found whatever paths do with it."""

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, layer, look, shot, value
from tests.volumes import ball, box, volume_look, volume_shot
from texallon.core.derived import DerivedStore
from texallon.core.document.resolved import ResolvedShot
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph

CAMERA = {"camera": {"position": [0.2, 0.3, 2.0], "target": [0, 0, 0], "focal_length": 30.0}}


def mist() -> ResolvedShot:
    return volume_shot(volume_look(density=3.0), objects=[box(), ball("within", "plain", 0.1)], **CAMERA)


def body(**channels: Any) -> ResolvedShot:
    base = layer("base", **{name: value(each) for name, each in channels.items()})
    return shot(looks=[look("plain"), {"name": "body", "layers": [base]}], objects=[ball("body", "body")], **CAMERA)


SHOTS = {
    "volume": mist,
    "milky glass": lambda: body(
        transmission_weight=1.0, transmission_depth=0.1, transmission_scatter=[0.7, 0.6, 0.5], specular_ior=1.4
    ),
    "skin": lambda: body(subsurface_weight=1.0, subsurface_radius=0.05),
    "cut out": lambda: body(opacity=0.5),
}


@pytest.mark.parametrize("name", SHOTS)
def test_a_picture_begun_again_is_the_same(name: str) -> None:
    made, store, size = SHOTS[name](), DerivedStore(), (24, 16)
    pictures = []
    with ThreadPoolExecutor(2) as pool:
        for _ in range(3):
            context = FrameGraph(made, MadeFiles(), store, pool).context(*size)
            film = Film(*size, len(context.lights.names))
            for _ in range(2):
                film.add_sample(context, pool, store)
            pictures.append(film.picture())
    assert pictures[0].std() > 0
    for again in pictures[1:]:
        np.testing.assert_array_equal(again, pictures[0])
