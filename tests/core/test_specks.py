"""Small lamps in mirrors are found by what a volume scatters, instead of by chance in a few pixels that they blind."""

import numpy as np
import pytest

from tests.builders import MadeFiles, layer, look, value
from tests.builders import shot as made_shot
from tests.volumes import box, volume_look
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph


@pytest.mark.parametrize("forwardness", [0.0, 0.45])
def test_mist_over_a_mirror_has_no_specks(forwardness: float) -> None:
    # Path space regularisation (A. Kaplanyan and C. Dachsbacher, 2013): the lamp that a mirror shows to the mist is found every time.
    mirror = look(
        "mirror",
        layer("base", base_metalness=value(1.0), base_color=value([0.9, 0.9, 0.9]), specular_roughness=value(0.0)),
    )
    floor = {"shape": "plane", "width": 6.0, "depth": 6.0}
    made = made_shot(
        looks=[mirror, volume_look(density=0.4, scattering_anisotropy=forwardness)],
        objects=[{"name": "floor", "look": "mirror", "geometry": floor}, box(size=2.0, position=[0, 0.01, 0])],
        lights=[{"name": "lamp", "shape": "sphere", "position": [0.9, 1.0, 0.2], "target": [0, 0, 0], "width": 0.12, "power": 20}],
        environment={"intensity": 0.0},
        # Upwards, past the lamp: whatever the mirror brings has been scattered by the mist.
        camera={"position": [0, 0.3, 3.0], "target": [-0.5, 1.1, -1.0], "focal_length": 70.0},
    )  # fmt: skip
    context = FrameGraph(made, MadeFiles()).context(48, 32, final=True)
    film = Film(48, 32, len(context.lights.names))
    for _ in range(64):
        film.add_sample(context)
    picture = film.picture().mean(axis=2)
    assert np.median(picture) > 0
    # By chance, one pixel here and there was 80 times as bright as most.
    assert picture.max() < 12 * np.median(picture)
