"""The union of geometries: whatever a kind comes down to is met by rays, shaded and lit as if its pieces were objects."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, layer, look, recipe, shot, square, step, value
from texallon.core.document.object import FileRef
from texallon.core.geometry.instances import Instances
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import render_frame

PLACES = np.array([[-1.2, 0.4, 0.0], [0.0, 0.4, 0.3], [1.1, 0.4, -0.4]])
LOOKS = [look("plain", layer("a", base_color=value([0.6, 0.3, 0.2]))), look("glow", layer("g", emission_luminance=value(2.0)))]  # fmt: skip


def placed(places: np.ndarray) -> np.ndarray:
    matrices = np.tile(np.eye(4), (len(places), 1, 1))
    matrices[:, :3, 3] = places
    return matrices


class Files(MadeFiles):
    """Names with a star stand for instances of the mesh of that name."""

    def key(self, ref: FileRef) -> str:
        return ref.file

    def mesh(self, ref: FileRef) -> Any:
        name = ref.file.removesuffix("-many")
        mesh = self.files[name]
        return Instances(mesh, placed(PLACES)) if ref.file.endswith("-many") else mesh


FILES = Files(ball=ball(0.4, 16), floor=square(6.0))
FLOOR = {"name": "floor", "geometry": {"file": "floor"}, "look": "plain"}
CAMERA = {"position": [0, 2, 4], "target": [0, 0.3, 0]}


@pytest.mark.parametrize("worn", ["plain", "glow"])
def test_instances_look_as_so_many_objects(worn: str) -> None:
    members: dict[str, Any] = {"camera": CAMERA, "looks": LOOKS, "environment": {"intensity": 0.3}}
    objects = [{"name": f"b{n}", "geometry": {"file": "ball"}, "look": worn, "position": list(at)} for n, at in enumerate(PLACES)]  # fmt: skip
    many = shot(objects=[FLOOR, {"name": "b", "geometry": {"file": "ball-many"}, "look": worn}], **members)
    each = shot(objects=[FLOOR, *objects], **members)
    pictures = [render_frame(made, FILES, 48, 27, 8, 2).picture() for made in (many, each)]
    assert pictures[0] == pytest.approx(pictures[1], rel=1e-4, abs=1e-5)


def test_instances_hold_their_mesh_once_and_have_numbers_of_their_own() -> None:
    made = shot(objects=[{"name": "b", "geometry": {"file": "ball-many"}, "look": "plain"}], looks=LOOKS)
    scene = FrameGraph(made, FILES).scene
    assert scene.objects == len(PLACES)
    assert scene.geometry.meshes.vertices.shape == FILES.files["ball"].vertices.shape
    assert len(set(scene.numbers.tolist())) == len(PLACES)


def test_an_object_s_placement_is_added_to_its_instances() -> None:
    turned = {"name": "b", "geometry": {"file": "ball-many"}, "look": "plain", "position": [0, 1, 0], "scale": 2.0}
    scene = FrameGraph(shot(objects=[turned], looks=LOOKS), FILES).scene
    assert scene.geometry.matrix[:, :, 3] == pytest.approx(2 * PLACES + [0, 1, 0])
    assert scene.scales == pytest.approx(2.0)


def test_random_values_differ_from_instance_to_instance() -> None:
    by_instance = look("plain", layer("a", base_weight={"recipe": recipe(step("random", per="instance"))}))
    made = shot(
        camera=CAMERA, objects=[{"name": "b", "geometry": {"file": "ball-many"}, "look": "plain"}], looks=[by_instance]
    )
    graph = FrameGraph(made, FILES)
    batch = graph.gbuffer(64, 36).batch(0)
    values = batch.values(graph.plan(0))["base_weight"][0]
    assert len(np.unique(values)) == len(PLACES)
