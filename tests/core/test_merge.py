"""Two changes put together: nothing of either is lost, and what can't be had both is told."""

import copy
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from texallon.core.document.ids import NOTHING
from texallon.core.document.merge import merge

NAMES = st.sampled_from(["a", "b", "c", "d", "e", "f"])
LEAVES = st.one_of(st.booleans(), st.integers(0, 3), st.lists(st.integers(0, 2), max_size=2), st.none())


def members(inner: st.SearchStrategy[Any]) -> st.SearchStrategy[Any]:
    return st.lists(
        st.builds(lambda name, value: {"id": name, "value": value}, NAMES, inner),
        max_size=5,
        unique_by=lambda each: each["id"],
    )


DOCUMENTS = st.fixed_dictionaries(
    {"title": LEAVES, "layers": members(st.one_of(LEAVES, st.fixed_dictionaries({"steps": members(LEAVES)})))},
    optional={"extra": LEAVES, "more": st.fixed_dictionaries({}, optional={"x": LEAVES, "y": LEAVES})},
)


@given(DOCUMENTS, DOCUMENTS)
def test_one_change_alone_is_taken_whole(base: Any, changed: Any) -> None:
    before = copy.deepcopy((base, changed))
    for mine, theirs in ((changed, base), (base, changed), (changed, changed)):
        merged = merge(base, mine, theirs)
        assert merged.document == changed
        assert merged.conflicts == ()
    assert (base, changed) == before, "nothing given is changed"


@given(DOCUMENTS, DOCUMENTS, DOCUMENTS)
def test_whose_value_stands_is_chosen_and_both_are_told(base: Any, mine: Any, theirs: Any) -> None:
    one, other = merge(base, mine, theirs), merge(base, theirs, mine)
    assert {each.pointer for each in one.conflicts} == {each.pointer for each in other.conflicts}
    swapped = {each.pointer: (each.theirs, each.mine) for each in other.conflicts}
    assert {each.pointer: (each.mine, each.theirs) for each in one.conflicts} == swapped


def leaves(value: Any, path: tuple[str, ...] = ()) -> dict[tuple[str, ...], Any]:
    """All values by their names and ids: another way of looking at a document than the merge has."""
    if isinstance(value, dict):
        inner = {key: each for key, each in value.items() if key != "id"}
        return {(): {}} | {k: v for key, each in inner.items() for k, v in leaves(each, (*path, key)).items()}
    if isinstance(value, list) and all(isinstance(each, dict) for each in value):
        return {k: v for each in value for k, v in leaves(each, (*path, each["id"])).items()}
    return {path: value}


@given(DOCUMENTS, DOCUMENTS, DOCUMENTS)
def test_without_a_conflict_every_value_is_of_a_side_that_changed_it(base: Any, mine: Any, theirs: Any) -> None:
    merged = merge(base, mine, theirs)
    if merged.conflicts:
        return
    old, ours, other, made = map(leaves, (base, mine, theirs, merged.document))
    for path in {*old, *ours, *other}:  # two things added under one id get another each
        was, here, there, now = (each.get(path, NOTHING) for each in (old, ours, other, made))
        if here == was:
            assert now == there or path not in made
        elif there == was:
            assert now == here or path not in made


BASE = {
    "looks": [
        {
            "id": "k",
            "layers": [
                {"id": "wet", "name": "wet", "channels": {"roughness": {"steps": [{"id": "s", "value": 0.5}]}}},
                {"id": "dry", "name": "dry", "channels": {}},
            ],
        }
    ],
    "camera": {"fov": 40, "position": [0, 0, 5]},
}


def changed(change: Any) -> Any:
    made = copy.deepcopy(BASE)
    change(made)
    return made


def roughness(document: Any, value: float) -> None:
    document["looks"][0]["layers"][0]["channels"]["roughness"]["steps"][0]["value"] = value


def test_a_layer_put_in_front_does_not_lead_a_change_to_another_layer() -> None:
    # Seen: a queued change went to the layer that stood at its place then.
    theirs = changed(lambda made: made["looks"][0]["layers"].insert(0, {"id": "new", "name": "new", "channels": {}}))
    mine = changed(lambda made: roughness(made, 0.2))
    made = merge(BASE, mine, theirs)
    assert made.conflicts == ()
    assert [layer["id"] for layer in made.document["looks"][0]["layers"]] == ["new", "wet", "dry"]
    assert made.document["looks"][0]["layers"][1] == mine["looks"][0]["layers"][0]


def test_the_same_number_changed_by_both_is_a_conflict_with_both_values() -> None:
    mine, theirs = changed(lambda made: roughness(made, 0.2)), changed(lambda made: roughness(made, 0.9))
    (conflict,) = merge(BASE, mine, theirs).conflicts
    assert conflict.pointer == "/looks/k/layers/wet/channels/roughness/steps/s/value"
    assert (conflict.was, conflict.mine, conflict.theirs) == (0.5, 0.2, 0.9)
    assert merge(BASE, mine, theirs).document == theirs
    assert merge(BASE, mine, theirs, prefer_mine=True).document == mine


def test_what_one_takes_away_and_the_other_changes_is_a_conflict() -> None:
    mine, theirs = changed(lambda made: made["looks"][0]["layers"].pop(0)), changed(lambda made: roughness(made, 0.9))
    (conflict,) = merge(BASE, mine, theirs).conflicts
    assert conflict.pointer == "/looks/k/layers/wet"
    assert conflict.mine is NOTHING


def test_a_vector_is_one_value() -> None:
    mine = changed(lambda made: made["camera"].update(position=[1, 0, 5]))
    theirs = changed(lambda made: made["camera"].update(position=[0, 0, 6], fov=50))
    (conflict,) = merge(BASE, mine, theirs).conflicts
    assert conflict.pointer == "/camera/position"
    assert merge(BASE, mine, theirs, prefer_mine=True).document["camera"] == {"fov": 50, "position": [1, 0, 5]}


def test_what_both_add_under_one_id_is_two_things() -> None:
    mine = changed(lambda made: made["looks"][0]["layers"].append({"id": "n", "name": "moss", "channels": {}}))
    theirs = changed(lambda made: made["looks"][0]["layers"].append({"id": "n", "name": "frost", "channels": {}}))
    made = merge(BASE, mine, theirs)
    assert made.conflicts == ()
    layers = made.document["looks"][0]["layers"]
    assert [layer["name"] for layer in layers] == ["wet", "dry", "frost", "moss"] or [
        layer["name"] for layer in layers
    ] == ["wet", "dry", "moss", "frost"]
    assert len({layer["id"] for layer in layers}) == 4


def test_two_orders_of_one_list_are_a_conflict_and_one_is_not() -> None:
    three = {"layers": [{"id": name} for name in "abc"]}
    mine, theirs = ({"layers": [{"id": name} for name in order]} for order in ("bac", "acb"))
    assert [each.pointer for each in merge(three, mine, theirs).conflicts] == ["/layers"]
    grown = {"layers": [{"id": name} for name in "abcd"]}
    assert [each["id"] for each in merge(three, mine, grown).document["layers"]] == ["b", "a", "c", "d"]
