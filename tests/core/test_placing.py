"""Lamps placed by their highlight or shadow, held to where these are in the rendered picture; things stood upon surfaces, to SciPy."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.builders import MadeFiles, ball, layer, look, shot, square, value
from texallon.core.geometry.mesh import Mesh
from texallon.core.render.camera.pick import pick, read_point
from texallon.core.render.graph import FrameGraph
from texallon.core.render.light.placing import PlacingError, highlight_place, shadow_place, standing_rotation
from texallon.core.render.render_frame import render_frame
from texallon.demo.basin import stone_basin

SIZE = (96, 72)
SHINY = look("shiny", layer("l", base_color=value(0.0), specular_roughness=value(0.12), specular_ior=value(2.5)))
DULL = look("dull", layer("l", base_color=value(0.6), specular_weight=value(0.0)))
UNIT = st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda v: np.linalg.norm(v) > 0.01)

THINGS: dict[str, tuple[Mesh, dict[str, Any]]] = {
    "plane": (square(8.0), {"position": [0, 2.2, 4.0], "target": [0, 0, 0]}),
    "ball": (ball(rings=160), {"position": [0.4, 1.0, 4.0], "target": [0, 0, 0]}),
    "scanned": (stone_basin(), {"position": [0.2, 1.6, 3.6], "target": [0, 0.6, 0]}),
}


def made(mesh_look: dict[str, Any], camera: dict[str, Any], **members: Any) -> Any:
    thing = {"name": "thing", "geometry": {"file": "thing"}, "look": mesh_look["name"]}
    return shot(
        objects=[thing, *members.pop("objects", [])],
        looks=[mesh_look, DULL] if mesh_look is not DULL else [DULL],
        camera={**camera, "focal_length": 60},
        environment={"colour": [0, 0, 0]},
        **members,
    )


def lamp(position: Any, target: Any, **more: Any) -> dict[str, Any]:
    return {
        "name": "lamp",
        "shape": "sphere",
        "position": position,
        "target": target,
        "width": 0.06,
        "power": 300.0,
        **more,
    }


@pytest.mark.parametrize(("across", "down"), [(0.5, 0.5), (0.44, 0.42), (0.57, 0.56), (0.38, 0.55)])
@pytest.mark.parametrize("name", THINGS)
def test_the_highlight_lies_where_it_was_asked_for(name: str, across: float, down: float) -> None:
    mesh, camera = THINGS[name]
    files = MadeFiles(thing=mesh)
    before = FrameGraph(made(SHINY, camera), files)
    view = before.view(*SIZE)
    picked = pick(before.scene, view, across, down, False)
    assert picked is not None
    point = read_point(before.shot, before.scene, view, picked)
    assert point is not None
    at = tuple(float(x) for x in point.position)
    place = highlight_place(at, tuple(float(x) for x in point.normal), tuple(camera["position"]), 6.0)
    lit = made(SHINY, camera, lights=[lamp(place, at, visible=False)])
    picture = render_frame(lit, files, *SIZE, 48, 2).picture().sum(axis=2)
    # The peak: the centre of what is brighter than half of the brightest, near the click (a hollow body may mirror the lamp elsewhere too).
    rows, columns = np.mgrid[: SIZE[1], : SIZE[0]]
    x, y = across * SIZE[0] - 0.5, down * SIZE[1] - 0.5
    near = np.hypot(columns - x, rows - y) < 14
    bright = np.where(near & (picture > 0.5 * picture[near].max()), picture, 0)
    found = (columns * bright).sum() / bright.sum(), (rows * bright).sum() / bright.sum()
    assert np.hypot(found[0] - x, found[1] - y) <= 2.0


def test_the_shadow_falls_where_it_was_asked_for() -> None:
    camera = {"position": [0, 6.0, 5.0], "target": [0, 0, 0]}
    edge, wanted = (0.0, 0.8, 0.0), (0.7, 0.0, 0.5)
    place = shadow_place(edge, wanted, 5.0)
    bead = {"name": "bead", "geometry": {"shape": "sphere", "radius": 0.1}, "look": "dull", "position": [0, 0.7, 0]}
    shots = [
        made(DULL, camera, objects=things, lights=[lamp(place, edge, width=0.01, visible=False)])
        for things in ([bead], [{**bead, "visible": False}])
    ]
    files = MadeFiles(thing=square(8.0))
    with_it, without = (render_frame(each, files, *SIZE, 32, 2).picture().sum(axis=2) for each in shots)
    view = FrameGraph(shots[0], files).view(*SIZE)
    x, y, _ = view.project(np.array(wanted, np.float32))
    lost = (with_it < 0.3 * without) & (without > 0.05 * without.max())
    lost[:30] = False  # the bead's own dark side
    rows, columns = np.nonzero(lost)
    assert len(rows) > 4
    # The bead's middle stands at 0.8 m: bodies stand with their lowest point where they are placed.
    assert np.hypot(columns.mean() - (x * SIZE[0] - 0.5), rows.mean() - (y * SIZE[1] - 0.5)) <= 2.0


@given(UNIT, UNIT, st.floats(0.1, 50))
def test_a_lamp_by_its_highlight_obeys_the_law_of_reflection(normal: Any, eye: Any, distance: float) -> None:
    n = np.array(normal) / np.linalg.norm(normal)
    v = np.array(eye) / np.linalg.norm(eye)
    if abs(n @ v) < 0.01:
        return
    way = np.array(highlight_place((0, 0, 0), normal, eye, distance)) / distance
    side = np.sign(n @ v)
    assert np.isclose(way @ n, v @ n, atol=1e-4) and np.isclose(np.linalg.norm(way), 1, atol=1e-4)
    half = way + v
    assert np.allclose(half / np.linalg.norm(half), side * n, atol=1e-3)


@given(UNIT)
def test_what_stands_upon_a_surface_has_its_y_axis_along_the_normal(normal: Any) -> None:
    n = np.array(normal) / np.linalg.norm(normal)
    turn = Rotation.from_euler("xyz", standing_rotation(normal), degrees=True)
    assert np.allclose(turn.apply([0, 1, 0]), n, atol=1e-5)
    assert turn.magnitude() <= np.arccos(np.clip(n[1], -1, 1)) + 1e-4, "it turns no further than it must"


@pytest.mark.parametrize(("normal", "eye"), [((0, 1, 0), (1, 0, 0)), ((0, 0, 0), (0, 1, 0)), ((0, 1, 0), (0, 0, 0))])
def test_where_nothing_is_mirrored_it_is_said(normal: Any, eye: Any) -> None:
    with pytest.raises(PlacingError):
        highlight_place((0, 0, 0), normal, eye, 1.0)


def test_a_shadow_of_a_place_onto_itself_is_refused() -> None:
    with pytest.raises(PlacingError):
        shadow_place((1, 2, 3), (1, 2, 3), 1.0)
