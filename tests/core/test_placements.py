"""Where things stand: turns, aiming and uneven scales held to SciPy's rotations and to bodies of the same measures, through the renderer."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from tests.builders import MadeFiles, ball, box, document, layer, look, recipe, shot, square, step, value
from texallon.core.document import DocumentError, read_shot
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import render_frame
from texallon.core.render.scene.surface import surface_at
from texallon.core.signal.placement import Places, aimed, placement
from texallon.core.signal.run import evaluate

ANGLE = st.floats(-720, 720)
FACTOR = st.floats(0.01, 100)
PLACE = st.tuples(*[st.floats(-50, 50)] * 3)


@given(st.tuples(ANGLE, ANGLE, ANGLE), FACTOR, st.tuples(FACTOR, FACTOR, FACTOR), PLACE)
def test_a_placement_scales_turns_and_moves(rotation: Any, scale: float, stretch: Any, position: Any) -> None:
    # scipy.spatial.transform: lower-case axes are extrinsic, applied in their order.
    turn = Rotation.from_euler("xyz", rotation, degrees=True).as_matrix()
    made = placement(position, rotation, scale, stretch)
    assert np.allclose(made[:3, :3], turn @ np.diag(np.array(stretch) * scale), atol=1e-9 * scale * max(stretch))
    assert np.allclose(made[:3, 3], position)


@given(PLACE, PLACE, st.tuples(FACTOR, FACTOR, FACTOR))
def test_aiming_is_the_turn_that_takes_z_to_the_target_and_keeps_y_upwards(at: Any, target: Any, stretch: Any) -> None:
    way = np.array(target) - np.array(at)
    distance = np.linalg.norm(way)
    if distance < 0.01 or np.hypot(way[0], way[2]) < 0.01 * distance:
        return
    made = aimed(placement(at, (10, 20, 30), 1.0, stretch), np.array(target, np.float64))
    turn = made[:3, :3] / np.linalg.norm(made[:3, :3], axis=0)
    # The same by SciPy: about y to the target's bearing, then about x to its height.
    bearing = np.degrees(np.arctan2(way[0], way[2]))
    height = np.degrees(np.arctan2(way[1], np.hypot(way[0], way[2])))
    expected = Rotation.from_euler("YX", [bearing, -height], degrees=True)
    assert (Rotation.from_matrix(turn) * expected.inv()).magnitude() < 1e-6
    assert np.allclose(np.linalg.norm(made[:3, :3], axis=0), stretch), "it stays as large as it is"


def test_one_that_aims_at_where_it_stands_keeps_its_turn() -> None:
    made = placement((1, 2, 3), (10, 20, 30), 2.0)
    assert np.array_equal(aimed(made, np.array([1.0, 2.0, 3.0])), made)


def test_what_follows_and_belongs_is_placed_through_all_of_it() -> None:
    made = shot(
        object_groups=[
            {"name": "all", "position": [0, 1, 0], "rotation": [0, 90, 0]},
            {"name": "some", "belongs_to": "all", "scale": 2.0},
        ],
        objects=[
            {"name": "a", "geometry": {"file": "x"}, "look": "plain", "belongs_to": "some", "position": [1, 0, 0]},
            {"name": "b", "geometry": {"file": "x"}, "look": "plain", "follows": "on a", "position": [0, 0, 1]},
        ],
        locators=[{"name": "on a", "follows": "a", "position": [0, 0.5, 0]}],
    )
    places = Places(made)
    # By hand: 1 m along x, doubled, turned by 90° about y to −z, lifted by 1 m; then half a metre up of twice the size; then 1 m along z, which is x.
    assert np.allclose(places.object("a")[:3, 3], [0, 1, -2])
    assert np.allclose(places.locator("on a")[:3, 3], [0, 2, -2])
    assert np.allclose(places.object("b")[:3, 3], [2, 2, -2])


@pytest.mark.parametrize(
    ("members", "loop"),
    [
        ({"objects": [("a", {"follows": "l"})], "locators": [("l", {"follows": "a"})]}, "a → l → a"),
        ({"object_groups": [("g", {"belongs_to": "h"}), ("h", {"belongs_to": "g"})]}, "g → h → g"),
        ({"locators": [("l", {"aims_at": "l"})]}, "l → l"),
        ({"object_groups": [("g", {"belongs_to": "g"})]}, "g → g"),
    ],
)
def test_circles_are_refused_by_names(members: dict[str, Any], loop: str) -> None:
    more = {"objects": {"geometry": {"shape": "box"}, "look": "plain"}}
    lists = {k: [{"name": n, **more.get(k, {}), **each} for n, each in v] for k, v in members.items()}
    with pytest.raises(DocumentError, match=f"circle: {loop}"):
        read_shot(document(**lists))


@pytest.mark.parametrize("member", ["follows", "belongs_to", "aims_at"])
def test_a_name_that_there_is_none_of_is_refused(member: str) -> None:
    with pytest.raises(DocumentError, match=r"there is no .* “gone”"):
        read_shot(document(locators=[{"name": "l", member: "gone"}]))


def test_long_chains_are_placed_and_checked() -> None:
    groups = [{"name": "g0"}] + [
        {"name": f"g{n}", "belongs_to": f"g{n - 1}", "position": [1, 0, 0]} for n in range(1, 200)
    ]
    assert Places(shot(object_groups=groups)).group("g199")[0, 3] == 199


STRETCHES = [(2.0, 1.0, 0.5), (0.3, 3.0, 1.0), (1.0, 0.05, 1.0)]


@pytest.mark.parametrize("stretch", STRETCHES)
def test_normals_of_a_stretched_ball_are_those_of_the_ellipsoid(stretch: tuple[float, float, float]) -> None:
    # The gradient of (x/a)² + (y/b)² + (z/c)² is normal to the ellipsoid.
    made = shot(objects=[{"name": "b", "geometry": {"file": "ball"}, "look": "plain", "stretch": list(stretch)}])
    scene = FrameGraph(made, MadeFiles(ball=ball(rings=128))).scene
    rng = np.random.default_rng(4)
    origin = rng.normal(size=(3, 300))
    origin = (origin / np.linalg.norm(origin, axis=0) * 9).astype(np.float32)
    hits = scene.rays.nearest(origin, np.ascontiguousarray(-origin / 9), np.zeros(300, np.float32), 3)
    found = surface_at(scene, hits)
    exact = found.position / np.square(np.array(stretch))[:, None]
    exact /= np.linalg.norm(exact, axis=0)
    assert np.percentile((found.normal * exact).sum(axis=0), 2) > 0.9995


def seen(mesh: Any, **placed: Any) -> np.ndarray:
    """A picture of a box that shines onto a floor and is lit itself."""
    glow = look("l", layer("b", base_color=value(0.5), emission_luminance=value(3.0), bump=stripes()))
    things = [
        {"name": "thing", "geometry": {"file": "thing"}, "look": "l", **placed},
        {"name": "floor", "geometry": {"file": "floor"}, "look": "l2"},
    ]
    made = shot(
        objects=things,
        looks=[glow, look("l2", layer("b", base_color=value(0.5)))],
        camera={"position": [3, 3, 5], "target": [0, 0, 0]},
        environment={"colour": [0.2, 0.2, 0.2]},
    )
    files = MadeFiles(thing=mesh, floor=square(12.0, -1.5))
    return render_frame(made, files, 24, 18, 64, 2).picture()


def stripes() -> dict[str, Any]:
    return {"recipe": recipe(step("stripes", spacing=0.2), step("multiply", by=0.01))}


@pytest.mark.parametrize("stretch", [(2.0, 1.0, 0.5), (0.5, 1.5, 1.5)])
def test_a_stretched_box_looks_and_shines_as_one_of_those_measures(stretch: tuple[float, float, float]) -> None:
    stretched = seen(box(1, 1, 1), stretch=list(stretch))
    made = seen(box(*stretch))
    assert np.allclose(stretched.mean(axis=(0, 1)), made.mean(axis=(0, 1)), rtol=0.02)
    assert np.abs(stretched - made).mean() < 0.03 * made.mean()


def test_a_locator_stretches_what_is_measured_from_it() -> None:
    places = [{"name": "l", "stretch": [1, 4, 1], "rotation": [0, 0, 90]}]
    plain = look("a", layer("b", base_weight={"recipe": recipe(step("height", origin={"locator": "l"}))}))
    made = shot(locators=places, looks=[plain])
    plan = FrameGraph(made, MadeFiles()).plan(0)
    data = {"position": np.array([[-2.0, 0.0], [0.0, 3.0], [0.0, 0.0]], np.float32)}
    # The locator's y axis points along −x, and four metres are one there.
    assert np.allclose(evaluate(plan, plan.points(2, data))["base_weight"], [[0.5, 0.0]], atol=1e-6)
