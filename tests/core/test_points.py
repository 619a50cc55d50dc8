"""Every kind of point data keeps to what it says of itself, and everything that knows of kinds knows them from the registry."""

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, gbuffer_of, look, shot
from texallon.core.geometry.mesh import make_mesh
from texallon.core.kernel import Array
from texallon.core.ops.expression import NAMES
from texallon.core.points import (
    BakedPointData,
    PointData,
    VertexGeometry,
    find_point_data_kind,
    point_data_kind,
    point_data_kinds,
    width_of,
)
from texallon.core.points.convexity import Convexity
from texallon.core.render.graph import make_scene
from texallon.core.signal.run import fill_missing

GIVEN = {
    "curvature": "curvature:0.1",
    "curvature_by_rays": "curvature_by_rays:0.1",
    "occlusion": "occlusion:0.3,180,outwards",
    "occlusion_of_all": "occlusion_of_all:0.3,180,outwards",
    "distance": "distance:2,surface,b",
}
"""Kinds that want something given with their names."""

KINDS = {GIVEN.get(name, name): kind for name, kind in point_data_kinds().items()}


@pytest.fixture(scope="module")
def seen() -> dict[str, Array]:
    made = shot(
        camera={"position": [0, 1, 4], "target": [0, 0, 0]},
        objects=[{"name": "b", "geometry": {"file": "b"}, "look": "plain", "scale": 2.0, "position": [0.5, 0, 0]}],
        looks=[look("plain")],
    )
    batch = gbuffer_of(make_scene(made, MadeFiles(b=ball(0.5, 24))), made, 40, 24).batch(0)
    return {name: batch.point(name) for name in KINDS} | {"count": np.array([len(batch.pixels)])}


@pytest.mark.parametrize("name", KINDS)
def test_a_kind_gives_what_it_says(name: str, seen: dict[str, Array]) -> None:
    kind = KINDS[name]
    assert kind.meaning.endswith(".") and kind.made_from and kind.unit in ("m", "uv", "1", "1/m")
    assert seen[name].shape == (kind.width, int(seen["count"][0])) == (width_of(name), int(seen["count"][0]))
    assert seen[name].dtype == np.float32 and np.isfinite(seen[name]).all()
    assert len(kind.otherwise) == kind.width
    assert not kind.instead or KINDS[kind.instead].width == kind.width, "what stands in for it is as wide"


def test_kinds_agree_with_each_other(seen: dict[str, Array]) -> None:
    own = (seen["position"] - np.float32([[0.5], [0], [0]])) / 2
    assert seen["object_position"] == pytest.approx(own, abs=1e-5)
    assert seen["rest_position"] == pytest.approx(own, abs=1e-5), "nothing has bent it"
    assert seen["object_footprint"] == pytest.approx(seen["footprint"] / 2, rel=1e-5)
    assert np.linalg.norm(seen["normal"], axis=0) == pytest.approx(1, abs=1e-5)
    eye = np.float32([[0], [1], [4]]) - seen["position"]
    assert seen["view"] == pytest.approx(eye / np.linalg.norm(eye, axis=0), abs=1e-4)
    assert np.ptp(seen["object_id"]) == 0 and seen["object_id"][0, 0] > 0


@pytest.mark.parametrize("name", KINDS)
def test_what_points_do_not_have_is_made_up_as_the_kind_says(name: str) -> None:
    given = {"position": np.full((3, 5), 7.0, np.float32), "footprint": np.full((1, 5), 2.0, np.float32)}
    found = fill_missing({name}, given, 5)[name]
    assert found.shape == (KINDS[name].width, 5)
    expected = {
        "object_position": 7.0,
        "rest_position": 7.0,
        "object_footprint": 2.0,
        "position": 7.0,
        "footprint": 2.0,
    }
    if name in expected:
        assert (found == expected[name]).all()
    else:
        assert found[:, 0] == pytest.approx(KINDS[name].otherwise)


def test_formulas_know_them_from_the_registry() -> None:
    for name, kind in KINDS.items():
        assert (name in NAMES) == kind.in_formulas


@pytest.mark.parametrize("name", ["curvature", "position:3", "nothing", "nothing:3"])
def test_a_name_that_lacks_what_must_be_given_or_has_too_much_is_no_kind(name: str) -> None:
    assert find_point_data_kind(name) is None
    with pytest.raises(KeyError):
        point_data_kind(name)


def test_a_new_kind_is_one_class() -> None:
    class HeightOverFoot(BakedPointData):
        meaning = "Height over the object's lowest vertex, in its own space."
        made_from = "the mesh's vertices"

        def _bake(self, mesh: VertexGeometry) -> Array:
            return mesh.vertices[:, 1:2] - mesh.vertices[:, 1].min()

    assert issubclass(HeightOverFoot, PointData)
    assert HeightOverFoot().bake(ball(2.0)).max() == pytest.approx(4.0)


def test_convexity_is_the_umbrella_operator() -> None:
    # G. Taubin, SIGGRAPH 1995: the vertex less the mean of its neighbours. A regular octahedron's are all alike: each vertex
    # lies 1 from the middle of its four neighbours, whose edges are √2 long.
    corners = np.array([[1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1]], float)
    faces = [[x, y, z] if (x + y + z) % 2 == 0 else [x, z, y] for x in (0, 1) for y in (2, 3) for z in (4, 5)]
    mesh = make_mesh(corners, faces, corners)
    assert Convexity().bake(mesh)[:, 0] == pytest.approx(1 / np.sqrt(2), rel=1e-5)
    hollow = make_mesh(corners, faces, -corners)
    assert Convexity().bake(hollow)[:, 0] == pytest.approx(-1 / np.sqrt(2), rel=1e-5)
