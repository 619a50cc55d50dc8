"""Copies along lines, on surfaces and at particles, and what signals do to them: through the document and the renderer."""

from typing import Any

import numpy as np
import pytest
from scipy.spatial import cKDTree

from tests.builders import MadeFiles, ball, box, layer, look, recipe, shot, square, step, value
from texallon.core.document import DocumentError
from texallon.core.document.array import MOST_COPIES
from texallon.core.document.resolved import ResolvedShot
from texallon.core.geometry.mesh import MeshError, make_points
from texallon.core.render.camera.pick import find, pick
from texallon.core.render.graph import FrameGraph
from texallon.core.render.needs import held, reckon
from texallon.core.render.render_frame import render_frame
from texallon.core.render.resting import find_rest
from texallon.core.render.scene.surface import surface_at

CLOUD = make_points(
    np.random.default_rng(3).uniform(-1, 1, (300, 3)),
    {
        "radius": np.linspace(0.01, 0.06, 300),
        "heat": np.linspace(0, 1, 300),
        "tint": np.tile([0.1, 0.5, 0.9], (300, 1)),
    },
)
FILES = {"box": box(0.1, 0.2, 0.1), "ground": square(2.0), "ball": ball(0.6, 24), "cloud": CLOUD}
AIM = {"position": [0, 3, 4], "target": [0, 0, 0]}
GROUND = {"name": "ground", "geometry": {"file": "ground"}, "look": "plain"}
PLAIN = look("plain", layer("l", base_color=value([0.5, 0.5, 0.5])))
TUBE = {"name": "wire", "geometry": {"shape": "tube", "points": [[0, 0, 0], [1, 1, 0], [2, 0, 1]]}, "look": "plain"}


def thing(**members: Any) -> dict[str, Any]:
    return {"name": "thing", "geometry": {"file": "box"}, "look": "plain", **members}


def made(*objects: dict[str, Any], looks: Any = (PLAIN,), **members: Any) -> ResolvedShot:
    return shot(objects=list(objects), looks=list(looks), camera=AIM, **members)


def graph_of(*objects: dict[str, Any], **members: Any) -> FrameGraph:
    return FrameGraph(made(*objects, **members), MadeFiles(**FILES))


def matrices(graph: FrameGraph, name: str = "thing") -> np.ndarray:
    return np.concatenate([each.matrices for each in graph.scene.instances if each.item.name == name])


def signal(name: str, *steps: dict[str, Any]) -> dict[str, Any]:
    return {"name": name, "recipe": recipe(*steps)}


def test_copies_stand_evenly_along_a_tube_and_turn_with_it() -> None:
    graph = graph_of(TUBE, thing(array={"along": "line", "object": "wire", "count": 9}))
    found = matrices(graph)
    at, z = found[:, :, 3], found[:, :, 2]
    assert at[0] == pytest.approx([0, 0, 0], abs=1e-6) and at[-1] == pytest.approx([2, 0, 1], abs=1e-6)
    steps = np.linalg.norm(np.diff(at, axis=0), axis=1)
    assert steps.std() < 0.03 * steps.mean(), "chords of an even walk along a gentle bend"
    assert np.linalg.det(found[:, :, :3]) == pytest.approx(np.ones(9), abs=1e-5)
    ways = np.diff(at, axis=0) / steps[:, None]
    assert (np.sum(ways * z[:-1], axis=1) > 0.85).all(), "its z axis lies along the line"
    assert graph.scene.carried["share"][0][-1] == pytest.approx(1.0)


def test_a_closed_tube_has_no_copy_twice() -> None:
    ring = {**TUBE, "geometry": {**TUBE["geometry"], "closed": True}}
    at = matrices(graph_of(ring, thing(array={"along": "line", "object": "wire", "count": 12})))[:, :, 3]
    assert cKDTree(at).query(at, 2)[0][:, 1].min() > 0.2


@pytest.mark.parametrize("upright", [0.0, 1.0])
def test_copies_stand_off_the_surface_or_upright_and_no_nearer_than_they_may(upright: float) -> None:
    body = {"name": "ground", "geometry": {"file": "ball"}, "look": "plain", "position": [0.3, 0, 0], "scale": 1.5}
    array = {"along": "surface", "object": "ground", "apart": 0.2, "upright": upright, "sizes": [0.5, 0.8]}
    found = matrices(graph_of(body, thing(array=array, scale=2.0)))
    at = found[:, :, 3]
    assert cKDTree(at).query(at, 2)[0][:, 1].min() >= 0.2 * (1 - 1e-4)
    out = (at - [0.3, 0, 0]) / np.linalg.norm(at - [0.3, 0, 0], axis=1, keepdims=True)
    assert np.linalg.norm(at - [0.3, 0, 0], axis=1) == pytest.approx(np.full(len(at), 0.9), rel=0.01)
    size = np.linalg.norm(found[:, :, 1], axis=1)
    assert size.min() >= 0.5 * 2 - 1e-4 and size.max() <= 0.8 * 2 + 1e-4 and size.std() > 0.1
    axis = found[:, :, 1] / size[:, None]
    expected = np.tile([0, 1, 0], (len(at), 1)) if upright else out
    assert axis == pytest.approx(expected, abs=0.03)
    across = np.linalg.det(found[:, :, :3]) / size**3
    assert across == pytest.approx(np.ones(len(at)), abs=1e-3), "neither stretched nor mirrored"


def test_a_ground_that_is_stretched_does_not_stretch_what_stands_on_it() -> None:
    ground = {**GROUND, "stretch": [3, 1, 1], "rotation": [0, 0, 30]}
    found = matrices(graph_of(ground, thing(array={"along": "surface", "object": "ground", "apart": 0.3})))
    turns = found[:, :, :3].astype(float)
    assert turns @ turns.transpose(0, 2, 1) == pytest.approx(np.tile(np.eye(3), (len(found), 1, 1)), abs=1e-4)
    normal = np.array([-np.sin(np.radians(30)), np.cos(np.radians(30)), 0])
    assert found[:, :, 1] == pytest.approx(np.tile(normal, (len(found), 1)), abs=1e-4)


def test_tilt_is_held_and_lies_all_around() -> None:
    array = {"along": "surface", "object": "ground", "apart": 0.05, "tilt": 25}
    axis = matrices(graph_of(GROUND, thing(array=array)))[:, :, 1]
    lean = np.degrees(np.arccos(np.clip(axis[:, 1], -1, 1)))
    assert lean.max() <= 25.01 and lean.max() > 22
    assert np.abs(axis[:, [0, 2]].mean(axis=0)).max() < 0.03
    # Evenly over the cap, but for its curve: half of them beyond 1/√2 of the angle.
    assert np.median(lean) == pytest.approx(25 / np.sqrt(2), abs=1.0)


def test_copies_at_particles_stand_in_them_and_carry_what_they_carry() -> None:
    cloud = {"name": "cloud", "geometry": {"file": "cloud"}, "look": "plain", "visible": False, "position": [1, 0, 0]}
    graph = graph_of(cloud, thing(array={"along": "particles", "object": "cloud"}))
    found = matrices(graph)
    assert found[:, :, 3] == pytest.approx(CLOUD.vertices + np.array([1, 0, 0]), abs=1e-5)
    radius = CLOUD.attributes["radius"][:, 0]
    assert np.linalg.norm(found[:, :, 0], axis=1) == pytest.approx(2 * radius, rel=1e-4)
    values, there = graph.scene.carried["heat"]
    assert there.all() and values[:, 0] == pytest.approx(np.linspace(0, 1, 300))
    assert graph.scene.attribute_names()["tint"] == 3


def test_a_look_reads_what_its_copy_carries() -> None:
    warm = look("warm", layer("l", base_color={"recipe": recipe(step("attribute", attribute="share"))}))
    row = {"along": "grid", "counts": [5, 1, 1], "spacing": [0.5, 1, 1]}
    camera = {"position": [0, 4, 0.01], "target": [0, 0, 0]}
    one = shot(objects=[thing(array=row, look="warm")], looks=[warm], camera=camera)
    graph = FrameGraph(one, MadeFiles(**FILES))
    batch = graph.gbuffer(96, 54).batch(0)
    share = batch.point("attribute:share")[0]
    assert np.unique(share).round(4).tolist() == [0, 0.25, 0.5, 0.75, 1]
    x = batch.point("position")[0]
    assert share == pytest.approx(np.round(x / 0.5) / 4 + 0.5, abs=1e-5)


MOVES: list[tuple[dict[str, Any], Any]] = [
    ({"does": "move", "by": [0, 0.5, 0]}, lambda m, v: (m[:, 1, 3], 0.5 * v)),
    ({"does": "resize", "amount": 3.0}, lambda m, v: (np.linalg.norm(m[:, :, 0], axis=1), 1 + 2 * v)),
    ({"does": "tilt", "amount": 60.0}, lambda m, v: (np.degrees(np.arctan2(m[:, 2, 1], m[:, 1, 1])), 60 * v)),
    ({"does": "turn", "amount": 90.0}, lambda m, v: (np.degrees(np.arctan2(m[:, 0, 2], m[:, 0, 0])), 90 * v)),
]


@pytest.mark.parametrize(("change", "check"), MOVES)
def test_signals_move_resize_turn_and_tilt_copies_by_their_value_there(change: dict[str, Any], check: Any) -> None:
    across = signal("across", step("position"), step("component", which="x"), step("remap", from_start=-1, from_end=1))
    row = {"along": "grid", "counts": [9, 1, 1], "spacing": [0.25, 1, 1]}
    graph = graph_of(thing(array=row, copies=[{"signal": "across", **change}]), signals=[across])
    found, expected = check(matrices(graph), np.linspace(0, 1, 9))
    assert found == pytest.approx(expected, abs=1e-4)


def test_a_copy_is_kept_as_often_as_its_signal_says_and_two_share_the_ground() -> None:
    half = signal("half", step("constant", value=0.3))
    array = {"along": "surface", "object": "ground", "apart": 0.03}
    some = graph_of(GROUND, thing(array=array, copies=[{"signal": "half", "does": "keep"}]), signals=[half])
    every = graph_of(GROUND, thing(array=array))
    share = len(matrices(some)) / len(matrices(every))
    assert share == pytest.approx(0.3, abs=0.03)
    assert cKDTree(matrices(every)[:, :, 3]).query(matrices(some)[:, :, 3])[0].max() < 1e-6, "those that are left stay"


def test_a_signal_is_carried_as_a_colour_that_looks_read() -> None:
    red = signal("red", step("position"))
    row = {"along": "grid", "counts": [3, 1, 1], "spacing": [0.5, 1, 1]}
    change = {"signal": "red", "does": "carry", "name": "where"}
    graph = graph_of(thing(array=row, copies=[change], position=[0, 0.2, 0]), signals=[red])
    values, there = graph.scene.carried["where"]
    assert there.all() and values == pytest.approx(np.array([[-0.5, 0.2, 0], [0, 0.2, 0], [0.5, 0.2, 0]]), abs=1e-5)


def test_changes_read_what_the_ground_carries_and_how_it_is_bent() -> None:
    """Curvature is that of the ground below a copy: 1/r on a ball."""
    bent = signal("bent", step("curvature", radius=0.3, measure="1/m", side="signed"))
    body = {"name": "ground", "geometry": {"file": "ball"}, "look": "plain"}
    array = {"along": "surface", "object": "ground", "apart": 0.2}
    change = {"signal": "bent", "does": "carry", "name": "bent"}
    try:
        graph = graph_of(body, thing(array=array, copies=[change]), signals=[bent])
    except DocumentError as error:
        pytest.fail(str(error))
    values = graph.scene.carried["bent"][0][1:, 0]
    assert np.median(values) == pytest.approx(1 / 0.6, rel=0.05)


def test_what_measures_from_each_other_comes_to_an_end() -> None:
    """Each keeps away from the other: both are measured as they were laid."""
    near = [signal(f"near_{name}", step("contact", to={"object": name}, end=0.3)) for name in ("one", "two")]
    array = {"along": "surface", "object": "ground", "apart": 0.1}
    objects = [
        thing(
            name=own,
            array={**array, "seed": seed},
            copies=[{"signal": f"near_{other}", "does": "resize", "amount": 0.2}],
        )
        for own, other, seed in (("one", "two", 1), ("two", "one", 2))
    ]
    graph = graph_of(GROUND, *objects, signals=near)
    sizes = np.linalg.norm(matrices(graph, "one")[:, :, 1], axis=1)
    assert sizes.min() < 0.9 and sizes.max() <= 1.0001


@pytest.mark.parametrize(
    ("array", "words"),
    [
        ({"along": "surface", "object": "groun"}, "did you mean “ground”"),
        ({"along": "surface", "object": "thing"}, "the object that they are copies of"),
        ({"along": "line", "object": "ground"}, "“ground” is no tube"),
    ],
)
def test_what_an_array_can_not_follow_is_refused_with_what_it_could(array: dict[str, Any], words: str) -> None:
    with pytest.raises(DocumentError, match=words):
        made(GROUND, thing(array=array))


def test_a_ground_without_faces_and_particles_with_some_are_refused_in_words() -> None:
    cloud = {"name": "cloud", "geometry": {"file": "cloud"}, "look": "plain"}
    with pytest.raises(MeshError, match="“cloud” has no faces for “thing” to stand on"):
        _ = graph_of(cloud, thing(array={"along": "surface", "object": "cloud"})).scene
    with pytest.raises(MeshError, match="“ground” has faces"):
        _ = graph_of(GROUND, thing(array={"along": "particles", "object": "ground"})).scene


def test_a_picture_of_scattered_copies_is_that_of_as_many_objects() -> None:
    array = {"along": "surface", "object": "ground", "apart": 0.5, "turn": 0}
    one = made(GROUND, thing(array=array))
    at = matrices(FrameGraph(one, MadeFiles(**FILES)))[:, :, 3]
    many = made(GROUND, *[thing(name=f"t{k}", position=[float(x) for x in place]) for k, place in enumerate(at)])
    pictures = [render_frame(each, MadeFiles(**FILES), 64, 36, 4, 2).picture() for each in (one, many)]
    assert pictures[0] == pytest.approx(pictures[1], abs=2e-3) and pictures[0].std() > 0.01


def test_shining_copies_are_asked_for_light_as_so_many_objects_are() -> None:
    lit = look("plain", layer("l", emission_luminance=value(3.0), base_color=value([0.5, 0.5, 0.5])))
    floor = {**GROUND, "look": "dull", "scale": 2.0}
    dull = look("dull", layer("l", base_color=value([0.5, 0.5, 0.5])))
    row = {"along": "grid", "counts": [3, 1, 2], "spacing": [0.5, 1, 0.7]}
    dark = {"colour": [0, 0, 0]}
    one = made(floor, thing(array=row, position=[0, 0.4, 0]), looks=[lit, dull], environment=dark)
    places = [(x * 0.5, 0.4, z * 0.7) for z in (-0.5, 0.5) for x in (-1, 0, 1)]
    many = made(
        floor,
        *[thing(name=f"t{k}", position=list(p)) for k, p in enumerate(places)],
        looks=[lit, dull],
        environment=dark,
    )
    pictures = [render_frame(each, MadeFiles(**FILES), 48, 27, 16, 2).picture() for each in (one, many)]
    assert pictures[0] == pytest.approx(pictures[1], abs=5e-3) and pictures[0].mean() > 0.01


def test_a_place_on_a_copy_is_picked_and_found_again_there() -> None:
    row = {"along": "grid", "counts": [5, 1, 1], "spacing": [0.5, 1, 1]}
    camera = {"position": [0, 4, 0.01], "target": [0, 0, 0]}
    one = shot(objects=[GROUND, thing(array=row)], looks=[PLAIN], camera=camera)
    graph = FrameGraph(one, MadeFiles(**FILES))
    view = graph.view(96, 54)
    seen = graph.gbuffer(96, 54).batch(0)
    places = seen.point("position")
    for x in (-1.0, 0.5, 1.0):
        at = int(np.argmin(np.abs(places[0] - x) + np.abs(places[1] - 0.1)))
        down, across = divmod(int(seen.pixels[at]), 96)
        picked = pick(graph.scene, view, (across + 0.5) / 96, (down + 0.5) / 54, False)
        assert picked is not None and picked.object == "thing" and picked.copy == round((x + 1) / 0.5)
        found = find(graph.scene, picked)
        assert found is not None and surface_at(graph.scene, found).position[0, 0] == pytest.approx(x, abs=0.06)


def test_a_thing_comes_to_rest_on_copies_where_they_stand() -> None:
    row = {"along": "grid", "counts": [3, 1, 1], "spacing": [0.7, 1, 1]}
    drop = thing(name="drop", position=[0.7, 2.0, 0])
    one = shot(objects=[thing(array=row), drop], looks=[PLAIN], camera=AIM)
    rest = find_rest(one, frozenset({"drop"}), MadeFiles(**FILES))
    assert rest is not None and rest.metres == pytest.approx(2.0 - 0.1 - 0.1, abs=1e-3)
    beside = shot(objects=[thing(array=row), {**drop, "position": [0.35, 2.0, 0]}], looks=[PLAIN], camera=AIM)
    assert find_rest(beside, frozenset({"drop"}), MadeFiles(**FILES)) is None


def test_many_copies_are_counted_before_they_are_made() -> None:
    cloud = {"name": "cloud", "geometry": {"file": "cloud"}, "look": "plain"}
    graph = graph_of(cloud, thing(array={"along": "particles", "object": "cloud"}))
    counted = reckon(graph.files, graph.shown, 64, 36)
    assert counted.copies == 299 + 299
    hidden = graph_of({**cloud, "visible": False}, thing(array={"along": "particles", "object": "cloud"}))
    assert reckon(hidden.files, hidden.shown, 64, 36).copies == MOST_COPIES - 1


# -- several bodies --------------------------------------------------------------------------------------------

RED = look("red", layer("l", self_lit=value(1.0), base_color=value([1.0, 0.0, 0.0])))
STONE = {
    "name": "stone",
    "geometry": {"file": "ball"},
    "look": "red",
    "position": [9, 9, 9],
    "rotation": [0, 30, 0],
    "scale": 0.1,
    "visible": False,
}


@pytest.mark.parametrize("along", ["grid", "surface"])
def test_a_copy_has_another_body_as_large_and_turned_as_that_is(along: str) -> None:
    one = signal("one", step("constant", value=1.0))
    array = {"along": "grid", "counts": [5, 1, 1]} if along == "grid" else {"along": "surface", "object": "ground"}
    item = thing(
        array=array, bodies=["stone"], copies=[{"signal": "one", "does": "choose"}], scale=3.0, rotation=[0, 0, 90]
    )
    graph = graph_of(GROUND, STONE, item, looks=[PLAIN, RED], signals=[one])
    (mine,) = (each for each in graph.scene.instances if each.item.name == "thing" and len(each))
    assert mine.item.look == "red" and graph.scene.distinct[mine.mesh_number].faces.shape == FILES["ball"].faces.shape
    angle = np.radians(30)
    turn = 0.1 * np.array([[np.cos(angle), 0, np.sin(angle)], [0, 1, 0], [-np.sin(angle), 0, np.cos(angle)]])
    if along == "grid":
        assert mine.matrices[:, :, :3] == pytest.approx(np.tile(turn, (5, 1, 1)), abs=1e-6)
    else:  # each is turned by chance as well
        assert np.linalg.norm(mine.matrices[:, :, :3], axis=1) == pytest.approx(np.full((len(mine), 3), 0.1), abs=1e-5)
        assert mine.matrices[:, 1, 3] == pytest.approx(np.zeros(len(mine)), abs=1e-6), "not where the stone itself is"


def test_a_signal_chooses_along_the_list_and_the_picture_is_that_of_as_many_objects() -> None:
    across = signal("across", step("position"), step("component", which="x"), step("remap", from_start=-1, from_end=1))
    row = {"along": "grid", "counts": [6, 1, 1], "spacing": [0.4, 1, 1]}
    choose = [{"signal": "across", "does": "choose"}]
    looks = [PLAIN, RED]
    copies = made(STONE, thing(array=row, bodies=["stone"], copies=choose), looks=looks, signals=[across])
    xs = (np.arange(6) - 2.5) * 0.4
    alone = [
        thing(name=f"t{x:.1f}", position=[x, 0, 0])
        if x < 0
        else {**STONE, "name": f"t{x:.1f}", "position": [x, 0, 0], "visible": True}
        for x in xs
    ]
    several = made(*alone, looks=looks)
    pictures = [render_frame(each, MadeFiles(**FILES), 96, 54, 8, 1).picture() for each in (copies, several)]
    assert pictures[0] == pytest.approx(pictures[1], abs=1e-5) and (pictures[0][..., 0] > pictures[0][..., 1]).any()
    graph = FrameGraph(copies, MadeFiles(**FILES))
    x, y, _ = graph.view(96, 54).project(np.array([0.2, 0.0, 0.0], np.float32))
    picked = pick(graph.scene, graph.view(96, 54), x, y, False)
    assert picked is not None and picked.object == "thing", "a stone among its copies"
    found = find(graph.scene, picked)
    assert found is not None and graph.scene.of_instance(int(found.instance[0])).item.look == "red"


def test_without_a_signal_bodies_come_by_chance_and_stay_when_others_go() -> None:
    third = {**STONE, "name": "pebble", "geometry": {"file": "box"}}
    half = signal("half", step("constant", value=0.5))
    array = {"along": "surface", "object": "ground", "apart": 0.02}

    def places(copies: list[dict[str, Any]]) -> list[np.ndarray]:
        item = thing(array=array, bodies=["stone", "pebble"], copies=copies)
        graph = graph_of(GROUND, STONE, third, item, looks=[PLAIN, RED], signals=[half])
        mine = [each for each in graph.scene.instances if each.item.name == "thing"]
        return [each.matrices[:, :, 3] for each in mine]

    every, some = places([]), places([{"signal": "half", "does": "keep"}])
    total = sum(map(len, every))
    # Binomial, four standard deviations.
    assert [len(each) / total for each in every] == pytest.approx([1 / 3] * 3, abs=4 * np.sqrt(2 / 9 / total))
    assert 0.4 < sum(map(len, some)) / total < 0.6
    for left, before in zip(some, every, strict=True):
        assert cKDTree(before).query(left)[0].max() < 1e-6


def test_contact_measures_from_the_bodies_that_copies_have() -> None:
    near = signal("near", step("contact", to={"object": "thing"}, end=0.5, measure="distance"))
    item = thing(array={"along": "grid", "counts": [9, 1, 1], "spacing": [1, 1, 1]}, bodies=["stone"])
    ground = {"name": "ground", "geometry": {"file": "ground"}, "look": "plain", "scale": 9.0}
    graph = graph_of(STONE, item, ground, looks=[PLAIN, RED], signals=[near])
    boxes, balls = (
        [each.matrices[:, :, 3] for each in graph.scene.instances if each.item.look == look_]
        for look_ in ("plain", "red")
    )
    round_ones = np.concatenate(balls)
    square_ones = np.concatenate([each for each in boxes if len(each) > 1 or abs(each[0, 0]) > 0])
    assert 0 < len(round_ones) < 9 and len(round_ones) + len(square_ones) == 9, "some of each, the same in every run"
    for places, away in ((round_ones, 0.24), (square_ones, 0.2)):  # a ball of 6 cm, a box 20 cm high
        above = np.ascontiguousarray(places.T + np.array([[0], [0.3], [0]]), np.float32)
        found = np.min([each.distance(above, 9.0, "surface") for each in graph.scene.data.surface("thing")], axis=0)
        assert found == pytest.approx(np.full(len(places), away), abs=2e-3)


@pytest.mark.parametrize(
    ("bodies", "words"),
    [(["gone"], "no object “gone”"), (["thing"], "among them already"), (["stone", "stone"], "among them already")],
)
def test_bodies_that_are_not_there_or_twice_are_refused(bodies: list[str], words: str) -> None:
    with pytest.raises(DocumentError, match=words) as found:
        made(STONE, thing(array={"along": "ring"}, bodies=bodies), looks=[PLAIN, RED])
    assert f"/objects/1/bodies/{len(bodies) - 1}" in str(found.value)


def test_hidden_bodies_count_and_particles_are_no_bodies() -> None:
    item = thing(array={"along": "ring"}, bodies=["stone"])
    shown = made(STONE, item, looks=[PLAIN, RED])
    assert [each.name for each in held(shown.objects)] == ["stone", "thing"]
    cloud = {"name": "cloud", "geometry": {"file": "cloud"}, "look": "plain", "visible": False}
    with pytest.raises(MeshError, match="“cloud” has no faces"):
        _ = graph_of(cloud, thing(array={"along": "ring"}, bodies=["cloud"])).scene
