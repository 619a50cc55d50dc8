"""Two windows on one shot: what they change is put together, each takes back its own, and what both change is told."""

import random
import uuid
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest

from tests.conftest import World
from tests.store.test_shots import names_of, title, two_shots  # noqa: F401
from texallon.store.records import AskFirstError, ConflictError, NothingToDoError, Who

ANN, BEN = Who("windowofann", "Ann"), Who("windowofben", "Ben")


def layer_of(document: Any, name: str) -> Any:
    return next(layer for layer in document["looks"][0]["layers"] if layer["name"] == name)


def at(document: Any, name: str, rest: str) -> str:
    return f"/looks/{document['looks'][0]['id']}/layers/{layer_of(document, name)['id']}/{rest}"


def switch(document: Any, name: str, on: bool) -> list[dict[str, Any]]:
    return [{"op": "replace", "path": at(document, name, "on"), "value": on}]


def new_layer(document: Any, name: str) -> list[dict[str, Any]]:
    return [{"op": "add", "path": f"/looks/{document['looks'][0]['id']}/layers/0", "value": {"name": name}}]


def test_changes_to_different_things_are_both_had(world: World, fresh_shot: int) -> None:
    store = world.store
    begun = store.current(fresh_shot).document
    store.edit(fresh_shot, 1, new_layer(begun, "frost"), "a layer", ANN)
    merged = store.edit(fresh_shot, 1, switch(begun, "wet", False), "dry", BEN)
    assert merged.revision == 3
    assert layer_of(merged.document, "wet")["on"] is False
    assert merged.document["looks"][0]["layers"][0]["name"] == "frost"
    assert store.document(fresh_shot, 2)["looks"][0]["layers"][0]["name"] == "frost"


def test_a_change_to_the_same_is_refused_with_both_values_and_put_back_by_asking_again(
    world: World, fresh_shot: int
) -> None:
    store = world.store
    store.edit(fresh_shot, 1, title("Ann's"), "", ANN)
    with pytest.raises(ConflictError) as caught:
        store.edit(fresh_shot, 1, title("Ben's"), "", BEN)
    (conflict,) = caught.value.conflicts
    assert (conflict.pointer, conflict.was, conflict.mine, conflict.theirs) == (
        "/title",
        "basin at thaw",
        "Ben's",
        "Ann's",
    )
    assert store.current(fresh_shot).document["title"] == "Ann's"
    assert store.edit(fresh_shot, caught.value.current, title("Ben's"), "", BEN).document["title"] == "Ben's"


def test_changes_that_are_valid_alone_and_not_together_are_refused(world: World, fresh_shot: int) -> None:
    store = world.store
    begun = store.current(fresh_shot).document
    worn = begun["looks"][0]["name"]
    store.edit(
        fresh_shot,
        1,
        [{"op": "add", "path": "/looks/-", "value": {"name": "other", "layers": [{"name": "base"}]}}],
        "",
        ANN,
    )
    wear = [
        {"op": "replace", "path": f"/objects/{each['id']}/look", "value": "other"}
        for each in begun["objects"]
        if each["look"] == worn
    ]
    ready = store.edit(fresh_shot, 2, wear, "", ANN)
    store.edit(fresh_shot, ready.revision, [{"op": "remove", "path": f"/looks/{begun['looks'][0]['id']}"}], "", ANN)
    added = {"name": "copy", "geometry": begun["objects"][0]["geometry"], "look": worn}
    with pytest.raises(ConflictError) as caught:
        store.edit(fresh_shot, ready.revision, [{"op": "add", "path": "/objects/-", "value": added}], "", BEN)
    assert any(worn in each.reason for each in caught.value.problems)


def test_each_window_takes_back_its_own(world: World, fresh_shot: int) -> None:
    store = world.store
    begun = store.current(fresh_shot).document
    store.edit(fresh_shot, 1, switch(begun, "wet", False), "dry", ANN)
    store.edit(fresh_shot, 2, title("Ben's"), "the title", BEN)
    assert store.current(fresh_shot, ANN).undo_label == "dry"
    assert store.current(fresh_shot, BEN).undo_label == "the title"
    undone = store.undo(fresh_shot, ANN)
    assert layer_of(undone.document, "wet")["on"] is True
    assert undone.document["title"] == "Ben's"
    assert (undone.can_undo, undone.redo_label) == (False, "dry")
    redone = store.redo(fresh_shot, ANN)
    assert layer_of(redone.document, "wet")["on"] is False
    assert (redone.undo_label, redone.can_redo) == ("dry", False)
    with pytest.raises(NothingToDoError):
        store.undo(fresh_shot, Who("anotherwindow"))


def test_taking_back_what_another_has_changed_since_asks_first(world: World, fresh_shot: int) -> None:
    store = world.store
    store.edit(fresh_shot, 1, title("Ann's"), "", ANN)
    store.edit(fresh_shot, 2, title("Ben's"), "", BEN)
    with pytest.raises(AskFirstError) as caught:
        store.undo(fresh_shot, ANN)
    (conflict,) = caught.value.conflicts
    assert (conflict.mine, conflict.theirs) == ("basin at thaw", "Ben's")
    assert store.current(fresh_shot).document["title"] == "Ben's"
    assert store.undo(fresh_shot, ANN, anyway=True).document["title"] == "basin at thaw"


def test_back_and_forth_leads_through_every_state_of_ones_own(world: World, fresh_shot: int) -> None:
    store = world.store
    rng = random.Random(5)
    states = ["basin at thaw"]
    place = 0
    for number in range(60):
        do = rng.choice(["edit", "undo", "redo"])
        if do == "edit":
            states = [*states[: place + 1], f"state {number}"]
            place += 1
            current = store.edit(fresh_shot, store.current(fresh_shot).revision, title(states[place]), "", ANN)
        elif do == "undo" and place > 0:
            place -= 1
            current = store.undo(fresh_shot, ANN)
        elif do == "redo" and place < len(states) - 1:
            place += 1
            current = store.redo(fresh_shot, ANN)
        else:
            continue
        assert current.document["title"] == states[place]
        assert (current.can_undo, current.can_redo) == (place > 0, place < len(states) - 1)
        # Another window works on something else all the time.
        store.edit(
            fresh_shot,
            current.revision,
            [{"op": "replace", "path": "/camera/focal_length", "value": 30 + number / 10}],
            "",
            BEN,
        )


def test_no_confirmed_change_is_lost_when_many_write_at_once(world: World, fresh_shot: int) -> None:
    store = world.store
    begun = store.current(fresh_shot).document

    def write(number: int) -> None:
        store.edit(fresh_shot, 1, new_layer(begun, f"layer {number}"), "", Who(f"writer{number:04}"))

    with ThreadPoolExecutor(6) as pool:
        list(pool.map(write, range(18)))
    names = {layer["name"] for layer in store.current(fresh_shot).document["looks"][0]["layers"]}
    assert {f"layer {number}" for number in range(18)} <= names
    assert store.current(fresh_shot).revision == 19


def test_shots_of_a_project_always_hold_the_same_signals(world: World, two_shots: tuple[int, int]) -> None:  # noqa: F811
    # Seen: undoing a share by name left the project's shots with different lists, after which nothing could be shared.
    store = world.store
    third = store.add_shot(
        next(shot.project for shot in store.list_shots() if shot.id == two_shots[0]),
        store.current(two_shots[0]).document,
        "",
    )
    shots = [*two_shots, third]
    rng = random.Random(3)
    windows = [Who(f"window{uuid.uuid4().hex}") for _ in range(3)]
    made = 0
    for number in range(50):
        shot, who = rng.choice(shots), rng.choice(windows)
        current = store.current(shot, who)
        do = rng.choice(["share", "undo", "redo", "rename", "other"])
        if do == "share":
            recipe = {"steps": [{"op": "constant", "params": {"value": number / 100}}]}
            signal = {"name": f"shared {number}", "recipe": recipe}
            store.edit(shot, current.revision, [{"op": "add", "path": "/signals/-", "value": signal}], "share", who)
            made += 1
        elif do == "undo" and current.can_undo:
            store.undo(shot, who, anyway=True)
        elif do == "redo" and current.can_redo:
            store.redo(shot, who, anyway=True)
        elif do == "rename" and made:
            name = next((each for each in names_of(world, shot) if each.startswith("shared")), None)
            if name:
                store.rename_signal(shot, name, f"shared again {number}", who)
        elif do == "other":
            store.edit(shot, current.revision, title(f"{number}"), "", who)
        lists = {tuple(names_of(world, each)) for each in shots}
        assert len(lists) == 1, f"after {do}, step {number}"
    assert made > 3
