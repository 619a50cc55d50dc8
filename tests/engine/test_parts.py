"""The engine's parts on their own: messages, what is shown, what is measured, where handles are."""

import base64
import io
import json
import socket
import threading
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image
from pydantic import ValidationError

from tests.builders import MadeFiles, gbuffer_of, layer, look, recipe, shot, square, step, value
from tests.engine.driven import Driven
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.ids import by_id
from texallon.core.document.recipe_address import find_recipe
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.render.camera.view import make_view
from texallon.core.render.graph import make_scene
from texallon.engine.display import is_plain
from texallon.engine.encode import data_address, jpeg, png
from texallon.engine.handles import gizmo, locator_handles
from texallon.engine.measure import draw_cell, recipe_plan, sheet_plans, step_measures
from texallon.engine.paint import grid_picture, nice_step, paint, range_of
from texallon.engine.stage_target import signal_plan
from texallon.engine.wire import Wire
from texallon.formats.shot_files import ShotFiles
from texallon.messages.from_page import DisplaySettings, StageTarget
from texallon.messages.to_page import Gizmo

WET = layer(
    "wet",
    recipe(step("height"), step("remap", from_start=-1, from_end=1)),
    base_color=value([0.5, 0.25, 0.0]),
    specular_roughness=value(0.2),
)
DOCUMENT: dict[str, Any] = {
    "camera": {"position": [0, 4, 0.01], "target": [0, 0, 0]},
    "objects": [{"name": "f", "geometry": {"file": "floor"}, "look": "ground"}],
    "looks": [look("ground", layer("stone", base_weight=value(0.5)), WET)],
    "signals": [{"name": "s", "recipe": recipe(step("constant", value=0.25))}],
    "locators": [{"name": "mark", "position": [0.5, 0.2, 0]}],
}


def seen(**members: Any) -> tuple[Any, GBuffer]:
    document = shot(**(DOCUMENT | members))
    scene = make_scene(document, MadeFiles(floor=square(20.0)))
    return document, gbuffer_of(scene, document, 48, 27)


def test_messages_of_any_size_arrive_whole_and_in_order() -> None:
    left, right = (Wire(end) for end in socket.socketpair())
    bodies = [b"", b"x", bytes(range(256)) * 20_000]

    def send() -> None:
        for number, body in enumerate(bodies):
            left.send({"number": number, "text": "über"}, body)
        left.close()

    sender = threading.Thread(target=send)
    sender.start()
    for number, body in enumerate(bodies):
        assert right.receive() == ({"number": number, "text": "über"}, body)
    assert right.receive() is None, "and the end is noticed"
    sender.join()


def test_a_message_that_claims_too_much_ends_the_connection() -> None:
    ours, theirs = socket.socketpair()
    ours.sendall(b"\xff\xff\xff\xff\xff\xff\xff\x7f")
    assert Wire(theirs).receive() is None


def test_pictures_are_encoded_as_what_they_say() -> None:
    picture = np.random.default_rng(0).integers(0, 255, (9, 16, 3)).astype(np.uint8)
    assert np.array_equal(np.asarray(Image.open(io.BytesIO(png(picture)))), picture), "PNG loses nothing"
    assert Image.open(io.BytesIO(jpeg(picture))).size == (16, 9)
    head, data = data_address(picture).split(",")
    assert head == "data:image/jpeg;base64"
    assert Image.open(io.BytesIO(base64.b64decode(data))).size == (16, 9)


@pytest.mark.parametrize(
    "odd", [None, 3, "x", {"kind": "cake"}, {"kind": "picture", "step": "x"}, {"kind": "mask", "style": "plaid"}]
)
def test_an_unclear_wish_is_refused(odd: Any) -> None:
    with pytest.raises(ValidationError):
        StageTarget.model_validate(odd)


def test_a_wish_survives_being_sent() -> None:
    wish = {
        "kind": "step",
        "look": "ground",
        "recipe": "/looks/ab/layers/cd/where",
        "step": 1,
        "channel": "",
        "attribute": "heat",
        "colour": True,
        "style": "lines",
    }
    assert StageTarget.model_validate(json.loads(json.dumps(wish))).model_dump(mode="json") == wish


def test_recipes_are_found_by_name() -> None:
    document = shot(**DOCUMENT)
    assert find_recipe(document, "/looks/0/layers/1/where")[1] == ("looks", 0, "layers", 1, "where")
    path = find_recipe(document, by_id(document, ("looks", 0, "layers", 1, "channels", "base_color", "recipe")))[1]
    assert path == ("looks", 0, "layers", 1, "channels", "base_color", "recipe")
    assert find_recipe(document, f"/signals/{document.signals[0].id}/recipe")[1] == ("signals", 0, "recipe")
    assert find_recipe(document, "/looks/0/layers/0/where")[0] is None, "it lies everywhere"
    for address in ("/looks/0/layers/gone/where", "/signals/9/recipe", "/looks/0/layers/1/channels/coat/recipe", "", "/looks",
                    "/title", "/looks/0/layers/1/where/steps/0", "/looks/0/model_fields", "/looks/-1/layers/0/where"):  # fmt: skip
        with pytest.raises(DocumentError, match="no recipe"):
            find_recipe(document, address)


def test_one_step_a_mask_or_a_channel_can_be_planned_alone() -> None:
    document, points = seen()
    recipe = "/looks/0/layers/1/where"
    plan, colour = signal_plan(document, StageTarget(kind="step", look="ground", recipe=recipe, step=0))
    assert colour == "number"
    assert np.abs(points.batch(0).values(plan)["value"]).max() < 1e-6, "the height of the floor"
    plan, _ = signal_plan(document, StageTarget(kind="mask", look="ground", recipe=recipe))
    assert np.allclose(points.batch(0).values(plan)["value"], 0.5)
    plan, colour = signal_plan(document, StageTarget(kind="channel", look="ground", step=None, channel="base_color"))
    assert colour == "colour"
    blended = points.batch(0).values(plan)["value"][:, 0]
    assert np.allclose(blended, 0.8 + 0.5 * (np.array([0.5, 0.25, 0.0]) - 0.8)), "half of the way from the default"
    with pytest.raises(DocumentError):
        signal_plan(document, StageTarget(kind="channel", look="ground", step=None, channel="cake"))
    plan, kind = signal_plan(document, StageTarget(kind="attribute", look="ground", attribute="heat", colour=True))
    assert kind == "colour" and plan.required_data == {"attribute:heat"}
    plan, kind = signal_plan(document, StageTarget(kind="attribute", look="ground", attribute="heat"))
    assert kind == "number" and (points.batch(0).values(plan)["value"] == 0).all(), "the ground carries none"
    plan, _ = signal_plan(document, StageTarget(kind="mask", look="ground", recipe="/looks/0/layers/0/where"))
    assert np.allclose(points.batch(0).values(plan)["value"], 1.0), "no mask is 1 everywhere"


def test_a_recipe_is_measured_before_and_after_each_step() -> None:
    document, points = seen()
    wet = document.looks[0].layers[1]
    first, second = step_measures(points, 0, recipe_plan(document, wet.where, ("looks", 0, "layers", 1, "where")))
    assert first["incoming"] is None
    assert second["incoming"] == first["values"]
    assert second["covered"] == pytest.approx(0.5)
    assert second["values"]["count"] == 48 * 27


def test_cells_change_their_key_only_with_what_they_show() -> None:
    before = sheet_plans(shot(**DOCUMENT), shot(**DOCUMENT).looks[0])
    assert set(before) == {"0/base_weight", "1/where", "1/base_color", "1/specular_roughness"}
    drier = json.loads(json.dumps(DOCUMENT))
    drier["looks"][0]["layers"][1]["channels"]["specular_roughness"] = value(0.3)
    changed = shot(**drier)
    after = sheet_plans(changed, changed.looks[0])
    assert {name for name in before if before[name].content_key != after[name].content_key} == {"1/specular_roughness"}


def test_a_cell_shows_its_value_and_tells_its_mean() -> None:
    document, points = seen()
    plan = sheet_plans(document, document.looks[0])["1/base_color"]
    drawn = draw_cell(points, 0, "1/base_color", plan)
    assert drawn["mean"] == pytest.approx([0.5, 0.25, 0.0])
    assert drawn["picture"].startswith("data:image/jpeg")


def test_what_wears_another_look_is_left_as_ground() -> None:
    _, points = seen(
        looks=[look("ground"), look("other")],
        objects=[{"name": "f", "geometry": {"file": "floor"}, "look": "other"}],
    )
    nothing = paint(points, 0, np.zeros((1, 0), np.float32), False)
    assert (nothing == nothing[0, 0]).all()
    white = paint(points, 1, np.ones((1, 48 * 27), np.float32), False)
    assert (white == 255).all()


def test_values_beyond_a_mask_are_spread_out_to_be_seen() -> None:
    inside, beyond = range_of(np.array([[0.2, 0.7]], np.float32)), range_of(np.array([[2.0, 5.0]], np.float32))
    assert (inside.low, inside.high) == (0, 1)
    assert (beyond.low, beyond.high) == (2, 5)
    around = range_of(np.array([[-3.0, 1.0]], np.float32))
    assert (around.low, around.high) == (-3, 3), "0 stays in the middle, so that a sign can be told"
    nothing = range_of(np.full((1, 2), np.nan, np.float32))
    assert (nothing.low, nothing.high) == (0, 1)


@pytest.mark.parametrize(("reach", "step"), [(1.0, 0.1), (0.9, 0.1), (3.0, 0.5), (20.0, 2.0), (0.004, 0.0005)])
def test_iso_lines_stand_at_round_numbers(reach: float, step: float) -> None:
    assert nice_step(reach) == pytest.approx(step)


def painted(values: Any, style: str = "grey") -> np.ndarray:
    """The picture of a row-by-row ramp of given values, `(27, 48, 3)` as integers."""
    _, points = seen()
    row = np.resize(np.asarray(values, np.float32), 48)
    return paint(points, 0, np.tile(row, 27)[None], False, None, style).astype(int)


def test_negative_values_are_cool_and_positive_ones_grey() -> None:
    picture = painted([-1.0, 0.5])
    red, _, blue = picture[0, 0]
    assert blue > red + 30
    assert len(set(picture[0, 1])) == 1


@pytest.mark.parametrize("odd", [np.nan, np.inf, -np.inf])
def test_what_is_no_finite_number_is_hatched_in_a_colour_of_its_own(odd: float) -> None:
    picture = painted(np.full(48, odd))
    tones = {tuple(tone) for tone in picture.reshape(-1, 3)}
    assert len(tones) == 2, "the two tones of a hatch"
    assert all(len(set(tone)) > 1 for tone in tones), "neither is grey"
    others = [
        painted(np.full(48, other)) for other in (np.nan, np.inf, -np.inf) if not np.array_equal(odd, other, True)
    ]
    assert all({tuple(tone) for tone in other.reshape(-1, 3)} != tones for other in others)


def test_false_colour_gets_ever_lighter() -> None:
    picture = painted(np.linspace(0, 1, 48), "false colour")[0] / 255
    light = np.where(picture <= 0.04045, picture / 12.92, ((picture + 0.055) / 1.055) ** 2.4)
    # Relative luminance of linear Rec.709 (ITU-R BT.709).
    assert (np.diff(light @ [0.2126, 0.7152, 0.0722]) > -1e-3).all()


def test_iso_lines_are_drawn_where_levels_are_crossed() -> None:
    picture = painted(np.linspace(0, 0.999, 48), "lines")
    amber = (picture[5] == [242, 178, 92]).all(axis=1)
    assert amber.sum() == 9, "ten levels have nine borders"


def test_a_handle_stands_where_its_locator_is_seen() -> None:
    document = shot(**(DOCUMENT | {"camera": {"position": [0, 0.2, 4], "target": [0, 0.2, 0], "focal_length": 36}}))
    (handle,) = locator_handles(document, make_view(document.camera, 160, 90))
    assert handle["at"] == pytest.approx([0.5 + 0.5 / 4, 0.5], abs=1e-5), (
        "half a metre aside, four metres away, 36/36 mm"
    )
    assert handle["axes"]["x"] == pytest.approx([0.25, 0], abs=1e-3)
    assert handle["axes"]["y"] == pytest.approx([0, -0.25 * 16 / 9], abs=1e-3)
    assert len(handle["ring"]) == 64
    behind = shot(**(DOCUMENT | {"camera": {"position": [0, 0.2, -4], "target": [0, 0.2, -9]}}))
    assert locator_handles(behind, make_view(behind.camera, 160, 90)) == []


@pytest.fixture
def session(demo_folder: Path) -> tuple[Driven, list[dict[str, Any]]]:
    made = Driven(ShotFiles(root=demo_folder))
    sent = made.sent
    document = json.loads((demo_folder / "GH010.json").read_text())
    read_shot(document)
    made.change({"do": "document", "document": document, "revision": 7})
    made.change({"do": "view", "width": 160, "height": 90, "show": {"kind": "picture"}, "serial": 3})
    return made, sent


def advance(session: Driven, until: str, sent: list[dict[str, Any]]) -> dict[str, Any]:
    for _ in range(400):
        if any(head.get("stage") == until for head in sent):
            break
        session.advance(lambda: False)
    return next(head for head in reversed(sent) if head.get("stage") == until)


def test_an_edit_that_changes_no_light_keeps_the_film(session: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = session
    advance(made, "full", sent)
    film = made.picture.film
    made.change({"do": "preview", "patch": [{"op": "replace", "path": "/title", "value": "other"}], "serial": 4})
    sent.clear()
    head = advance(made, "full", sent)
    assert made.picture.film is film
    assert (head["serial"], head["revision"]) == (4, 7)
    made.change({"do": "preview", "patch": [{"op": "replace", "path": "/camera/exposure", "value": 3}]})
    sent.clear()
    advance(made, "full", sent)
    assert made.picture.film is film, "exposure is applied when the picture is shown"
    made.change({"do": "preview", "patch": [{"op": "replace", "path": "/environment/intensity", "value": 3}]})
    sent.clear()
    assert advance(made, "coarse", sent)["samples"] == 1
    assert made.picture.film is not film


def test_a_preview_is_never_kept_as_a_snapshot(session: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = session
    advance(made, "full", sent)
    assert made.snapshot() is not None
    made.change({"do": "preview", "patch": [{"op": "replace", "path": "/title", "value": "x"}]})
    assert made.snapshot() is None


def test_a_picture_stops_at_its_last_sample_and_tells_what_is_left(
    session: tuple[Driven, list[dict[str, Any]]],
) -> None:
    made, sent = session
    made.change({"do": "preview", "patch": [{"op": "add", "path": "/sampling", "value": {"samples": 3}}]})
    for _ in range(12):
        made.advance(lambda: False)
    assert made.idle
    left = [head["left"] for head in sent if head.get("stage") == "full"]
    assert left[0] > left[1] > left[-1] == 0
    assert [head["finished"] for head in sent if head.get("stage") == "full"] == [False, False, True]
    assert made.picture.film is not None
    assert made.picture.film.samples == 3


def test_a_picture_that_is_gone_back_to_remembers_what_it_took(
    session: tuple[Driven, list[dict[str, Any]]],
) -> None:
    made, sent = session
    sampling = {"op": "add", "path": "/sampling", "value": {"samples": 64}}
    other = {"op": "add", "path": "/looks/2/layers/0/on", "value": False}

    def last(*patch: dict[str, Any]) -> dict[str, Any]:
        made.change({"do": "preview", "patch": list(patch)})
        sent.clear()
        for _ in range(8):
            made.advance(lambda: False)
        return next(head for head in sent if head.get("stage") == "full")

    last(sampling)
    here = [head for head in sent if head.get("stage") == "full"][-1]
    assert last(sampling, other)["samples"] == 1
    back = last(sampling)
    assert back["samples"] >= here["samples"], "the picture of before is gone on with"
    assert back["seconds"] >= here["seconds"] > 0
    assert back["left"] > 0


def test_a_preempted_stage_is_done_later(session: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = session
    made.advance(lambda: True)
    assert not any(head["kind"] == "picture" for head in sent)
    assert not made.idle
    assert advance(made, "coarse", sent)


def test_a_moved_camera_is_handed_over_once(session: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = session
    made.change({"do": "camera", "move": "orbit", "across": 0.1, "down": 0.0, "end": True})
    made.advance(lambda: False)
    made.change({"do": "view", "width": 96, "height": 54, "show": {"kind": "picture"}})
    made.advance(lambda: False)
    assert sum(head["kind"] == "camera" for head in sent) == 1


def test_water_that_turns_opaque_hides_the_bed_from_masks(session: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = session
    below = {"look": "basin stone", "recipe": "/looks/0/layers/2/where"}
    made.change({"do": "view", "width": 96, "height": 54, "show": {"kind": "picture"}, "bench": below})

    def covered(patch: list[dict[str, Any]]) -> float:
        sent.clear()
        made.change({"do": "preview", "patch": patch})
        for _ in range(2):
            made.advance(lambda: False)
        return next(head for head in sent if head["kind"] == "bench")["steps"][-1]["covered"]

    assert covered([]) > 0.1
    assert covered([{"op": "add", "path": "/looks/2/layers/0/on", "value": False}]) < 0.05


def test_second_inputs_with_recipes_of_their_own_are_found_measured_and_shown() -> None:
    inner = {"steps": [step("noise"), step("mix", other={"steps": [step("height")]}, amount=0.5)]}
    where = recipe(step("height"), step("add", by=inner))
    document, points = seen(looks=[look("ground", layer("a", where, base_weight=value(0.5)))])
    address = "/looks/0/layers/0/where/steps/1/params/by"
    found, path = find_recipe(document, address)
    assert found is not None
    assert [each.op for each in found.steps] == ["noise", "mix"]
    assert path == ("looks", 0, "layers", 0, "where", "steps", 1, "params", "by")
    deeper, _ = find_recipe(document, f"{address}/steps/1/params/other")
    assert deeper is not None
    assert deeper.steps[0].op == "height"
    assert len(step_measures(points, 0, recipe_plan(document, found, path))) == 2
    plan, kind = signal_plan(document, StageTarget(kind="step", look="ground", recipe=address, step=0))
    assert kind == "number"
    assert points.batch(0).values(plan)["value"].std() > 0.01
    for wrong in ("/steps/7/params/other", "/steps/1/params/amount", "/x/y"):
        with pytest.raises(DocumentError, match="no recipe"):
            find_recipe(document, address + wrong)


def test_a_space_step_is_shown_as_the_grid_it_bends() -> None:
    where = recipe(step("twirl", angle=90), step("noise"))
    document, points = seen(looks=[look("ground", layer("a", where, base_weight=value(0.5)))])
    address = "/looks/0/layers/0/where"
    plan, kind = signal_plan(document, StageTarget(kind="step", look="ground", recipe=address, step=0))
    assert kind == "warp"
    bent = grid_picture(points, 0, points.batch(0).values(plan)["value"])
    flat, _ = seen(looks=[look("ground", layer("a", recipe(step("move"), step("noise")), base_weight=value(0.5)))])
    straight_plan, _ = signal_plan(flat, StageTarget(kind="step", look="ground", recipe=address, step=0))
    straight = grid_picture(points, 0, points.batch(0).values(straight_plan)["value"])
    assert bent.shape == straight.shape == (27, 48, 3)
    assert (bent != straight).mean() > 0.1
    measured = step_measures(
        points, 0, recipe_plan(document, document.looks[0].layers[0].where, ("looks", 0, "layers", 0, "where"))
    )
    assert measured[0]["values"] is None
    assert measured[1]["incoming"] is None, "nothing comes into a source"


def test_statistics_tell_the_odd_ones_apart() -> None:
    from texallon.core.signal.statistics import statistics

    found = statistics(np.float32([[-1, -0.5, 0, 2, np.nan, np.inf, -np.inf, np.nan]]))
    assert (found.count, found.negative, found.nan, found.not_finite) == (4, 2, 2, 4)
    assert (found.low, found.high) == (-1, 2)
    assert sum(found.counts) == 4
    nothing = statistics(np.float32([[np.nan]]))
    assert (nothing.count, nothing.nan) == (0, 1)


def test_percentiles_leave_the_tails_out() -> None:
    from texallon.core.signal.statistics import statistics

    values = np.random.default_rng(0).normal(size=(1, 100_000)).astype(np.float32)
    found = statistics(values)
    # Normal distribution: the 2nd and 98th percentiles lie at ∓2.0537 standard deviations.
    assert (found.inner_low, found.inner_high) == pytest.approx((-2.0537, 2.0537), abs=0.03)


@pytest.mark.parametrize(
    "odd", [{"exposure": "x"}, {"gamma": float("nan")}, {"exposure": 99}, {"region": [0.5, 0, 0.5, 1]}]
)
def test_an_unclear_way_of_looking_is_refused(odd: Any) -> None:
    with pytest.raises(ValidationError):
        DisplaySettings.model_validate(odd)


def test_a_view_of_no_name_is_the_plain_one() -> None:
    assert is_plain(DisplaySettings(view="cake")) and not is_plain(DisplaySettings(view="Raw"))


def test_looking_otherwise_keeps_the_film_and_tells_the_light(session: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = session
    advance(made, "full", sent)
    film = made.picture.film
    sent.clear()
    made.change({"do": "view", "width": 160, "height": 90, "viewing": {"exposure": 2.0, "view": "Raw"}})
    made.change({"do": "read", "across": 0.5, "down": 0.62})
    advance(made, "full", sent)
    for _ in range(2):
        made.advance(lambda: False)
    assert made.picture.film is film
    reading = next(head["reading"] for head in sent if head["kind"] == "reading")
    height, width = film.height, film.width
    light = film.denoised()[int(reading["at"][1] * height), int(reading["at"][0] * width)]
    assert reading["light"] == pytest.approx([float(x) for x in light], rel=0.05, abs=0.01)


GROUPS = [
    {"op": "add", "path": "/light_groups", "value": [{"name": "lantern"}]},
    {"op": "add", "path": "/lights/0/group", "value": "lantern"},
]


def test_light_groups_are_weighed_anew_without_rendering(session: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = session
    made.change({"do": "preview", "patch": GROUPS})
    advance(made, "full", sent)
    film = made.picture.film
    assert film is not None and film.groups == 2
    before = film.samples
    sent.clear()
    dimmed = {"op": "add", "path": "/light_groups/0/intensity", "value": 0.0}
    made.change({"do": "preview", "patch": [*GROUPS, dimmed], "serial": 9})
    made.advance(lambda: False)  # one stage is enough
    assert sent[0]["stage"] == "full" and sent[0]["serial"] == 9
    assert made.picture.film is film and film.samples == before
    for _ in range(3):  # when the hand rests, groups are smoothed one by one
        made.advance(lambda: False)
    assert made.light is not None and film.samples == before
    assert made.light.mean() == pytest.approx(film.group(0).mean(), rel=0.1)
    back = {"op": "add", "path": "/light_groups/0/intensity", "value": 2.0}
    made.change({"do": "preview", "patch": [*GROUPS, back], "serial": 10})
    made.advance(lambda: False)
    double = film.group(0).mean() + 2 * film.group(1).mean()
    assert made.light.mean() == pytest.approx(double, rel=0.1)


def test_only_a_region_is_refined_and_the_rest_stays_rough(session: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = session
    view = {"do": "view", "width": 160, "height": 90, "show": {"kind": "picture"}}
    made.change({**view, "viewing": {"region": [0.25, 0.25, 0.75, 0.75]}})
    advance(made, "full", sent)
    film = made.picture.film
    assert film is not None
    assert film.sampled().mean() == pytest.approx(0.25, abs=0.02)
    shown = made.light
    assert shown is not None and shown[:5].mean() > 0, "outside, the rough picture"
    made.change(view)
    sent.clear()
    advance(made, "full", sent)
    assert made.picture.film is not film and made.picture.film.sampled().all()


def test_refining_rests_while_paused_and_goes_on(session: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = session
    view = {"do": "view", "width": 160, "height": 90, "show": {"kind": "picture"}}
    advance(made, "full", sent)
    made.change({**view, "viewing": {"paused": True}})
    for _ in range(8):
        made.advance(lambda: False)
    assert made.idle
    film = made.picture.film
    samples = film.samples
    made.change({**view, "viewing": {"paused": False}})
    for _ in range(8):
        made.advance(lambda: False)
    assert made.picture.film is film and film.samples > samples


def test_a_noise_threshold_ends_the_picture_sooner(session: tuple[Driven, list[dict[str, Any]]]) -> None:
    made, sent = session
    made.change({"do": "preview", "patch": [{"op": "add", "path": "/sampling", "value": {"noise": 0.9}}]})
    for _ in range(60):
        made.advance(lambda: False)
    assert made.idle
    assert made.picture.film.done and made.picture.film.samples == 16
    assert sent[-1]["left"] == 0.0 or any(head.get("finished") for head in sent)


@pytest.mark.parametrize("shape", ["rectangle", "spot", "sphere"])
def test_a_lamps_handles_are_where_the_camera_sees_them(shape: str) -> None:
    lamp = {"name": "l", "id": "l", "shape": shape, "position": [0.4, 1.0, 0.2], "target": [0.1, 0.0, -0.3]}
    made = shot(lights=[lamp], camera={"position": [0, 1, 4], "target": [0, 0.4, 0]})
    view = make_view(made.camera, 320, 180)
    found = gizmo(made, "/lights/l", view)
    assert found is not None and found["target"] is not None
    for spot, place in ((found, [0.4, 1.0, 0.2]), (found["target"], [0.1, 0.0, -0.3])):
        x, y, _ = view.project(np.array(place, np.float32))
        assert spot["at"] == pytest.approx([x, y], abs=1e-5)
    turn = np.array(found["turn"]).reshape(3, 3)
    assert turn.T @ turn == pytest.approx(np.eye(3), abs=1e-5)
    way = np.array([0.1, 0.0, -0.3]) - [0.4, 1.0, 0.2]
    assert abs(turn[:, 2] @ way) == pytest.approx(np.linalg.norm(way), rel=1e-5)
    Gizmo.model_validate(found)


def test_a_hand_that_moves_faster_than_pictures_are_made_sees_them(
    session: tuple[Driven, list[dict[str, Any]]],
) -> None:
    made, sent = session
    advance(made, "coarse", sent)
    sent.clear()
    moves = iter(range(1, 10_000))

    def moved_on() -> bool:
        at = next(moves)
        made.change(
            {"do": "camera", "move": "orbit", "across": at / 1000, "down": 0.0, "end": False, "serial": 10 + at}
        )
        return False

    moved_on()
    for _ in range(6):
        made.advance(moved_on)
    seen = [head["serial"] for head in sent if head["kind"] == "picture"]
    assert len(seen) >= 3, "each is finished, though a newer state is there"
    assert seen == sorted(set(seen)), "and says which state it shows"
    assert seen[-1] < 10 + next(moves)


def test_a_document_that_comes_meanwhile_ends_the_picture_of_a_hand(
    session: tuple[Driven, list[dict[str, Any]]],
) -> None:
    made, sent = session
    advance(made, "coarse", sent)
    sent.clear()
    document = made.window.document
    made.change({"do": "camera", "move": "orbit", "across": 0.1, "down": 0.0, "end": False})

    def saved() -> bool:
        made.new_document(document, 8)
        return False

    made.advance(saved)
    assert not any(head["kind"] == "picture" for head in sent)
