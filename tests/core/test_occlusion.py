"""Occlusion read from geometry: closed forms of radiation's configuration factors, and what distance and spread do."""

from typing import Any

import numpy as np
import pytest
import trimesh

from tests.builders import MadeFiles, ball, layer, look, recipe, shot, square, step, value
from texallon.core.geometry.bake_geometry import BakeGeometry
from texallon.core.geometry.mesh import Mesh, MeshError, make_mesh
from texallon.core.points.occlusion import Occlusion, fan
from texallon.core.render.graph import FrameGraph


def occlusion(mesh: Mesh, distance: float = 1e3, spread: float = 180, way: str = "outwards") -> np.ndarray:
    return Occlusion(f"{distance},{spread},{way}").bake(BakeGeometry(mesh))[:, 0]


def joined(*sheets: tuple[Any, Any, Any, int, int]) -> Mesh:
    """Grids over parallelograms: origin, two sides, and how many cells along each; the normal is their cross product."""
    vertices, faces, normals, start = [], [], [], 0
    for origin, along, across, n, m in sheets:
        s, t = np.meshgrid(np.linspace(0, 1, n + 1), np.linspace(0, 1, m + 1), indexing="ij")
        vertices.append(np.array(origin) + s.ravel()[:, None] * np.array(along) + t.ravel()[:, None] * np.array(across))
        i, j = (each.ravel() for each in np.meshgrid(np.arange(n), np.arange(m), indexing="ij"))
        a = start + i * (m + 1) + j
        faces += [np.stack([a, a + m + 1, a + m + 2], 1), np.stack([a, a + m + 2, a + 1], 1)]
        up = np.cross(along, across)
        normals.append(np.tile(up / np.linalg.norm(up), (len(vertices[-1]), 1)))
        start += len(vertices[-1])
    return make_mesh(np.concatenate(vertices), np.concatenate(faces), np.concatenate(normals))


def test_the_fan_is_spread_by_the_cosine() -> None:
    """The mean of z is 2/3, of z² 1/2 (integrals over the hemisphere, weighted by the cosine); within a cone it stays inside."""
    whole = fan(180)
    assert np.linalg.norm(whole, axis=0) == pytest.approx(1, abs=1e-6)
    assert whole.mean(axis=1) == pytest.approx([0, 0, 2 / 3], abs=4e-3)
    assert (whole[2] ** 2).mean() == pytest.approx(0.5, abs=4e-3)
    assert fan(60)[2].min() > np.cos(np.radians(30))


def test_in_the_open_nothing_is_hidden() -> None:
    assert (occlusion(joined(([-1, 0, 1], [2, 0, 0], [0, 0, -2], 6, 6))) == 0).all()
    ball = trimesh.creation.icosphere(4, 1.0)
    assert occlusion(make_mesh(ball.vertices, ball.faces)).max() < 0.02
    assert (occlusion(make_mesh(ball.vertices, ball.faces), way="inwards") == 1).all()


@pytest.mark.parametrize("height", [0.3, 1.0, 4.0])
def test_before_a_wall_it_is_the_walls_configuration_factor(height: float) -> None:
    """½ (1 − x / √(x² + h²)) on a floor, x before an infinitely long wall of height h (J. Howell, Catalog of Configuration Factors; from memory)."""
    far = 80.0
    floor = ([0, 0, far], [2, 0, 0], [0, 0, -2 * far], 8, 2)
    wall = ([0, 0, -far], [0, 0, 2 * far], [0, height, 0], 2, 1)
    made = joined(floor, wall)
    middle = (made.vertices[:, 2] == 0) & (made.normals[:, 1] > 0.5) & (made.vertices[:, 0] > 0)
    x = made.vertices[middle, 0]
    expected = 0.5 * (1 - x / np.sqrt(x * x + height * height))
    assert occlusion(made)[middle] == pytest.approx(expected, abs=0.03)


def test_in_a_cup_it_is_the_same_everywhere() -> None:
    """Within a sphere every point sees each part of it by its share of the area: half of it, in half a sphere (A. Sparrow)."""
    sphere = trimesh.creation.icosphere(5, 1.0)
    cup = sphere.faces[(sphere.vertices[sphere.faces][:, :, 1] <= 1e-9).all(axis=1)]
    made = make_mesh(sphere.vertices, cup[:, ::-1], -sphere.vertices)
    inner = sphere.vertices[:, 1] < -0.15
    found = occlusion(made)[inner]
    assert found.mean() == pytest.approx(0.5, abs=0.02) and np.abs(found - 0.5).max() < 0.06


@pytest.mark.parametrize("depth", [0.25, 0.5, 2.0])
def test_at_the_bottom_of_a_slit_only_its_mouth_is_open(depth: float) -> None:
    """1 − (w/2) / √((w/2)² + d²) in the middle of a slit's floor (crossed strings: H. Hottel; from memory)."""
    far = 60.0
    made = joined(
        ([-0.5, 0, far], [1, 0, 0], [0, 0, -2 * far], 2, 2),
        ([-0.5, 0, -far], [0, 0, 2 * far], [0, depth, 0], 2, 1),
        ([0.5, 0, far], [0, 0, -2 * far], [0, depth, 0], 2, 1),
    )
    middle = (np.abs(made.vertices[:, 0]) < 1e-6) & (made.vertices[:, 2] == 0)
    assert occlusion(made)[middle] == pytest.approx([1 - 0.5 / np.hypot(0.5, depth)], abs=0.03)


def test_beyond_the_distance_nothing_hides_and_a_narrow_fan_sees_past_the_sides() -> None:
    slit = joined(
        ([-0.5, 0, 1], [1, 0, 0], [0, 0, -2], 2, 2),
        ([-0.5, 0, -1], [0, 0, 2], [0, 1, 0], 2, 1),
        ([0.5, 0, 1], [0, 0, -2], [0, 1, 0], 2, 1),
    )
    middle = (np.abs(slit.vertices[:, 0]) < 1e-6) & (slit.vertices[:, 2] == 0)
    by_distance = [float(occlusion(slit, each)[middle][0]) for each in (0.4, 0.6, 0.9, 2.0)]
    assert by_distance[0] == 0 and (np.diff(by_distance) > 0).all()
    assert occlusion(slit, spread=40)[middle] == 0


def test_inwards_it_tells_what_is_thinner_than_the_distance() -> None:
    slab = trimesh.creation.box([2, 0.1, 2])
    made = slab.subdivide().subdivide()
    top = (made.vertices[:, 1] > 0.04) & (np.abs(made.vertices[:, [0, 2]]).max(axis=1) < 0.6)
    flat = make_mesh(made.vertices, made.faces, np.sign(made.vertices) * [0, 1, 0])
    assert (occlusion(flat, 0.05, 60, "inwards")[top] == 0).all()
    assert (occlusion(flat, 0.2, 60, "inwards")[top] == 1).all()


def test_the_same_at_every_run_and_by_the_op() -> None:
    knot = trimesh.creation.torus(0.5, 0.3, 48, 24)
    mesh = make_mesh(knot.vertices, knot.faces, knot.vertex_normals)
    first = occlusion(mesh, 0.5)
    assert np.array_equal(first, occlusion(mesh, 0.5))
    made = shot(
        signals=[{"name": "s", "recipe": recipe(step("occlusion", distance=0.5))}],
        looks=[look("a", layer("l"))],
        objects=[{"name": "b", "geometry": {"file": "knot"}, "look": "a", "scale": 3.0}],
    )
    graph = FrameGraph(made, MadeFiles(knot=mesh))
    of = graph.files.object_value(made.objects[0])
    found = graph.store.value(graph.on_mesh("s", made.objects[0], of, graph.scene.geometry.matrix[0], "vertex"))
    assert np.array_equal(found[0], first)


def of_everything(
    others: list[dict[str, Any]], way: str = "outwards", distance: float = 1e3, worn: Any = ()
) -> tuple[np.ndarray, np.ndarray]:
    """Places on a floor that is looked down upon, and how far everything shuts them in."""
    seen = look(
        "l",
        layer("a", base_weight={"recipe": recipe(step("occlusion", against="everything", distance=distance, way=way))}),
    )
    floor = {"name": "floor", "geometry": {"file": "floor"}, "look": "l"}
    camera = {"position": [0, 0.4, 0.01], "target": [0, 0, 0]}
    made = shot(
        objects=[floor, *others],
        looks=[seen, look("dull", *[layer("g", transmission_weight=each) for each in worn])],
        camera=camera,
    )
    files = MadeFiles(floor=square(4.0), ball=ball(0.5, 48), wall=square(2000.0))
    batch = FrameGraph(made, files).gbuffer(48, 27).batch(0)
    (name,) = [each for each in FrameGraph(made, files).plan(0).required_data if each.startswith("occlusion_of_all")]
    return batch.point("position"), batch.point(name)[0]


def other(file: str, **members: Any) -> dict[str, Any]:
    return {"name": file, "geometry": {"file": file}, "look": "dull", **members}


def test_everything_about_a_point_shuts_it_in() -> None:
    """From a small face a wall without end takes half of the sky; a ball of radius r whose middle stands h above it takes (r/h)²:
    J. R. Howell, "A Catalog of Radiation Heat Transfer Configuration Factors", B-71 (from memory)."""
    assert of_everything([])[1].max() == 0
    wall = other("wall", position=[0.6, 0, 0], rotation=[0, 0, 90])
    assert of_everything([wall], distance=1e4)[1] == pytest.approx(0.5, abs=0.03)
    at, found = of_everything([other("ball", position=[0, 1.2, 0])])
    middle = np.linalg.norm(at[[0, 2]], axis=0) < 0.05
    assert found[middle] == pytest.approx(0.25 / 1.44, abs=0.02)
    assert of_everything([other("ball", position=[0, 1.2, 0])], distance=0.5)[1].max() == 0, (
        "nothing within half a metre"
    )


def test_what_hangs_above_keeps_rain_off_whichever_way_a_floor_leans() -> None:
    roof = other("wall", position=[0, 2, 0], scale=0.5)
    assert of_everything([roof], "upwards")[1] == pytest.approx(1.0, abs=0.02)
    assert of_everything([other("ball", position=[0, -3, 0])], "upwards")[1].max() == 0
    leaning = [roof | {"visible": False}]
    assert of_everything(leaning, "upwards")[1].max() == 0, "what is hidden keeps nothing off"


def test_glass_hides_nothing_and_what_is_made_from_everything_is_refused() -> None:
    assert of_everything([other("ball", position=[0, 1.2, 0])], worn=[value(1.0)])[1].max() == 0
    moved = look(
        "l",
        layer("a", displacement={"recipe": recipe(step("occlusion", against="everything"), step("multiply", by=0.1))}),
    )
    item = {"name": "x", "geometry": {"file": "floor"}, "look": "l", "displacement": {"most": 1.0}}
    with pytest.raises(MeshError, match="against the object itself"):
        _ = FrameGraph(shot(objects=[item], looks=[moved]), MadeFiles(floor=square(1.0))).scene


def test_upwards_an_object_shuts_in_what_lies_below_it() -> None:
    body = ball(0.5, 24)
    values = occlusion(body, 5, 120, "upwards")
    height = body.vertices[:, 1]
    assert values[height > 0.4].max() < 0.05 and values[height < -0.3].min() > 0.95
