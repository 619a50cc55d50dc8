"""Addresses mean the recipe that they named, whatever is edited around it; anything else is refused, never guessed."""

import json
from copy import deepcopy
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.builders import document, layer, look, recipe, step, value
from texallon.core.document import DocumentError, read_shot, shot_json
from texallon.core.document.ids import by_id
from texallon.core.document.recipe_address import find_recipe, recipe_label
from texallon.core.signal.sharing import recipes

MADE = shot_json(
    read_shot(
        document(
            looks=[
                look(
                    "a",
                    layer("low", base_weight=value(0.5)),
                    layer("wet", recipe(step("height")), coat_weight=value(1)),
                ),
                look("b", layer("wet", recipe(step("noise"), step("add", by=recipe(step("rings")))))),
            ],
            signals=[{"name": "s~1", "recipe": recipe(step("stripes"))}],
        )
    )
)


def addresses(data: dict[str, Any]) -> dict[str, Any]:
    """Every recipe by its address."""
    return {by_id(data, path): found for _, path, found in recipes(data)}


def test_every_recipe_of_the_demo_is_found_by_its_address(demo_folder: Path) -> None:
    count = 0
    for file in sorted(demo_folder.glob("GH*.json")):
        shot = read_shot(json.loads(file.read_text()))
        for address, wanted in addresses(shot_json(shot)).items():
            found, path = find_recipe(shot, address)
            assert found is not None
            assert found.model_dump(mode="json") == wanted, address
            assert recipe_label(shot, path)
            count += 1
    assert count > 100


@pytest.mark.parametrize("kind", ["inserted", "moved", "renamed", "taken away"])
def test_an_address_outlives_edits_of_what_lies_around(kind: str) -> None:
    data = deepcopy(MADE)
    before = addresses(data)
    layers = data["looks"][0]["layers"]
    if kind == "inserted":
        layers.insert(0, {"name": "new", "channels": {}})
    elif kind == "moved":
        layers.reverse()
        data["looks"].reverse()
    elif kind == "renamed":
        for each in (*layers, *data["looks"], *data["signals"]):
            each["name"] += " 2"
    else:
        layers.pop(0)
    shot = read_shot(data)
    for address, wanted in before.items():
        if kind == "taken away" and MADE["looks"][0]["layers"][0]["id"] in address:
            with pytest.raises(DocumentError):
                find_recipe(shot, address)
        else:
            found, _ = find_recipe(shot, address)
            assert found is not None
            assert found.model_dump(mode="json") == wanted


def test_people_are_told_what_they_call_it() -> None:
    said = [recipe_label(MADE, path) for _, path, _ in recipes(MADE)]
    assert said[0] == "signal s~1"
    assert said.count("wet · where") == 2


def test_an_input_of_an_input_has_an_address() -> None:
    shot = read_shot(MADE)
    steps = MADE["looks"][1]["layers"][0]["where"]["steps"]
    address = by_id(MADE, ("looks", 1, "layers", 0, "where", "steps", 1, "params", "by"))
    assert steps[1]["id"] in address
    found, path = find_recipe(shot, address)
    assert found is not None
    assert [each.op for each in found.steps] == ["rings"]
    assert path == ("looks", 1, "layers", 0, "where", "steps", 1, "params", "by")


TOKENS = st.one_of(
    st.sampled_from(
        ["looks", "layers", "where", "channels", "recipe", "signals", "steps", "params", "by", "0", "1", "-1"]
    ),
    st.sampled_from([each["id"] for look in MADE["looks"] for each in (look, *look["layers"])]),
    st.text(max_size=6),
)


@given(st.one_of(st.lists(TOKENS, max_size=9).map(lambda tokens: "".join(f"/{each}" for each in tokens)), st.text()))
@settings(max_examples=300)
def test_any_text_is_an_address_or_is_refused(text: str) -> None:
    shot = read_shot(MADE)
    try:
        found, path = find_recipe(shot, text)
    except DocumentError:
        return
    assert path[-1] in ("where", "recipe", "by")
    assert found is None or found.steps
