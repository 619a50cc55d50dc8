"""Stable ids: made the same for the same document, kept by edits, and what patches and addresses go by."""

import json
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import document, layer, look, recipe, step, value
from texallon.core.document import SCHEMA, DocumentError, apply_patch, read_shot, shot_json
from texallon.core.document.changes import changes
from texallon.core.document.ids import by_id, by_position, complete_ids, without_ids
from texallon.core.document.reading import migrate

OLD: dict[str, Any] = document(
    signals=[{"name": "damp", "recipe": recipe(step("height"), step("add", by=recipe(step("noise"))))}],
    objects=[{"name": "a", "geometry": {"file": "a"}, "look": "l", "parts": [{"name": "p", "look": "l"}]}],
    lights=[{"name": "k"}],
    locators=[{"name": "m"}],
    looks=[look("l", layer("one", recipe(step("noise")), base_weight=value(0.5)), layer("two"), layer("three"))],
)


def identified(value: Any) -> list[str]:
    if isinstance(value, dict):
        own = [value["id"]] if "id" in value else []
        return own + [each for part in value.values() for each in identified(part)]
    return [each for part in value for each in identified(part)] if isinstance(value, list) else []


def test_an_older_document_opens_and_means_the_same() -> None:
    assert OLD["schema"] == 1
    new = shot_json(read_shot(OLD))
    assert new["schema"] == SCHEMA == 2
    assert without_ids(json.loads(json.dumps(new["looks"][0]["layers"][0]["where"]))) == without_ids(
        shot_json(read_shot({**OLD, "schema": 2}))["looks"][0]["layers"][0]["where"]
    )
    assert len(identified(new)) == 14, "every member of every list, the steps of a second input's own recipe too"
    assert all(identified(new))


def test_the_same_document_always_gets_the_same_ids() -> None:
    assert migrate(OLD) == migrate(json.loads(json.dumps(OLD)))
    assert migrate(migrate(OLD)) == migrate(OLD)
    assert "id" not in OLD["looks"][0], "the original is left as it was"


def test_a_copy_gets_an_id_of_its_own() -> None:
    made = migrate(OLD)
    layers = made["looks"][0]["layers"]
    copied = {**layers[0], "name": "one again"}
    again = migrate(apply_patch(made, [{"op": "add", "path": "/looks/0/layers/1", "value": copied}]))
    ids = [each["id"] for each in again["looks"][0]["layers"]]
    assert len(set(ids)) == 4
    assert [ids[0], *ids[2:]] == [each["id"] for each in layers], "the others keep theirs"


def test_an_edit_means_what_it_names_whatever_was_put_before_it() -> None:
    # Once an edit that waited in line deleted the wrong layer: another window had inserted one before it.
    made = migrate(OLD)
    middle = by_id(made, ("looks", 0, "layers", 1))
    elsewhere = migrate(apply_patch(made, [{"op": "add", "path": "/looks/0/layers/0", "value": layer("new")}]))
    after = apply_patch(elsewhere, [{"op": "remove", "path": middle}])
    assert [each["name"] for each in after["looks"][0]["layers"]] == ["new", "one", "three"]


def test_what_is_gone_is_said_to_be_gone() -> None:
    made = migrate(OLD)
    middle = by_id(made, ("looks", 0, "layers", 1))
    after = apply_patch(made, [{"op": "remove", "path": middle}])
    with pytest.raises(DocumentError, match="not there any more"):
        apply_patch(after, [{"op": "replace", "path": f"{middle}/opacity", "value": 0.5}])


def test_layers_are_moved_and_inserted_by_id() -> None:
    made = migrate(OLD)
    one, two, three = (each["id"] for each in made["looks"][0]["layers"])
    at = f"/looks/{made['looks'][0]['id']}/layers"
    moved = apply_patch(made, [{"op": "move", "from": f"{at}/{three}", "path": f"{at}/{one}"}])
    assert [each["name"] for each in moved["looks"][0]["layers"]] == ["three", "one", "two"], "before what it names"
    added = apply_patch(made, [{"op": "add", "path": f"{at}/{two}", "value": layer("x")}, {"op": "add", "path": f"{at}/-", "value": layer("y")}])  # fmt: skip
    assert [each["name"] for each in added["looks"][0]["layers"]] == ["one", "x", "two", "three", "y"]


PATHS = [
    ("looks", 0, "layers", 2, "opacity"), ("objects", 0, "parts", 0, "look"), ("camera", "position", 1), ("title",),
    ("signals", 0, "recipe", "steps", 1, "params", "by", "steps", 0, "op"),
]  # fmt: skip


@pytest.mark.parametrize("path", PATHS)
def test_a_pointer_by_ids_leads_where_its_positions_led(path: tuple[str | int, ...]) -> None:
    made = migrate(OLD)
    assert by_position(made, by_id(made, path)) == "".join(f"/{each}" for each in path)
    assert not any(each.isdigit() for each in by_id(made, path).split("/")) or path[0] == "camera"


@given(st.lists(st.sampled_from(["", "a", "b", "k3"]), max_size=6))
def test_siblings_never_share_an_id(given_ids: list[str]) -> None:
    members = [{"id": each, "name": "same"} for each in given_ids]
    found = [each["id"] for each in complete_ids({"lights": members})["lights"]]
    assert all(found) and len(set(found)) == len(found)
    assert [each for each in given_ids if each] == [] or found[
        given_ids.index(next(filter(None, given_ids)))
    ] in given_ids


@pytest.mark.parametrize("odd", ["A", "1a", "a-b", "a" * 40, "ä", 3, None])
def test_an_odd_id_is_refused_with_its_place(odd: Any) -> None:
    wrong = {**OLD, "schema": 2, "lights": [{"name": "k", "id": odd}]}
    with pytest.raises(DocumentError, match="/lights/0/id"):
        read_shot(wrong)


def test_changes_in_words_do_not_speak_of_ids() -> None:
    made = migrate(OLD)
    other = json.loads(json.dumps(made).replace(made["lights"][0]["id"], "zzz"))
    assert changes(made, other) == []


@given(st.data())
def test_missing_and_doubled_ids_are_found_wherever_they_are(chosen: st.DataObject) -> None:
    whole = migrate(OLD)
    assert complete_ids(whole) is whole, "nothing is missing"
    holders = [each for each in _members_of(whole) if "id" in each]
    made = json.loads(json.dumps(whole))
    at = chosen.draw(st.integers(0, len(holders) - 1))
    victim = [each for each in _members_of(made) if "id" in each][at]
    siblings = next(
        (each for each in _lists_of(made) if any(other is victim for other in each) and len(each) > 1), [victim]
    )
    other = chosen.draw(st.sampled_from(siblings))
    lost = chosen.draw(st.sampled_from(["gone", "empty"] if other is victim else ["gone", "empty", "doubled"]))
    if lost == "gone":
        del victim["id"]
    else:
        victim["id"] = "" if lost == "empty" else other["id"]
    again = complete_ids(made)
    assert again is not made
    assert complete_ids(again) is again
    assert without_ids(again) == without_ids(whole)
    assert len(identified(again)) == len(holders) and all(identified(again))
    for each in _lists_of(again):
        ids = [member["id"] for member in each if isinstance(member, dict) and "id" in member]
        assert len(set(ids)) == len(ids)


def _lists_of(value: Any) -> list[list[Any]]:
    inner = value.values() if isinstance(value, dict) else value if isinstance(value, list) else ()
    return ([value] if isinstance(value, list) else []) + [found for each in inner for found in _lists_of(each)]


def _members_of(value: Any) -> list[dict[str, Any]]:
    return [each for several in _lists_of(value) for each in several if isinstance(each, dict)]
