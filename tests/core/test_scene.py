"""Surface points: where they are, which way they face, and what data they carry."""

import numpy as np
import pytest
import trimesh

from tests.builders import MadeFiles, gbuffer_of, layer, look, materials_of, recipe, shot, square, step, value
from texallon.core.derived import DerivedStore
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.render.graph import FrameGraph, make_scene
from texallon.core.render.scene.hit_points import point_data
from texallon.core.render.scene.scene import Scene
from texallon.core.render.scene.surface import surface_at
from texallon.core.render.scene.traits import lets_light_through
from texallon.core.render.surface.rows import DEFAULTS
from texallon.core.shade.rows import MATERIAL_ROWS
from texallon.core.signal.look_plan import plan_look
from texallon.core.signal.planner import Planner

DOWN = np.array([[0.0], [-1.0], [0.0]], np.float32)


def ball(radius: float = 0.5) -> Mesh:
    sphere = trimesh.creation.icosphere(5, radius)
    heat = sphere.vertices[:, 1] / radius
    return make_mesh(sphere.vertices, sphere.faces, None, sphere.vertices[:, :2], {"heat": heat})


def made(**members: object) -> tuple[object, Scene]:
    document = shot(
        **{
            "objects": [
                {"name": "ball", "geometry": {"file": "ball"}, "look": "plain", "position": [2, 1, 0], "scale": 2}
            ],
            **members,
        }
    )
    return document, make_scene(document, MadeFiles(ball=ball(), floor=square(10.0)))


def fall(scene: Scene, x: float = 2.0, z: float = 0.0) -> object:
    origin = np.array([[x], [9], [z]], np.float32)
    return scene.rays.nearest(origin, DOWN, np.zeros(1, np.float32))


def test_points_are_in_the_world_and_in_the_object() -> None:
    _, scene = made()
    hits = fall(scene)
    surface = surface_at(scene, hits)
    assert surface.position[:, 0] == pytest.approx([2, 2, 0], abs=1e-3)
    assert surface.normal[:, 0] == pytest.approx([0, 1, 0], abs=2e-2)
    data = point_data(scene, hits, surface, frozenset({"object_position", "uv", "attribute:heat", "normal"}), {})
    assert data["object_position"][:, 0] == pytest.approx([0, 0.5, 0], abs=1e-3)
    assert data["attribute:heat"][0, 0] == pytest.approx(1.0, abs=1e-3)
    assert data["uv"][:, 0] == pytest.approx([0, 0.5], abs=1e-3)


def test_normals_stay_square_to_a_turned_surface() -> None:
    _, scene = made(
        objects=[{"name": "f", "geometry": {"file": "floor"}, "look": "plain", "rotation": [0, 0, 30], "scale": 3}]
    )
    hits = fall(scene, 0.5)
    surface = surface_at(scene, hits)
    tilt = np.radians(30)
    for normal in (surface.normal, surface.flat):
        assert normal[:, 0] == pytest.approx([-np.sin(tilt), np.cos(tilt), 0], abs=1e-5)


def test_an_attribute_that_is_not_there_reads_as_nothing() -> None:
    _, scene = made()
    hits = fall(scene)
    data = point_data(scene, hits, surface_at(scene, hits), frozenset({"attribute:no such thing"}), {})
    assert data["attribute:no such thing"].tolist() == [[0.0]]
    assert scene.attribute_names() == {"heat": 1}


def test_a_part_wears_its_own_look() -> None:
    two = make_mesh(
        [[-1, 0, -1], [1, 0, -1], [1, 0, 1], [-1, 0, 1]],
        [[0, 2, 1], [0, 3, 2]],
        part_names=("left", "right"),
        part_of_face=[0, 1],
    )
    document = shot(
        looks=[look("plain"), look("other")],
        objects=[
            {"name": "o", "geometry": {"file": "two"}, "look": "plain", "parts": [{"name": "right", "look": "other"}]}
        ],
    )
    scene = make_scene(document, MadeFiles(two=two))
    near = np.zeros(2, np.float32)
    origin = np.array([[0.5, -0.5], [2, 2], [-0.5, 0.5]], np.float32)
    hits = scene.rays.nearest(origin, np.repeat(DOWN, 2, axis=1), near)
    assert surface_at(scene, hits).look.tolist() == [0, 1]


def test_a_hidden_object_is_not_there() -> None:
    _, scene = made(objects=[{"name": "b", "geometry": {"file": "ball"}, "look": "plain", "visible": False}])
    assert scene.objects == 0
    assert fall(scene, 0.0).instance[0] == -1


def test_clear_looks_are_known_by_their_layers() -> None:
    water = look("water", layer("w", transmission_weight=value(1.0)))
    off = {**water, "layers": [{**water["layers"][0], "on": False}]}
    document = shot(looks=[water])
    assert lets_light_through(document.looks[0], {})
    assert not lets_light_through(shot(looks=[off]).looks[0], {})


def test_moving_an_object_keeps_the_tables_and_changes_the_key() -> None:
    files, store = MadeFiles(ball=ball()), DerivedStore()
    objects = [{"name": "b", "geometry": {"file": "ball"}, "look": "plain"}]
    first = FrameGraph(shot(objects=objects), files, store).scene
    second = FrameGraph(shot(objects=[{**objects[0], "position": [1, 0, 0]}]), files, store).scene
    assert second.geometry.meshes is first.geometry.meshes, "nothing is copied again"
    assert second.content_key != first.content_key
    assert second.rays_key != first.rays_key
    assert FrameGraph(shot(objects=objects), files, store).scene is first


def test_objects_that_share_a_mesh_hold_it_once() -> None:
    ball_file = MadeFiles(ball=ball())
    objects = [
        {"name": f"b{n}", "geometry": {"file": "ball"}, "look": "plain", "position": [3 * n, 0, 0]} for n in range(50)
    ]
    one, many = make_scene(shot(objects=objects[:1]), ball_file), make_scene(shot(objects=objects), ball_file)
    assert many.geometry.meshes.vertices.shape == one.geometry.meshes.vertices.shape
    origin = np.array([[3.0 * 20], [5.0], [0.0]], np.float32)
    hits = many.rays.nearest(origin, DOWN, np.zeros(1, np.float32))
    assert hits.instance[0] == 20
    assert surface_at(many, hits).position[:, 0] == pytest.approx([60, 0.5, 0], abs=1e-4)


def test_channels_that_no_layer_touches_have_their_defaults() -> None:
    document, scene = made()
    hits = fall(scene)
    more = {"view": -DOWN, "footprint": np.zeros((1, 1), np.float32)}
    rows = materials_of(document).rows(scene, hits, surface_at(scene, hits), more)
    assert np.array_equal(rows[:, 0], DEFAULTS)


def test_channel_values_are_kept_within_their_meaning() -> None:
    wild = look(
        "plain", layer("l", base_color=value([7.0, -1.0, 0.5]), specular_roughness=value(-3.0), specular_ior=value(0.2))
    )
    document, scene = made(looks=[wild])
    hits = fall(scene)
    more = {"view": -DOWN, "footprint": np.zeros((1, 1), np.float32)}
    rows = materials_of(document).rows(scene, hits, surface_at(scene, hits), more)[:, 0]
    start = MATERIAL_ROWS["base_color"]
    assert rows[start : start + 3].tolist() == [1.0, 0.0, 0.5]
    assert rows[MATERIAL_ROWS["specular_roughness"]] == 0
    assert rows[MATERIAL_ROWS["specular_ior"]] == 1


def test_two_looks_are_evaluated_each_on_its_own_points() -> None:
    document, scene = made(
        looks=[look("plain", layer("l", base_weight=value(0.25))), look("other", layer("l", base_weight=value(0.75)))],
        objects=[
            {"name": "b", "geometry": {"file": "ball"}, "look": "plain", "position": [2, 1, 0]},
            {"name": "f", "geometry": {"file": "floor"}, "look": "other"},
        ],
    )
    origin = np.array([[2, 0, 2, -1], [9, 9, 9, 9], [0, 0, 0.1, 1]], np.float32)
    ways = np.repeat(DOWN, 4, axis=1)
    hits = scene.rays.nearest(origin, ways, np.zeros(4, np.float32))
    more = {"view": np.ascontiguousarray(-ways), "footprint": np.zeros((1, 4), np.float32)}
    rows = materials_of(document).rows(scene, hits, surface_at(scene, hits), more)
    assert rows[MATERIAL_ROWS["base_weight"]].tolist() == [0.25, 0.75, 0.25, 0.75]


def test_masks_are_seen_through_water() -> None:
    water = look("water", layer("w", transmission_weight=value(1.0)))
    ground = look("ground", layer("g", recipe(step("height"))))
    document = shot(
        looks=[ground, water],
        camera={"position": [0, 5, 0.01], "target": [0, 0, 0]},
        objects=[
            {"name": "f", "geometry": {"file": "floor"}, "look": "ground"},
            {"name": "w", "geometry": {"file": "floor"}, "look": "water", "position": [0, 1, 0]},
        ],
    )
    scene = make_scene(document, MadeFiles(floor=square(10.0)))
    points = gbuffer_of(scene, document, 40, 24, frozenset({1}))
    planner = Planner(document)
    planner.want("value", planner.mask(document.looks[0].layers[0], ("x",)))
    height = points.batch(0).values(planner.plan())["value"]
    assert height.shape == (1, 40 * 24)
    assert np.abs(height).max() < 1e-5, "the bed of the pond, not its surface"
    assert len(points.batch(1).pixels) == 40 * 24, "and the water itself where it comes first"


def test_what_glows_inside_glass_is_seen_through_it_and_not_through_stone() -> None:
    glass = look("glass", layer("w", transmission_weight=value(1.0)))
    veil = look("veil", layer("v", geometry_opacity=value(0.5)))
    stone = look("stone", layer("s"))

    def seen(*names: str) -> int:
        document = shot(
            looks=[glass, veil, stone],
            camera={"position": [0, 5, 0.01], "target": [0, 0, 0]},
            objects=[
                {"name": f"o{at}", "geometry": {"file": "floor"}, "look": name, "position": [0, -at * 0.5, 0]}
                for at, name in enumerate(names)
            ],
        )
        scene = make_scene(document, MadeFiles(floor=square(12.0)))
        points = gbuffer_of(scene, document, 40, 24, frozenset({0, 1}))
        group = points.batch(1)
        if len(group.pixels):
            depth = -0.5 * names.index("veil")
            assert np.allclose(group.point("position")[1], depth, atol=1e-4), "the first of its look"
        return len(group.pixels)

    assert seen("veil") == seen("glass", "veil") == seen("glass", "glass", "veil", "veil") == 40 * 24
    assert seen("glass", "stone", "veil") == 0


def test_what_is_seen_carries_its_footprint() -> None:
    # A pixel's footprint is its angle times the distance: 36/35 film over 100 pixels, 4 m away, is 41 mm.
    document = shot(
        camera={"position": [0, 4, 0.001], "target": [0, 0, 0], "focal_length": 35},
        objects=[{"name": "f", "geometry": {"file": "floor"}, "look": "plain"}],
        looks=[look("plain", layer("l", base_weight={"recipe": recipe(step("noise", size=0.05, octaves=1, low=-1))}))],
    )
    scene = make_scene(document, MadeFiles(floor=square(10.0)))
    points = gbuffer_of(scene, document, 100, 60)
    coarse = points.batch(0).values(plan_look(document, document.looks[0]))["base_weight"]
    fine = gbuffer_of(scene, document, 1000, 600)
    sharp = fine.batch(0).values(plan_look(document, document.looks[0]))["base_weight"]
    assert coarse.std() < 1e-6, "50 mm features are finer than 41 mm pixels can show"
    assert sharp.std() > 0.2


def test_an_opaque_part_of_an_object_that_is_clear_elsewhere_is_seen() -> None:
    # A jar of a glass wall at the top and a stone bottom, in one object.
    corners = [[x, y, z] for y in (0.5, 0.0) for x, z in ((-6, -6), (6, -6), (6, 6), (-6, 6))]
    faces = [[0, 2, 1], [0, 3, 2], [4, 6, 5], [4, 7, 6]]
    jar = make_mesh(corners, faces, [[0, 1, 0]] * 8, part_names=("wall", "bottom"), part_of_face=[0, 0, 1, 1])
    document = shot(
        looks=[look("glass", layer("w", transmission_weight=value(1.0))), look("stone", layer("s"))],
        camera={"position": [0, 5, 0.01], "target": [0, 0, 0]},
        objects=[
            {"name": "j", "geometry": {"file": "jar"}, "look": "glass", "parts": [{"name": "bottom", "look": "stone"}]}
        ],
    )
    scene = make_scene(document, MadeFiles(jar=jar))
    assert scene.has_mixed
    points = gbuffer_of(scene, document, 40, 24, frozenset({0}))
    assert len(points.batch(1).pixels) == 40 * 24
    assert np.allclose(points.batch(1).point("position")[1], 0, atol=1e-5), "through the wall, down to the bottom"
    assert np.allclose(points.batch(0).point("position")[1], 0.5, atol=1e-5)
