"""Looks on the shelf: with all that they are made from, taken by another shot they make the same of every point."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, document, layer, look, recipe, square, step, value
from texallon.core.document import DocumentError, read_shot, shot_json
from texallon.core.document.patching import apply_patch
from texallon.core.document.resolved import resolve
from texallon.core.document.shelf_item import ShelfItem, gathered, taken
from texallon.core.render.graph import FrameGraph
from texallon.core.signal import sharing
from texallon.core.signal.check_recipes import check_shot
from texallon.core.signal.placement import Places, written_out
from texallon.core.signal.run import evaluate, fill_missing

PLACE = {"position": [1.0, 2.0, 3.0], "rotation": [0.0, 90.0, 0.0]}


def made(**members: Any) -> dict[str, Any]:
    return shot_json(read_shot(document(**members)))


def whole(space: Any = "world") -> dict[str, Any]:
    """A look that carries another, uses signals that use signals, a number of its own and one of the shot, a locator and an object."""
    return made(
        signals=[
            {"name": "fine", "recipe": recipe(step("noise", size={"number": "grain"}, seed=4))},
            {"name": "rough", "recipe": recipe(step("noise", size=0.3), step("add", by={"signal": "fine"}))},
            {"name": "unused", "recipe": recipe(step("noise"))},
        ],
        numbers=[
            {"name": "grain", "value": 0.05},
            {"name": "height", "value": 0.4, "look": "wet"},
            {"name": "other", "value": 1.0},
        ],
        locators=[{"name": "line", "position": [0, 0.2, 0], "aims_at": "far"}, {"name": "far"}],
        objects=[{"name": "post", "geometry": {"file": "floor"}, "look": "wet", **PLACE}],
        looks=[
            look("film", layer("f", wetness={"recipe": recipe(step("formula", expression='signal("rough") * 2'))})),
            look(
                "wet",
                layer("base", base_color={"recipe": recipe(step("noise", size={"number": "height"}, space=space))}),
                {"name": "over", "where": recipe(step("height", origin={"locator": "line"})), "look": {"look": "film"}},
            ),
        ],
    )  # fmt: skip


def gather(shot: dict[str, Any], name: str = "wet") -> ShelfItem:
    places = Places(resolve(read_shot(shot)))

    def place(kind: str, own: str) -> dict[str, Any]:
        return dict(written_out(places.locator(own) if kind == "locator" else places.object(own)))

    return gathered(shot, name, ["wet"], "a note", sharing.signals_used, place)


def plan_key(of: dict[str, Any], name: str) -> str:
    return (
        FrameGraph(resolve(read_shot(of)), MadeFiles(floor=square()))
        .plan([each["name"] for each in of["looks"]].index(name))
        .content_key
    )


def test_all_that_a_look_is_made_from_goes_along_and_nothing_else() -> None:
    item = gather(whole({"object": "post"}))
    assert [each.name for each in item.looks] == ["wet", "film"]
    assert {each.name for each in item.signals} == {"rough", "fine"}
    assert {each.name for each in item.numbers} == {"grain", "height"}
    assert {each.name for each in item.locators} == {"line", "post"}
    assert next(each for each in item.locators if each.name == "line").aims_at is None
    assert (item.tags, item.note) == (["wet"], "a note")
    with pytest.raises(DocumentError, match="there is no look"):
        gather(whole(), "dry")


def colours(document: dict[str, Any], wanted: str) -> np.ndarray:
    """What a look makes of some points: colour and wetness, `(4, n)`."""
    graph = FrameGraph(resolve(read_shot(document)), MadeFiles(floor=square()))
    plan = graph.plan([each["name"] for each in document["looks"]].index(wanted)).subplan(["base_color", "wetness"])
    rng = np.random.default_rng(1)
    data = {"position": rng.uniform(-1, 1, (3, 50)).astype(np.float32), "footprint": np.zeros((1, 50), np.float32)}
    made = evaluate(plan, plan.points(50, fill_missing(plan.required_data, data, 50)))
    return np.concatenate([made["base_color"], made["wetness"]])


def close(after: dict[str, Any], name: str, source: dict[str, Any]) -> bool:
    return bool(np.allclose(colours(after, name), colours(source, "wet"), atol=1e-5))


def test_another_shot_takes_it_whatever_names_are_in_use() -> None:
    source = whole()
    item = gather(source)
    empty = made()
    full = made(
        signals=[
            {"name": "fine", "recipe": recipe(step("noise", size=9.0))},
            {"name": "rough", "recipe": recipe(step("height"))},
        ],
        numbers=[{"name": "grain", "value": 77.0}, {"name": "height", "value": 5.0, "look": "wet"}],
        looks=[look("wet", layer("l", base_color=value([1, 0, 0]))), look("film", layer("l"))],
    )
    for taking, wanted in ((empty, "wet"), (full, "wet 2")):
        name, patch = taken(taking, item, sharing.rename, None)
        assert name == wanted
        after = shot_json(read_shot(apply_patch(taking, patch)))
        assert check_shot(read_shot(after)) == []
        assert close(after, name, source)
        for untouched in taking["looks"]:
            assert plan_key(after, untouched["name"]) == plan_key(taking, untouched["name"])


def test_a_locator_stands_in_for_an_object_that_it_measures_from() -> None:
    source = whole({"object": "post"})
    shot = made()
    name, patch = taken(shot, gather(source), sharing.rename, None)
    after = shot_json(read_shot(apply_patch(shot, patch)))
    assert close(after, name, source)


def test_what_is_there_already_with_the_same_content_is_used() -> None:
    source = whole()
    _, patch = taken(source, gather(source), sharing.rename, None)
    added = [each["path"] for each in patch]
    assert "/signals/-" not in added and added.count("/looks/-") == 1


def test_a_linked_look_takes_the_newer_version_and_keeps_its_name_and_wearers() -> None:
    item = gather(whole())
    shot = made(
        looks=[look("plain", layer("l"))], objects=[{"name": "o", "geometry": {"file": "floor"}, "look": "plain"}]
    )
    name, patch = taken(shot, item, sharing.rename, {"name": "wet", "version": 1})
    shot = shot_json(read_shot(apply_patch(shot, patch)))
    index = [each["name"] for each in shot["looks"]].index(name)
    assert shot["looks"][index]["shelf"] == {"name": "wet", "version": 1}
    shot["looks"][index]["name"] = "puddle"
    knob = next(each for each in shot["numbers"] if each["name"] == "height")
    knob["look"], knob["value"] = "puddle", 0.9
    shot["objects"][0]["look"] = "puddle"
    newer = whole()
    newer["looks"][1]["layers"][0]["opacity"] = 0.5
    _, patch = taken(shot, gather(newer), sharing.rename, {"name": "wet", "version": 2}, "puddle")
    after = shot_json(read_shot(apply_patch(shot, patch)))
    assert after["looks"][index]["name"] == "puddle" and after["objects"][0]["look"] == "puddle"
    assert after["looks"][index]["shelf"]["version"] == 2
    assert after["looks"][index]["layers"][0]["opacity"] == 0.5
    assert [each["value"] for each in after["numbers"] if each["look"] == "puddle"] == [0.9]
    assert check_shot(read_shot(after)) == []
    with pytest.raises(DocumentError, match="there is no look"):
        taken(shot, item, sharing.rename, None, "nowhere")
