"""Reading a place within a volume: on its cut, where no surface is nearer."""

import numpy as np
import pytest

from tests.builders import MadeFiles, recipe, step
from tests.volumes import ball, box, volume_look, volume_shot
from texallon.core.render.camera.pick import pick, read_point
from texallon.core.render.graph import FrameGraph
from texallon.core.render.volume_reading import pick_on_cut, read_in_volume

HEIGHT = recipe(step("height"), step("remap", from_start=-0.5, from_end=0.5, to_end=10.0))
CAMERA = {"camera": {"position": [0, 0, 3], "target": [0, 0, 0], "focal_length": 36.0}}


def graph_of(**more: object) -> FrameGraph:
    look = volume_look(density={"recipe": HEIGHT}, scattering_color=[0.2, 0.4, 0.6])
    made = volume_shot(
        look, objects=[box("cloud"), ball("stone", "plain", 0.1, position=[0, -0.1, 0.3])], **CAMERA, **more
    )
    return FrameGraph(made, MadeFiles())


@pytest.mark.parametrize(("share", "z"), [(0.01, 0.49), (0.5, 0.0), (0.99, -0.49)])
def test_every_value_on_the_way_is_read_where_the_cut_lies(share: float, z: float) -> None:
    graph = graph_of()
    view = graph.view(40, 40)
    picked = pick_on_cut(graph.filled, view, share, 0.5, 0.42)
    assert picked is not None
    found = read_in_volume(graph.filled, view, picked)
    assert found is not None
    assert (found.object, found.look) == ("cloud", "mist")
    assert found.position[2] == pytest.approx(z, abs=0.03)
    assert np.linalg.norm(found.normal) == pytest.approx(1, abs=1e-5)
    values = {each.name: each.value for each in found.reading.channels}
    assert values["density"][0] == pytest.approx(10 * (found.position[1] + 0.5), abs=0.01)
    assert values["scattering_color"] == pytest.approx([0.2, 0.4, 0.6])


def test_what_is_nearer_is_told_from_what_is_farther() -> None:
    graph = graph_of()
    view = graph.view(40, 40)
    stone = pick(graph.scene, view, 0.5, 0.5, False)
    assert stone is not None
    surface = read_point(graph.shot, graph.scene, view, stone)
    assert surface is not None
    for share, nearer in ((0.05, True), (0.9, False)):
        cut = pick_on_cut(graph.filled, view, share, 0.5, 0.5)
        assert cut is not None
        there = read_in_volume(graph.filled, view, cut)
        assert there is not None
        assert there.nearer(surface, view) is nearer


def test_beside_a_volume_nothing_is_read() -> None:
    graph = graph_of()
    assert pick_on_cut(graph.filled, graph.view(40, 40), 0.5, 0.02, 0.02) is None


def test_the_air_is_read_too() -> None:
    look = volume_look(density=0.5)
    made = volume_shot(
        look, objects=[], atmosphere={"look": "mist", "ceiling": 2.0, "floor": -2.0, "reach": 4.0}, **CAMERA
    )
    graph = FrameGraph(made, MadeFiles())
    picked = pick_on_cut(graph.filled, graph.view(40, 40), 0.5, 0.3, 0.6)
    assert picked is not None
    found = read_in_volume(graph.filled, graph.view(40, 40), picked)
    assert found is not None
    assert found.object == "air"
