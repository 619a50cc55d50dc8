"""Particles: found as spheres exactly, as far and as near as one likes, and within a skin that is closed."""

from typing import Any

import igl
import numpy as np
import pytest
import trimesh

from tests.builders import MadeFiles, ball, layer, look, recipe, shot, square, step, value
from texallon.core.document.object import FileRef
from texallon.core.geometry.closest import placed_surface
from texallon.core.geometry.mesh import Mesh, MeshError, make_points
from texallon.core.geometry.nearest_ball import PlacedBalls
from texallon.core.geometry.particles import Particles, particles_of
from texallon.core.geometry.rays import OPAQUE, MeshRays, Placed, SceneRays, SphereRays
from texallon.core.geometry.skin import skinned
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import render_frame
from texallon.core.render.scene.surface import positions_at, surface_at

PLAIN = look("plain", layer("l", base_color=value([0.5, 0.5, 0.5])))


def cloud(count: int = 40, seed: int = 0, **more: Any) -> Mesh:
    rng = np.random.default_rng(seed)
    return make_points(rng.uniform(-1, 1, (count, 3)), {"radius": rng.uniform(0.05, 0.2, count), **more})


def graph_of(points: Mesh, looks: Any = (PLAIN,), camera: Any = None, **members: Any) -> FrameGraph:
    item = {"name": "cloud", "geometry": {"file": "cloud"}, "look": looks[0]["name"], **members}
    aim = {"position": [0, 1, 5], "target": [0, 0, 0]} if camera is None else camera
    made = shot(objects=[item], looks=list(looks), camera=aim)
    return FrameGraph(made, MadeFiles(cloud=points))


def random_rays(count: int, far: float, seed: int = 0) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    origin = rng.normal(size=(3, count))
    origin *= far / np.linalg.norm(origin, axis=0)
    way = rng.uniform(-1, 1, (3, count)) - origin
    return np.ascontiguousarray(origin, np.float32), np.ascontiguousarray(way / np.linalg.norm(way, axis=0), np.float32)


def met(origin: np.ndarray, way: np.ndarray, centres: np.ndarray, radii: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Where rays meet spheres first, by the quadratic equation in double precision."""
    to = centres[:, :, None] - origin[None].astype(float)
    along = (to * way[None].astype(float)).sum(axis=1)
    off = (to**2).sum(axis=1) - along**2
    half = radii[:, None] ** 2 - off
    t = np.where(half > 0, along - np.sqrt(np.maximum(half, 0)), np.inf)
    t = np.where(t > 0, t, np.inf)
    return t.min(axis=0), t.argmin(axis=0)


@pytest.mark.parametrize("far", [2.5, 40.0])
def test_spheres_are_met_where_the_quadratic_equation_says(far: float) -> None:
    points = cloud(60)
    graph = graph_of(points, position=[0.3, -0.1, 0.2], rotation=[20, 40, 10], scale=1.4)
    origin, way = random_rays(4000, far)
    hits = graph.scene.rays.nearest(origin, way, np.zeros(4000, np.float32))
    matrix = graph.plans.places.object("cloud")
    centres = points.vertices @ matrix[:3, :3].T + matrix[:3, 3]
    distance, which = met(origin, way, centres, points.attributes["radius"][:, 0] * 1.4)
    found = np.isfinite(distance)
    assert (found == (hits.instance >= 0)).mean() > 0.999 and found.mean() > 0.1
    both = found & (hits.instance >= 0)
    assert (which[both] == hits.instance[both]).mean() > 0.999
    same = both & (which == hits.instance)
    assert hits.distance[same] == pytest.approx(distance[same], rel=2e-4)
    chosen = hits.take(np.flatnonzero(same))
    surface = surface_at(graph.scene, chosen)
    at = origin[:, same] + way[:, same] * distance[same]
    # From afar the library's single precision moves a grazing hit along the sphere, by a small part of a pixel.
    off = np.linalg.norm(surface.position - at, axis=0)
    assert np.median(off) < 5e-6 * far + 1e-5 and off.max() < 1e-4 * far + 2e-4
    out = (at.T - centres[which[same]]) / np.linalg.norm(at.T - centres[which[same]], axis=1, keepdims=True)
    assert pytest.approx(out, abs=3e-3 * far) == surface.normal.T
    assert surface.flat == pytest.approx(surface.normal, abs=1e-6)
    assert positions_at(graph.scene, chosen).position == pytest.approx(surface.position, abs=1e-6)
    size = np.linalg.norm(surface.position.T - centres[which[same]], axis=1)
    assert size == pytest.approx(points.attributes["radius"][which[same], 0] * 1.4, rel=1e-5), "on the sphere itself"


@pytest.mark.parametrize("scale", [1e-3, 1.0, 1e3])
@pytest.mark.parametrize("away", [0.0, 1e4])
def test_what_leaves_a_sphere_does_not_meet_it_again_and_what_goes_in_meets_its_far_side(
    scale: float, away: float
) -> None:
    points = make_points([[0, 0, 0]], {"radius": [0.7]})
    graph = graph_of(points, scale=scale, position=[away, 0, 0])
    rng = np.random.default_rng(5)
    origin, way = random_rays(3000, 3.0)
    origin = np.ascontiguousarray(origin * scale + np.array([[away], [0], [0]]), np.float32)
    hits = graph.scene.rays.nearest(origin, way, np.zeros(3000, np.float32))
    hits = hits.take(np.flatnonzero(hits.instance == 0))
    surface = surface_at(graph.scene, hits)
    assert len(hits.instance) > 300
    out = rng.normal(size=surface.normal.shape)
    out *= np.sign((out * surface.flat).sum(axis=0)) / np.linalg.norm(out, axis=0)
    start = np.ascontiguousarray(surface.position + surface.flat * surface.offset, np.float32)
    near = np.zeros(start.shape[1], np.float32)
    again = graph.scene.rays.nearest(start, np.ascontiguousarray(out, np.float32), near)
    assert (again.instance < 0).mean() > 0.999
    inwards = np.ascontiguousarray(surface.position - surface.flat * surface.offset, np.float32)
    across = graph.scene.rays.nearest(inwards, np.ascontiguousarray(-surface.flat, np.float32), near)
    if away * 6e-8 < 0.01 * scale:  # else a sphere is no larger than a few roundings of where it stands
        assert (across.instance == 0).all()
        assert across.distance == pytest.approx(np.full(len(near), 1.4 * scale), rel=0.02)


def test_spheres_and_copies_and_single_meshes_are_numbered_through() -> None:
    one = MeshRays(ball(0.1, 8).vertices, ball(0.1, 8).faces)
    at = lambda *places: np.stack([np.hstack([np.eye(3), np.array([p]).T]) for p in places]).astype(np.float32)  # noqa: E731
    spheres = SphereRays(np.array([[0, 0, 3], [0, 0, 4]], np.float32), np.array([0.1, 0.1], np.float32))
    rays = SceneRays(
        [
            Placed(one, at((0, 0, 0)), OPAQUE),
            Placed(one, at((0, 0, 1), (0, 0, 2)), OPAQUE),
            Placed(spheres, at((0, 0, 0)), OPAQUE),
            Placed(one, at((0, 0, 5)), OPAQUE),
        ]
    )
    origin = np.stack([np.full(6, 2.0), np.zeros(6), np.arange(6.0)]).astype(np.float32)
    way = np.tile(np.array([[-1], [0], [0]], np.float32), (1, 6))
    hits = rays.nearest(np.ascontiguousarray(origin), way, np.zeros(6, np.float32))
    assert hits.instance.tolist() == [0, 1, 2, 3, 4, 5] and rays.instances == 6


def test_a_picture_of_spheres_is_that_of_fine_balls() -> None:
    points = make_points([[-0.5, 0, 0], [0.4, 0.2, 0.3], [0.1, -0.4, 0.5]], {"radius": [0.3, 0.4, 0.2]})
    glass = look("plain", layer("l", transmission_weight=value(1.0), specular_roughness=value(0.0)))
    for worn in (PLAIN, glass):
        item = {"name": "cloud", "geometry": {"file": "cloud"}, "look": "plain"}
        balls = [{"name": f"b{k}", "geometry": {"file": f"b{k}"}, "look": "plain"} for k in range(3)]
        files = {
            f"b{k}": ball(float(points.attributes["radius"][k, 0]), 96, tuple(points.vertices[k])) for k in range(3)
        }
        camera = {"position": [0, 0.5, 3], "target": [0, 0, 0]}
        shots = [shot(objects=each, looks=[worn], camera=camera) for each in ([item], balls)]
        one, other = (render_frame(each, MadeFiles(cloud=points, **files), 48, 27, 32, 4).picture() for each in shots)
        assert one.mean() == pytest.approx(other.mean(), rel=0.01)
        assert np.abs(one - other).mean() < 0.01


def test_a_bump_on_spheres_is_that_on_fine_balls() -> None:
    ripple = look(
        "plain",
        layer(
            "l",
            bump={"recipe": recipe(step("stripes", axis="x", spacing=0.1), step("multiply", by=0.01))},
        ),
    )
    normals = []
    for made in (
        {"cloud": make_points([[0, 0, 0]], {"radius": [0.5]})},
        {"cloud": ball(0.5, 128)},
    ):
        item = {"name": "cloud", "geometry": {"file": "cloud"}, "look": "plain"}
        try:
            one = shot(objects=[item], looks=[ripple], camera={"position": [0, 0, 2], "target": [0, 0, 0]})
            graph = FrameGraph(one, MadeFiles(**made))
            batch = graph.gbuffer(96, 54).batch(0)
        except Exception as error:
            pytest.fail(str(error))
        normals.append((render_frame(one, MadeFiles(**made), 96, 54, 32, 2), batch))
    first, second = (each[0].picture() for each in normals)
    assert np.corrcoef(first.ravel(), second.ravel())[0, 1] > 0.99 and first.std() > 0.05


def test_particles_that_shine_are_asked_for_light() -> None:
    lit = look("plain", layer("l", emission_luminance=value(5.0)))
    graph = graph_of(make_points([[0, 0.5, 0]], {"radius": [0.2]}), [lit])
    assert not graph.scene.geometry.round.any()
    lights = graph.store.value(graph.mesh_lights_value)
    assert lights.power > 0
    assert len(lights.per_area) == 320 and (lights.per_area > 0).all()


def test_a_radius_is_carried_given_or_multiplied_and_what_has_none_is_left_out() -> None:
    points = make_points(np.eye(3), {"radius": [0.1, 0.0, 0.3], "size": [1, 2, 3]})
    assert particles_of(points, 9.0, "radius", 2.0).radii == pytest.approx([0.2, 0.6])
    assert particles_of(points, 9.0, "size", 0.1).radii == pytest.approx([0.1, 0.2, 0.3])
    assert particles_of(points, 0.07, "none", 5.0).radii == pytest.approx([0.07] * 3)
    assert particles_of(points, 9.0, "radius", 1.0).numbers.tolist() == [0, 2]


def test_particles_keep_their_numbers_while_others_come_and_go() -> None:
    first = make_points(np.eye(3), {"id": [70.0, 3.0, 5.0]})
    later = make_points(np.eye(3)[:2], {"id": [5.0, 70.0]})
    assert particles_of(first, 0.1, "radius", 1.0).numbers.tolist() == [70, 3, 5]
    assert particles_of(later, 0.1, "radius", 1.0).numbers.tolist() == [5, 70]
    # Two of the same, parts of whole ones, or more than single precision tells apart, are no numbers to go by.
    parts = make_points(np.eye(3), {"id": [0.25, 0.5, 0.75]})
    assert particles_of(parts, 0.1, "radius", 1.0).numbers.tolist() == [0, 1, 2]
    assert particles_of(make_points(np.eye(3), {"id": [1.0, 1.0, 2.0]}), 0.1, "radius", 1.0).numbers.tolist() == [
        0,
        1,
        2,
    ]
    assert particles_of(make_points(np.eye(3)[:1], {"id": [2.0**24]}), 0.1, "radius", 1.0).numbers.tolist() == [0]


@pytest.mark.parametrize("copies", [1, 3])
def test_a_drop_of_rain_keeps_what_is_random_for_it(copies: int) -> None:
    array = {"array": {"along": "grid", "counts": [copies, 1, 1], "spacing": [3.0, 1.0, 1.0]}} if copies > 1 else {}
    known: dict[tuple[int, float], int] = {}
    met = 0
    for seconds in (1.0, 1.04, 1.1):
        rain = {"shape": "rain", "rate": 300.0, "seconds": seconds}
        drops = {"name": "drops", "look": "plain", "geometry": rain, "particles": {}, **array}
        graph = FrameGraph(shot(objects=[drops], looks=[PLAIN]), MadeFiles())
        for copy, each in enumerate(graph.shapes.stands_of(graph.shot.objects[0])):
            carried = each.attributes["number"][:, 0].tolist()
            for drop, number in zip(carried, each.numbers.tolist(), strict=True):
                met += (copy, drop) in known
                assert known.setdefault((copy, drop), number) == number
    assert met > 100 * copies
    assert len(set(known.values())) == len(known), "no two of them are alike"


def test_a_look_reads_what_each_particle_carries() -> None:
    points = cloud(30, heat=np.linspace(0, 1, 30))
    graph = graph_of(points)
    batch = graph.gbuffer(96, 54).batch(0)
    heat = batch.point("attribute:heat")[0]
    assert heat == pytest.approx(np.linspace(0, 1, 30)[batch.instance], abs=1e-6)
    assert len(np.unique(batch.instance)) > 15


# -- skin ----------------------------------------------------------------------------------------------------------


def skin_of(points: Mesh, smooth: float = 0.0, cell: float | None = None) -> Mesh:
    return skinned(particles_of(points, 0.1, "radius", 1.0), smooth, cell)


def closed(mesh: Mesh) -> trimesh.Trimesh:
    made = trimesh.Trimesh(mesh.vertices, mesh.faces, process=True)
    assert made.is_watertight and made.is_winding_consistent
    return made


def test_the_skin_of_one_ball_has_its_volume_and_area() -> None:
    errors = []
    for cell in (0.04, 0.02):
        made = closed(skin_of(make_points([[0.3, 0.1, 0]], {"radius": [0.5]}), 0.0, cell))
        errors.append(abs(made.volume - 4 / 3 * np.pi * 0.125))
        assert made.area == pytest.approx(np.pi, rel=0.01)
    assert errors[0] < 0.004 * 0.5236 and errors[1] < errors[0] / 2.5, "of second order"


def test_the_skin_of_two_balls_that_meet_has_the_volume_of_both_less_their_lens() -> None:
    made = closed(skin_of(make_points([[-0.3, 0, 0], [0.3, 0, 0]], {"radius": [0.5, 0.5]}), 0.0, 0.015))
    # The lens of two spheres of radius r whose middles lie d apart: π(4r + d)(2r − d)²/12 (a textbook formula; from memory).
    lens = np.pi * (4 * 0.5 + 0.6) * (2 * 0.5 - 0.6) ** 2 / 12
    assert made.volume == pytest.approx(2 * 4 / 3 * np.pi * 0.125 - lens, rel=0.01)


def test_a_skin_of_many_is_closed_and_swells_where_they_flow_into_one_another() -> None:
    points = cloud(80, heat=np.linspace(0, 1, 80))
    hard, soft = closed(skin_of(points)), closed(skin_of(points, 0.1))
    assert soft.volume > hard.volume * 1.02
    assert igl.signed_distance(points.vertices.astype(float), soft.vertices, soft.faces.astype(int))[0].max() < 0
    quality = soft.area_faces.min() > 0
    assert quality
    carried = skin_of(points, 0.1).attributes["heat"]
    assert carried.min() >= 0 and carried.max() <= 1 and carried.std() > 0.1


def test_normals_of_a_skin_point_out() -> None:
    made = skin_of(make_points([[0, 0, 0]], {"radius": [0.5]}))
    assert (made.normals * made.vertices).sum(axis=1).min() > 0.4999


def test_too_fine_a_skin_is_refused_with_the_cell_that_would_do_and_so_is_one_of_a_mesh() -> None:
    with pytest.raises(MeshError, match=r"cells of 0\.0\d+ m would do"):
        skin_of(cloud(20), 0.0, 1e-3)
    with pytest.raises(MeshError, match="“cloud” has faces"):
        _ = graph_of(square(), particles={"skin": {}}).scene


def test_a_skin_can_be_divided_and_wear_glass() -> None:
    graph = graph_of(cloud(10), particles={"skin": {"cell": 0.08}}, subdivision={"levels": 1})
    plain = graph_of(cloud(10), particles={"skin": {"cell": 0.08}})
    assert len(graph.scene.meshes[0].faces) == 4 * len(plain.scene.meshes[0].faces)


# -- distances -----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("spread", ["even", "clusters", "one"])
@pytest.mark.parametrize("far", [0.05, 10.0])
def test_distances_from_balls_are_those_of_trying_each(spread: str, far: float) -> None:
    rng = np.random.default_rng(1)
    centres = rng.uniform(-1, 1, (500, 3))
    if spread == "clusters":
        centres = rng.normal(0, 0.01, (500, 3)) + rng.choice([-50.0, 0.0, 30.0], (500, 1))
    if spread == "one":
        centres = centres[:1]
    radii = rng.uniform(0, 0.08, len(centres))
    near = centres[rng.integers(0, len(centres), 400)] + rng.normal(0, 0.05, (400, 3))
    at = np.concatenate([near, rng.uniform(-80, 80, (200, 3))])
    tried = np.linalg.norm(at[:, None] - centres, axis=2)
    balls = PlacedBalls(centres.astype(np.float32), radii.astype(np.float32))
    expected = np.minimum((tried - radii).min(axis=1), far)
    place = np.ascontiguousarray(at.T, np.float32)
    for by_cells in (True, False):
        balls._even = by_cells
        assert balls.distance(place, far, "signed") == pytest.approx(np.maximum(expected, -far), abs=2e-5)
        assert balls.distance(place, far) == pytest.approx(np.maximum(expected, 0), abs=2e-5)
    assert balls.distance(place, far, "points") == pytest.approx(np.minimum(tried.min(axis=1), far), abs=2e-5)
    broken = np.array([[np.nan], [0], [0]], np.float32)
    assert balls.distance(broken, far)[0] == pytest.approx(far)


def test_contact_to_particles_is_measured_in_pictures() -> None:
    points = make_points([[0, 0.3, 0]], {"radius": [0.1]})
    frost = look(
        "plain",
        layer("l", base_color={"recipe": recipe(step("contact", to={"object": "cloud"}, end=0.5, measure="distance"))}),
    )
    objects = [
        {"name": "ground", "geometry": {"file": "ground"}, "look": "plain"},
        {"name": "cloud", "geometry": {"file": "cloud"}, "look": "dull"},
    ]
    made = shot(objects=objects, looks=[frost, look("dull")], camera={"position": [0, 3, 0.01], "target": [0, 0, 0]})
    graph = FrameGraph(made, MadeFiles(ground=square(2.0), cloud=points))
    batch = graph.gbuffer(64, 36).batch(0)
    names = [name for name in graph.plan(0).required_data if name.startswith("distance:")]
    at = batch.point("position")
    expected = np.linalg.norm(at - np.array([[0], [0.3], [0]]), axis=0) - 0.1
    assert batch.point(names[0])[0] == pytest.approx(np.minimum(expected, 0.5), abs=1e-4)


def test_copies_are_measured_from_as_one_and_too_many_are_refused() -> None:
    row = np.tile(np.eye(4, dtype=np.float32)[:3], (3, 1, 1))
    row[:, 0, 3] = [0, 2, 4]
    found = placed_surface(ball(0.5, 24), row).distance(np.array([[1.0, 4.0], [0, 1], [0, 0]], np.float32), 9.0)
    assert found == pytest.approx([0.5, 0.5], abs=5e-3)
    with pytest.raises(MeshError, match="too many to measure from"):
        placed_surface(ball(0.5, 96), np.tile(row[:1], (300, 1, 1)))


def test_file_refs_of_particles_need_no_settings() -> None:
    made = shot(objects=[{"name": "cloud", "geometry": {"file": "cloud"}, "look": "plain"}], looks=[PLAIN])
    assert isinstance(made.objects[0].geometry, FileRef)
    scene = FrameGraph(made, MadeFiles(cloud=make_points([[0, 0, 0], [1, 0, 0]]))).scene
    assert scene.objects == 2 and scene.geometry.round.all()
    assert isinstance(particles_of(make_points([[0, 0, 0]]), 0.1, "radius", 1.0), Particles)
