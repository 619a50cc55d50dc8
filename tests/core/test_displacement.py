"""Displacement: surfaces that are moved, through the real document and renderer, against closed forms."""

from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import MadeFiles, ball, box, gbuffer_of, layer, look, recipe, shot, square, step, value
from texallon.core.derived import DerivedStore
from texallon.core.document.displacement import Subdivision
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.points.welded import weld
from texallon.core.render.graph import FrameGraph
from texallon.core.render.needs import TooLargeError, check_needs, reckon

SPHERE = trimesh.creation.icosphere(4, 1.0)
BALL = make_mesh(SPHERE.vertices, SPHERE.faces)
HILLS = recipe(step("noise", size=0.5, octaves=4, space="object", spread="full"), step("multiply", by=0.1))


def graph_of(
    channels: dict[str, Any], files: MadeFiles, item: dict[str, Any], store: Any = None, **members: Any
) -> FrameGraph:
    thing = {"name": "thing", "geometry": {"file": "thing"}, "look": "moved", "displacement": {}, **item}
    return FrameGraph(
        shot(looks=[look("moved", layer("l", **channels)), look("plain")], objects=[thing], **members), files, store
    )


def mesh_of(channels: dict[str, Any], mesh: Mesh = BALL, **item: Any) -> Mesh:
    return graph_of(channels, MadeFiles(thing=mesh), item).scene.meshes[0]


def closed(mesh: Mesh) -> trimesh.Trimesh:
    found, one = weld(mesh.vertices)
    return trimesh.Trimesh(found, one[mesh.faces], process=False)


@pytest.mark.parametrize("height", [-0.3, 0.05, 0.5])
@pytest.mark.parametrize("scale", [0.1, 1.0, 4.0])
def test_a_ball_grows_by_its_height_in_metres_of_the_world(height: float, scale: float) -> None:
    made = mesh_of(
        {"displacement": value(height * scale)},
        scale=scale,
        displacement={"most": 10.0},
        position=[3, 1, 2],
        rotation=[10, 40, 5],
    )
    found, radius = closed(made), 1 + height
    assert np.linalg.norm(made.vertices, axis=1) == pytest.approx(np.full(len(made.vertices), radius), rel=1e-4)
    # Area and volume of a ball, less what the facets of the undisplaced one leave out.
    assert found.area == pytest.approx(SPHERE.area * radius**2, rel=1e-3)
    assert found.volume == pytest.approx(SPHERE.volume * radius**3, rel=1e-3)
    outwards = made.vertices / np.linalg.norm(made.vertices, axis=1, keepdims=True)
    assert ((made.normals * outwards).sum(axis=1) > 0.99).all()
    assert made.attributes["rest"] == pytest.approx(BALL.vertices)


def test_stretched_objects_are_moved_along_what_is_upright_on_them_in_the_world() -> None:
    made = mesh_of({"displacement": value(0.2)}, square(2.0), stretch=[4, 1, 0.5], scale=2.0)
    assert made.vertices[:, 1] == pytest.approx(np.full(4, 0.1))
    assert made.vertices[:, [0, 2]] == pytest.approx(square(2.0).vertices[:, [0, 2]])


@pytest.mark.parametrize(
    ("held", "moved"),
    [({}, -0.4), ({"zero": 0.1}, -0.5), ({"most": 0.25}, -0.25), ({"outwards_only": True}, 0.0), ({"zero": -0.6}, 0.2)],
)
def test_heights_are_held(held: dict[str, Any], moved: float) -> None:
    made = mesh_of({"displacement": value(-0.4)}, displacement=held)
    assert np.linalg.norm(made.vertices, axis=1) == pytest.approx(np.full(len(made.vertices), 1 + moved), rel=1e-4)


def test_a_vector_moves_in_the_objects_space_and_no_farther_than_may_be() -> None:
    made = mesh_of({"displacement_vector": value([0.3, 0.0, 0.4])}, displacement={"most": 0.25}, rotation=[0, 90, 0])
    assert made.vertices - BALL.vertices == pytest.approx(np.tile([0.15, 0, 0.2], (len(BALL.vertices), 1)), abs=1e-6)


def test_height_that_is_no_number_moves_nothing() -> None:
    bad = {
        "recipe": recipe(
            step("position", space="object"),
            step("component", which="x"),
            step("multiply", by=0.0),
            step("power", exponent=-1.0),
        )
    }
    made = mesh_of({"displacement": bad})
    assert np.isfinite(made.vertices).all()


@settings(max_examples=15)
@given(
    seed=st.integers(0, 10**6),
    size=st.floats(0.05, 3),
    by=st.floats(0.01, 1),
    levels=st.integers(0, 2),
    smooth=st.booleans(),
)
def test_nothing_opens_whatever_the_height(seed: int, size: float, by: float, levels: int, smooth: bool) -> None:
    heights = {
        "recipe": recipe(step("noise", size=size, seed=seed, space="object", octaves=5), step("multiply", by=by))
    }
    scheme = "catmull-clark" if smooth else "midpoint"
    made = mesh_of({"displacement": heights}, box(1, 2, 3), subdivision={"levels": levels, "scheme": scheme})
    assert closed(made).is_watertight


def test_only_what_wears_the_look_moves_and_what_both_share_by_half() -> None:
    sheet = make_mesh(square(2.0).vertices, square(2.0).faces, None, None, None, ("a", "b"), [0, 1])
    made = mesh_of({"displacement": value(0.2)}, sheet, look="plain", parts=[{"name": "b", "look": "moved"}])
    both = np.intersect1d(sheet.faces[0], sheet.faces[1])
    alone = np.setdiff1d(sheet.faces[1], both)
    assert made.vertices[alone, 1] == pytest.approx(0.2)
    assert made.vertices[both, 1] == pytest.approx(np.full(2, 0.1))
    assert made.vertices[np.setdiff1d(sheet.faces[0], both), 1] == pytest.approx(0.0)


def test_where_nothing_is_displaced_the_height_is_a_bump() -> None:
    height, bump = {"displacement": {"recipe": HILLS}}, {"bump": {"recipe": HILLS}}

    def normals(channels: dict[str, Any], **item: Any) -> np.ndarray:
        graph = graph_of(
            channels,
            MadeFiles(thing=BALL),
            {"displacement": None, **item},
            camera={"position": [0, 0, 4], "target": [0, 0, 0], "focal_length": 50},
        )
        hits = gbuffer_of(graph.scene, graph.shot, 40, 30).batch(0)
        return shaded_normals(graph, hits)

    assert normals(height) == pytest.approx(normals(bump), abs=1e-4)
    assert np.abs(normals(height) - normals({})).max() > 0.1


def shaded_normals(graph: FrameGraph, batch: Any) -> np.ndarray:
    from texallon.core.render.scene.surface import surface_at

    hits = batch.points.hits
    surface = surface_at(graph.scene, hits)
    given = {name: np.atleast_2d(batch.point(name)) for name in ("view", "footprint")}
    graph.materials.rows(graph.scene, hits, surface, given)
    return surface.normal


@pytest.mark.parametrize("levels", [3, 5])
def test_below_what_the_mesh_shows_the_bump_goes_on(levels: int) -> None:
    # A sheet seen from straight above: whatever its mesh takes of the hills, mesh and bump together shade as the finest mesh does.
    aim = {"position": [0, 5, 0.001], "target": [0, 0, 0], "focal_length": 400}

    def normals(levels: int) -> np.ndarray:
        item = {"subdivision": {"levels": levels}}
        graph = graph_of({"displacement": {"recipe": HILLS}}, MadeFiles(thing=square(3.0)), item, camera=aim)
        return shaded_normals(graph, gbuffer_of(graph.scene, graph.shot, 48, 36).batch(0))

    finest, here = normals(8), normals(levels)
    off = np.sqrt(((here - finest) ** 2).sum(axis=0)).mean()
    alone = np.sqrt(((finest - finest.mean(axis=1, keepdims=True)) ** 2).sum(axis=0)).mean()
    assert off < 0.25 * alone


def test_two_alike_are_displaced_once_and_one_that_moves_is_not_displaced_anew() -> None:
    store = DerivedStore()
    computed: list[str] = []
    store.listen(lambda access: computed.append(access.kind) if not access.reused else None)
    files = MadeFiles(thing=BALL)

    def made(x: float, **members: Any) -> FrameGraph:
        things = [
            {
                "name": name,
                "geometry": {"file": "thing"},
                "look": "moved",
                "displacement": {},
                "subdivision": {"levels": 1},
                "position": [at, 0, 0],
            }
            for name, at in (("a", 0.0), ("b", x))
        ]
        looks = [look("moved", layer("l", displacement={"recipe": HILLS}))]
        return FrameGraph(shot(looks=looks, objects=things), files, store)

    scene = made(3.0).scene
    assert scene.meshes[0] is scene.meshes[1] and computed.count("displaced mesh") == 1
    computed.clear()
    _ = made(4.0).scene
    assert "displaced mesh" not in computed and "subdivided mesh" not in computed


def test_faces_are_divided_as_finely_as_the_picture_shows() -> None:
    def faces(away: float) -> int:
        aim = {"position": [0, 0, away], "target": [0, 0, 0]}
        item = {"subdivision": {"levels": 6, "edge_pixels": 2.0}, "displacement": None}
        return len(graph_of({}, MadeFiles(thing=ball(1.0, 8)), item, camera=aim).scene.meshes[0].faces)

    counts = [faces(away) for away in (1.5, 6.0, 24.0, 10_000.0)]
    assert counts == sorted(counts, reverse=True) and counts[0] > counts[2] > counts[3] == len(ball(1.0, 8).faces)


def test_faces_without_size_are_divided_as_often_as_is_asked_for() -> None:
    flat = make_mesh([[0, 0, 0], [1, 0, 0], [0, 0, 1]], [[0, 0, 0], [0, 0, 0], [0, 0, 0], [0, 1, 2]])
    item = {"subdivision": {"levels": 2, "edge_pixels": 2.0}, "displacement": None}
    assert len(graph_of({}, MadeFiles(thing=flat), item).scene.meshes[0].faces) == 64


def test_what_is_too_fine_for_the_memory_is_refused_and_the_level_that_fits_is_said() -> None:
    files = MadeFiles(thing=BALL)
    made = graph_of({}, files, {"subdivision": {"levels": 8}})
    needs = reckon(files, made.shown, 640, 360)
    assert needs.divided[0].subdivision == Subdivision(levels=8)
    with pytest.raises(
        TooLargeError, match="“thing” is divided 8 times, each of which makes four faces of one; with 4 there is room"
    ):
        check_needs(needs, 3_000_000_000)
    fits = graph_of({}, files, {"subdivision": {"levels": 4}})
    check_needs(reckon(files, fits.shown, 640, 360), 3_000_000_000)
