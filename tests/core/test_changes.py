"""What changed between two states of a shot, in words."""

import json
from pathlib import Path
from typing import Any

import pytest

from tests.core.test_growth import document as remembering
from texallon.core.document import apply_patch, read_shot, shot_json
from texallon.core.document.changes import MOST, changes

WET = "/looks/0/layers/1"


@pytest.fixture(scope="module")
def document(demo_folder: Path) -> Any:
    return shot_json(read_shot(json.loads((demo_folder / "GH010.json").read_text())))


@pytest.mark.parametrize(
    ("patch", "line"),
    [
        ([("replace", f"{WET}/where/steps/1/params/from_start", 0.5)], "basin stone · wet · where · remap · from start 0.35 → 0.5"),
        ([("replace", f"{WET}/channels/wetness/recipe/steps/0/params/value", 0.2)], "basin stone · wet · wetness 1 → 0.2"),
        ([("replace", f"{WET}/on", False)], "basin stone · wet · on on → off"),
        ([("add", f"{WET}/channels/specular_roughness", {"recipe": {"steps": [{"op": "constant"}]}})], "basin stone · wet · roughness added"),
        ([("remove", f"{WET}/channels/wetness", None)], "basin stone · wet · wetness taken away"),
        ([("add", "/looks/0/layers/-", {"name": "moss"})], "basin stone · moss added"),
        ([("replace", "/camera/exposure", 3)], "camera · exposure 2.1 → 3"),
        ([("replace", "/lights/0/colour", [1, 1, 1])], "lantern · colour 1 0.52 0.2 → 1 1 1"),
        ([("add", f"{WET}/where/steps/3", {"op": "invert"})], "basin stone · wet · where steps: height, remap, multiply → height, remap, multiply, invert"),
        ([("replace", f"{WET}/where/steps/0/params/origin", "world")], "basin stone · wet · where · height · origin waterline → world"),
    ],
)  # fmt: skip
def test_each_change_is_one_line(document: Any, patch: list[tuple[str, str, Any]], line: str) -> None:
    operations = [{"op": op, "path": path, "value": value} for op, path, value in patch]
    assert changes(document, apply_patch(document, operations)) == [line]


def test_layers_in_another_order_are_told(document: Any) -> None:
    moved = apply_patch(document, [{"op": "move", "from": f"{WET}", "path": "/looks/0/layers/0"}])
    assert changes(document, moved) == ["basin stone reordered"]


def test_nothing_changed_is_nothing(document: Any) -> None:
    assert changes(document, json.loads(json.dumps(document))) == []


def test_very_many_changes_are_counted(document: Any) -> None:
    other = json.loads(json.dumps(document).replace("0.", "7."))
    lines = changes(document, other)
    assert len(lines) <= MOST + 1


def test_keys_are_told_by_the_number_that_has_them() -> None:
    bare = {"lights": [{"id": "ab", "name": "lantern", "power": 2.0}], "tracks": []}
    track = {"id": "t", "at": "/lights/ab/power", "keys": [{"id": "k", "frame": 1, "value": 2.0}]}
    keyed = {**bare, "tracks": [track]}
    moved = {**bare, "tracks": [{**track, "keys": [{"id": "k", "frame": 9, "value": 2.0}]}]}
    assert changes(bare, keyed) == ["lantern · power has keys"]
    assert changes(keyed, moved) == ["keys of lantern · power"]
    assert changes(moved, bare) == ["lantern · power has no keys any more"]
    assert changes(keyed, keyed) == []


def test_what_a_thing_remembers_and_formulas_are_told_in_words() -> None:
    made = remembering()
    none = {**made, "objects": [{**made["objects"][0], "remembers": []}]}
    assert changes(none, made) == ["pond · remembers · frost added"]
    assert changes(made, none) == ["pond · remembers · frost taken away"]
    assert changes(made, remembering({"speed": 0.5})) == ["pond · remembers · frost · speed 0.2 → 0.5"]
    track = {key: made["tracks"][0][key] for key in ("id", "at")}
    swung = {**made, "tracks": [{**track, "formula": "sin(time)"}]}
    still = {**made, "tracks": []}
    assert changes(made, swung) == ["a formula of finger · position · 0: sin(time)"]
    assert changes(still, swung) == ["finger · position · 0 has a formula"]
    assert changes(swung, still) == ["finger · position · 0 has no formula any more"]
