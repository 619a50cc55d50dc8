"""Masks that grow: through the document, its frames and the renderer, whichever frame is asked first."""

from itertools import product
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests import builders
from tests.builders import MadeFiles, ball, layer, look, make_mesh, recipe, step, value
from tests.engine.driven import Driven
from texallon.core.derived import DerivedStore, report_progress_to
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.ids import complete_ids
from texallon.core.document.resolved import resolve
from texallon.core.document.shot import Shot
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.graph import FrameGraph
from texallon.core.render.object_geometry import object_geometry
from texallon.core.render.render_frame import render_frame
from texallon.core.signal.check_recipes import check_shot
from texallon.core.signal.sharing import inline, rename
from texallon.formats.disk_cache import DiskCache

LAST, RATE = 25, 24.0


def document(growth: dict[str, Any] | None = None, **members: Any) -> dict[str, Any]:
    """A level square of 1 m, touched by a locator that goes along x from −0.4 to 0.4 m, in 25 frames."""
    touch = {"name": "touch", "recipe": recipe(step("contact", to={"locator": "finger"}, end=0.1, falloff="linear"))}
    shine = {"recipe": recipe(step("attribute", attribute="frost", read="number"))}
    worn = look("ice", layer("base", base_color=value([0.0] * 3), emission_luminance=shine))
    own = {"kind": "growth", "name": "frost", "signal": "touch", "speed": 0.2, "edge": 0.0, **(growth or {})}
    pond: dict[str, Any] = {
        "name": "pond", "look": "ice", "geometry": {"shape": "plane", "width": 1.0, "depth": 1.0, "segments": 50},
        "remembers": [own],
    }  # fmt: skip
    made: dict[str, Any] = {
        "frames": {"first": 1, "last": LAST, "rate": RATE},
        "signals": [touch],
        "looks": [worn],
        "objects": [pond],
        "locators": [{"name": "finger", "id": "finger"}],
        "tracks": [moves("/locators/finger/position/0", -0.4, 0.4)],
    }
    made = complete_ids(builders.document(**{**made, **members}))
    return made


def moves(at: str, first: float, last: float) -> dict[str, Any]:
    keys = [{"frame": 1, "value": first, "interpolation": "linear"}, {"frame": LAST, "value": last}]
    return {"at": at, "keys": keys}


def remembered(
    shot: Shot, frame: float, name: str = "frost", store: DerivedStore | None = None, files: Any = None
) -> np.ndarray:
    graph = FrameGraph(resolve(shot, frame), files or MadeFiles(), store)
    return graph.store.value(graph.shapes.remembered(graph.shot.objects[0])[name])[:, 0]


def places(shot: Shot) -> np.ndarray:
    return object_geometry(shot, "pond", MadeFiles()).vertices


def right_front(at: np.ndarray, seconds: float, speed: float, reach: float = 0.05) -> np.ndarray:
    """Metres to the front: of what was touched within `reach` of a place that goes along x."""
    ways = []
    for frame in np.linspace(1, LAST, 400):
        x = -0.4 + 0.8 * (frame - 1) / (LAST - 1)
        away = np.maximum(np.hypot(at[:, 0] - x, at[:, 2]) - reach, 0)
        ways.append(away + ((frame - 1) / RATE - seconds) * speed)
    return np.min(ways, axis=0)


@pytest.mark.parametrize("frame", [1, 5, 13, 25, 40])
def test_it_spreads_from_what_was_touched(frame: float) -> None:
    shot = read_shot(document())
    at, seconds = places(shot), (frame - 1) / RATE
    front = remembered(shot, frame, "frost front")
    right = right_front(at, seconds, 0.2)
    # A point is touched or not: what lies between two is known to half an edge, and what passes between two frames to what it moves.
    assert np.abs(front - right)[at[:, 2] > -2].max() < 0.03
    mask = remembered(shot, frame)
    sure = np.abs(right) > 0.03
    assert np.array_equal(mask[sure] > 0.5, (right <= 0)[sure])
    age = remembered(shot, frame, "frost age")
    assert np.allclose(age, np.maximum(-front / 0.2, 0), atol=1e-5)


def test_whichever_frame_is_asked_first_it_is_the_same_to_the_bit() -> None:
    shot = read_shot(document({"fades": 0.5, "ragged": "touch", "edge": 0.02}))
    names = ("frost", "frost age", "frost front")
    first = {key: remembered(shot, *key) for key in product((3, 17, 25, 9.5), names)}
    forwards, backwards = DerivedStore(), DerivedStore(1000)
    for frame, name in sorted(first):
        assert np.array_equal(remembered(shot, frame, name, forwards), first[frame, name])
    for frame, name in sorted(first, reverse=True):
        assert np.array_equal(remembered(shot, frame, name, backwards), first[frame, name])


def test_another_process_goes_on_from_what_is_on_disk(tmp_path: Path) -> None:
    shot = read_shot(document({"fades": 0.5}))
    disk = DiskCache(tmp_path, 10_000_000)
    found = remembered(shot, 20, store=DerivedStore(disk=disk))
    seen: list[str] = []
    again = DerivedStore(disk=DiskCache(tmp_path, 10_000_000))
    again.listen(lambda access: None if access.reused else seen.append(access.kind))
    assert np.array_equal(remembered(shot, 20, store=again), found)
    assert "values on a mesh" not in seen


def test_a_picture_at_which_nothing_of_it_changed_looks_at_no_other_frame() -> None:
    store, made = DerivedStore(), document()
    remembered(read_shot(made), 12, store=store)
    made["looks"][0]["layers"][0]["channels"]["specular_roughness"] = value(0.4)
    seen: list[str] = []
    store.listen(lambda access: None if access.reused else seen.append(access.kind))
    remembered(read_shot(made), 13, store=store)
    assert set(seen) == {"growth at a frame", "row"}
    made["tracks"][0]["keys"][1]["value"] = 0.1
    assert not np.array_equal(remembered(read_shot(made), 25, store=store), remembered(read_shot(document()), 25))


def test_without_a_speed_the_largest_value_so_far_is_kept_and_is_lost_at_a_rate() -> None:
    shot = read_shot(document({"speed": 0.0}))
    at = places(shot)
    frame, passed = 25, np.linspace(-0.4, 0.4, LAST)
    right = np.max([np.clip(1 - np.hypot(at[:, 0] - x, at[:, 2]) / 0.1, 0, 1) for x in passed], axis=0)
    assert np.allclose(remembered(shot, frame), right, atol=1e-5)
    losing = read_shot(document({"speed": 0.0, "fades": 0.8}))
    later = (LAST - 1 - np.arange(LAST)) / RATE
    values = [
        np.clip(1 - np.hypot(at[:, 0] - x, at[:, 2]) / 0.1, 0, 1) - 0.8 * t for x, t in zip(passed, later, strict=True)
    ]
    assert np.allclose(remembered(losing, frame), np.maximum(np.max(values, axis=0), 0), atol=1e-5)


def test_what_is_no_longer_touched_fades_as_long_after_as_the_front_took() -> None:
    """One place is touched for 8 frames; a place d away is covered d/v later, and begins to fade as much later after the end."""
    shot = read_shot(document({"fades": 2.0, "signal": "pulse", "speed": 1.0}, **pulse(9)))
    at = places(shot)
    away = np.maximum(np.hypot(at[:, 0], at[:, 2]) - 0.05, 0)
    for frame in (5, 12, 20):
        seconds = (frame - 1) / RATE
        over = 7.5 / RATE
        right = np.where(away <= seconds, 1 - 2.0 * np.maximum(seconds - away - over, 0), 0).clip(0, 1)
        sure = np.abs(away - seconds) > 0.05
        assert np.abs(remembered(shot, frame) - right)[sure].max() < 0.11


def pulse(until: int) -> dict[str, Any]:
    """A signal that is 1 at the middle up to a frame, then 0."""
    steps = recipe(
        step("contact", to={"locator": "finger"}, end=0.1, falloff="linear"), step("multiply", by={"number": "on"})
    )
    keys = [{"frame": 1, "value": 1.0, "interpolation": "stepped"}, {"frame": until, "value": 0.0}]
    return {
        "signals": [
            {"name": "touch", "recipe": recipe(step("constant", value=0.0))}, {"name": "pulse", "recipe": steps},
        ],
        "numbers": [{"name": "on", "id": "on", "value": 1.0}],
        "tracks": [{"at": "/numbers/on/value", "keys": keys}],
    }  # fmt: skip


def test_what_was_lost_comes_again_when_it_is_touched_again() -> None:
    members = pulse(5)
    members["tracks"][0]["keys"] += [{"frame": 17, "value": 1.0, "interpolation": "stepped"}]
    members["tracks"][0]["keys"][1]["interpolation"] = "stepped"
    shot = read_shot(document({"fades": 6.0, "signal": "pulse", "speed": 1.0}, **members))
    middle = int(np.argmin(np.linalg.norm(places(shot), axis=1)))
    found = [float(remembered(shot, frame)[middle]) for frame in (4, 15, 20)]
    assert found == [1.0, 0.0, 1.0]


def test_another_signal_heals_it_where_it_is_high() -> None:
    warm = {
        "name": "warm",
        "recipe": recipe(step("position"), step("component", which="x"), step("threshold", level=0.0)),
    }
    made = document({"heals": "warm", "healing": 2.0, "signal": "pulse", "speed": 1.0}, **pulse(30))
    made["signals"].append(warm)
    shot = read_shot(complete_ids(made))
    at, frame = places(shot), 19
    found = remembered(shot, frame)
    away = np.maximum(np.hypot(at[:, 0], at[:, 2]) - 0.05, 0)
    left, right = at[:, 0] < -0.03, at[:, 0] > 0.03
    behind = away < 18 / RATE - 0.05
    assert (found[left & behind] == 1).all()
    expected = np.clip(1 - 2.0 * (18 / RATE - away), 0, 1)
    assert np.abs(found - expected)[right & behind].max() < 0.11


@pytest.mark.parametrize("unevenness", [0.3, 0.8])
def test_what_is_ragged_is_as_fast_in_the_mean(unevenness: float) -> None:
    noise = recipe(step("noise", size=0.06))
    made = document({"ragged": "grain", "unevenness": unevenness, "speed": 0.4})
    made["signals"].append({"name": "grain", "recipe": noise})
    shot = read_shot(complete_ids(made))
    even = read_shot(document({"speed": 0.4}))
    ragged, smooth = (remembered(each, 25, "frost front") for each in (shot, even))
    assert np.abs(ragged - smooth).std() > 0.002 * unevenness
    # At the first touch the ways are the same in the mean by definition; here the finger moves on meanwhile.
    assert ragged.mean() == pytest.approx(smooth.mean(), abs=0.05 * float(np.abs(smooth).mean()))


def test_it_is_seen_in_the_picture_and_crosses_it_as_it_spreads() -> None:
    made = document(
        {"edge": 0.01},
        camera={"position": [0, 2.0, 0.001], "target": [0, 0, 0], "focal_length": 40.0},
        environment={"intensity": 0.0},
    )
    shot = read_shot(made)
    share = []
    for frame in (1, 13, 25):
        picture = render_frame(resolve(shot, frame), MadeFiles(), 64, 64, 4, 2).picture()
        share.append(float((picture[..., 0] > 0.5).mean()))
    at = places(shot)
    covered = [float((right_front(at, (frame - 1) / RATE, 0.2) < 0).mean()) for frame in (1, 13, 25)]
    assert share[0] < share[1] < share[2]
    # The square fills less of the picture than all of it: of the same share of it at each frame.
    assert share[2] / share[1] == pytest.approx(covered[2] / covered[1], rel=0.12)


def test_it_raises_the_surface_that_it_covers() -> None:
    rise = {"recipe": recipe(step("attribute", attribute="frost", read="number"), step("multiply", by=0.05))}
    made = document(looks=[look("ice", layer("base", displacement=rise))])
    made["objects"][0]["displacement"] = {"most": 0.1}
    shot = read_shot(complete_ids(made))
    high = object_geometry(shot, "pond", MadeFiles(), 25).vertices[:, 1]
    assert np.allclose(high, 0.05 * remembered(shot, 25), atol=1e-4) and high.max() > 0.04


def test_on_a_round_body_it_goes_round() -> None:
    made = document({"speed": 1.0})
    made["objects"][0]["geometry"] = {"shape": "sphere", "radius": 0.5, "segments": 64}
    made["locators"][0] |= {"position": [0.0, 1.0, 0.0]}
    made["tracks"] = []
    made["signals"][0]["recipe"]["steps"][0]["params"]["end"] = 0.3
    shot = read_shot(made)
    at = object_geometry(shot, "pond", MadeFiles()).vertices
    away = 0.5 * np.arccos(np.clip((at[:, 1] - 0.5) / 0.5, -1, 1))
    touched = away[np.linalg.norm(at - [0, 1.0, 0], axis=1) < 0.15].max()
    front = remembered(shot, 13, "frost front")
    assert np.abs(front - (np.maximum(away - touched, 0) - 0.5)).max() < 0.02


def test_it_moves_with_its_object_and_is_measured_in_the_world() -> None:
    made = document()
    made["tracks"] += [moves(f"/objects/{made['objects'][0]['id']}/position/0", -0.4, 0.4)]
    made["objects"][0] |= {"scale": 2.0}
    shot = read_shot(made)
    at = places(shot) * 2
    # Object and finger go along together: one place of it is touched, all the time.
    right = np.maximum(np.hypot(at[:, 0], at[:, 2]) - 0.05, 0) - 0.2 * 24 / RATE
    assert np.abs(remembered(shot, 25, "frost front") - right).max() < 0.05


def test_copies_remember_each_for_itself() -> None:
    made = document({"of": "copies", "speed": 0.4})
    made["objects"][0] |= {
        "geometry": {"shape": "box", "width": 0.04, "height": 0.04, "depth": 0.04},
        "array": {"along": "grid", "counts": [21, 1, 21], "spacing": [0.05, 1.0, 0.05]},
    }
    shot = read_shot(made)
    graph = FrameGraph(resolve(shot, 20), MadeFiles())
    [stand] = graph.shapes.stands_of(graph.shot.objects[0])
    at, front = stand.matrices[:, :, 3], stand.attributes["frost front"][:, 0]
    middle = at.mean(axis=0)
    # Ways lead from copy to copy, along the grid.
    assert np.abs(middle).max() < 0.6
    corner = np.abs(at - at[np.argmin(np.linalg.norm(at - [0.0, 0, 0], axis=1))]).sum(axis=1)
    assert np.corrcoef(front, corner)[0, 1] > 0.3 and front.min() < 0 < front.max()


def test_what_has_other_points_at_another_frame_says_so() -> None:
    files = MadeFiles(**{"a.ply": ball(0.5, 8), "b.ply": ball(0.5, 9)})
    made = document()
    made["objects"][0] |= {
        "geometry": {"file": "a.ply"}, "sequence": {"files": [{"file": "a.ply"}, {"file": "b.ply"}], "first": 1},
    }  # fmt: skip
    with pytest.raises(MeshError, match="at frame 2 there are"):
        remembered(read_shot(made), 3, files=files)


def test_a_mesh_that_bends_from_frame_to_frame_remembers() -> None:
    flat = [
        make_mesh([[0, y, 0], [1, y, 0], [1, 0, 1], [0, 0, 1]], [[0, 2, 1], [0, 3, 2]], [[0, 1, 0]] * 4)
        for y in (0.0, 0.2)
    ]
    files = MadeFiles(**{f"{n}.ply": each for n, each in enumerate(flat)})
    made = document({"speed": 0.0, "signal": "high"})
    made["signals"].append(
        {"name": "high", "recipe": recipe(step("position"), step("component", which="y"), step("multiply", by=5.0))}
    )
    made["objects"][0] |= {
        "geometry": {"file": "0.ply"},
        "sequence": {"files": [{"file": f"{n}.ply"} for n in (0, 1, 0)], "first": 1},
    }
    found = remembered(read_shot(complete_ids(made)), 10, files=files)
    assert np.allclose(found, [1, 1, 0, 0], atol=1e-6)


WRONG = [
    ({"signal": "tuch"}, "/objects/0/remembers/0/signal", "there is no signal"),
    ({"ragged": "tuch"}, "/objects/0/remembers/0/ragged", "there is no signal"),
    ({"heals": "tuch"}, "/objects/0/remembers/0/heals", "there is no signal"),
    ({"of": "copies"}, "/objects/0/remembers/0/of", "has no copies"),
    ({"speed": -1.0}, "/objects/0/remembers/0/speed", "greater than or equal to 0"),
    ({"kind": "grows"}, "/objects/0/remembers/0", "growth or springs"),
]


@pytest.mark.parametrize(("change", "path", "words"), WRONG)
def test_what_is_amiss_is_named_with_its_place(change: dict[str, Any], path: str, words: str) -> None:
    with pytest.raises(DocumentError) as found:
        check_shot(read_shot(document(change)))
    assert any(each.pointer == path and words in each.reason for each in found.value.problems), found.value.problems


def test_two_attributes_of_one_name_and_changing_points_are_refused() -> None:
    made = document()
    made["objects"][0]["remembers"].append({**made["objects"][0]["remembers"][0], "id": "", "name": "frost age"})
    made["objects"][0]["subdivision"] = {"levels": 3, "edge_pixels": 4.0}
    with pytest.raises(DocumentError) as found:
        check_shot(read_shot(complete_ids(made)))
    assert {each.pointer for each in found.value.problems} == {
        "/objects/0/remembers/1/name", "/objects/0/subdivision/edge_pixels",
    }  # fmt: skip


def test_settings_take_no_keys() -> None:
    made = document()
    made["tracks"].append(
        moves(f"/objects/{made['objects'][0]['id']}/remembers/{made['objects'][0]['remembers'][0]['id']}/speed", 0, 1)
    )
    with pytest.raises(DocumentError, match="the same in each"):
        check_shot(read_shot(made))


def test_what_is_handed_on_carries_what_it_remembers() -> None:
    shot = read_shot(document())
    handed = object_geometry(shot, "pond", MadeFiles(), 20).attributes
    assert {"frost", "frost age", "frost front"} <= handed.keys()
    assert np.array_equal(handed["frost"][:, 0], remembered(shot, 20))


def test_a_signal_under_another_name_is_touched_by_still_and_none_that_is_read_can_go() -> None:
    made = document({"ragged": "touch", "heals": "touch"})
    made["objects"][0]["floats"] = {"signal": "touch"}
    item = rename(made, "touch", "cold")["objects"][0]
    assert [item["remembers"][0][each] for each in ("signal", "ragged", "heals")] == ["cold"] * 3
    assert item["floats"]["signal"] == "cold"
    with pytest.raises(DocumentError, match="hold its steps"):
        inline(made, "touch")


def test_what_stands_on_a_thing_carries_what_that_remembers() -> None:
    made = document({"edge": 0.05})
    tuft = {
        "name": "tuft", "look": "ice", "geometry": {"shape": "box", "width": 0.01, "height": 0.02, "depth": 0.01},
        "array": {"along": "surface", "object": "pond", "apart": 0.04}, "copies": [{"signal": "frosted", "does": "keep"}],
    }  # fmt: skip
    made["objects"].append(tuft)
    made["signals"].append({"name": "frosted", "recipe": recipe(step("attribute", attribute="frost", read="number"))})
    shot = read_shot(complete_ids(made))
    counts = []
    for frame in (1, 13, 25):
        graph = FrameGraph(resolve(shot, frame), MadeFiles())
        stands = [each for each in graph.shapes.stands_of(graph.shot.objects[1]) if len(each.matrices)]
        at = np.concatenate([np.zeros((0, 3)), *[each.matrices[:, :, 3] for each in stands]])
        # They stand only where frost has come.
        assert (right_front(at, (frame - 1) / RATE, 0.2) < 0.03).all()
        counts.append(len(at))
    assert counts[0] < 3 and 10 < counts[1] < counts[2]


def test_what_flickers_too_often_to_be_kept_says_so() -> None:
    flicker = {"name": "flicker", "recipe": recipe(step("formula", expression="frame % 2 + position.x * 0"))}
    made = document({"signal": "flicker", "fades": 1.0}, frames={"first": 1, "last": 600, "rate": RATE})
    made["signals"].append(flicker)
    made["objects"][0]["geometry"]["segments"] = 1
    shot = read_shot(complete_ids(made))
    with pytest.raises(MeshError, match="touched anew 300 times"):
        remembered(shot, 5)
    # What neither fades nor heals keeps the first touch of each point alone.
    made["objects"][0]["remembers"][0]["fades"] = 0.0
    assert remembered(read_shot(made), 5).max() == 1.0


def test_copies_follow_a_look_that_moves_what_they_stand_on() -> None:
    """At the first frame nothing is moved yet: what copies remember must be found anew all the same."""

    def raised(by: float) -> np.ndarray:
        lift = {"recipe": {"steps": [{"id": "lift", **step("constant", value=0.0)}]}}
        made = document()
        layers = [{"id": "base", **layer("base", displacement=lift)}]
        made["looks"] = [{"id": "ice", "name": "ice", "layers": layers}]
        at = "/looks/ice/layers/base/channels/displacement/recipe/steps/lift/params/value"
        made["tracks"].append(moves(at, 0.0, by))
        ground = {
            "name": "ground",
            "look": "ice",
            "geometry": {"shape": "plane", "segments": 8},
            "displacement": {"most": 1.0},
        }
        high = {"name": "high", "recipe": recipe(step("position"), step("component", which="y"))}
        tuft = {
            "name": "pond", "look": "ice", "geometry": {"shape": "box", "width": 0.01, "height": 0.02, "depth": 0.01},
            "array": {"along": "surface", "object": "ground", "apart": 0.05, "most": 5},
            "remembers": [{"kind": "growth", "of": "copies", "name": "frost", "signal": "high", "speed": 0.0}],
        }  # fmt: skip
        made["objects"], made["signals"] = [tuft, ground], [*made["signals"], high]
        graph = FrameGraph(resolve(read_shot(complete_ids(made)), 25), MadeFiles(), store)
        [stand] = graph.shapes.stands_of(graph.shot.objects[0])
        found: np.ndarray = stand.attributes["frost"][:, 0]
        return found

    store = DerivedStore()
    assert np.allclose(raised(0.4), 0.4, atol=0.02) and np.allclose(raised(0.2), 0.2, atol=0.02)


def test_whoever_waits_hears_how_far_it_is() -> None:
    heard: list[tuple[str, int, int]] = []
    shot = read_shot(document())
    with report_progress_to(lambda *said: heard.append(said)):
        remembered(shot, 3)
    assert [done for _, done, _ in heard] == list(range(shot.frames.last - shot.frames.first + 1))
    assert {(what, total) for what, _, total in heard} == {("frost", LAST)}
    told = len(heard)
    remembered(shot, 9)
    assert len(heard) == told, "nobody listens any more"


def test_the_page_hears_of_it_before_the_picture_comes(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("texallon.engine.session.TOLD", 0.0)
    window = Driven(MadeFiles())
    window.change(
        {"do": "document", "document": read_shot(document()).model_dump(mode="json", by_alias=True), "revision": 1}
    )
    window.change(
        {"do": "view", "width": 96, "height": 54, "show": {"kind": "picture"}, "bench": {"look": "", "recipe": ""}, "serial": 1}
    )  # fmt: skip
    window.run(3)
    kinds = [each["kind"] for each in window.sent]
    assert "working" in kinds and kinds.index("working") < kinds.index("picture")
    working = [each for each in window.sent if each["kind"] == "working"]
    assert {each["what"] for each in working} == {"frost"} and working[-1]["total"] == LAST
