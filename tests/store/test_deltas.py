"""Older revisions take little room, and every one of them opens exactly as it was."""

import copy
import json
import random
import uuid
from pathlib import Path
from typing import Any

import jsonpatch
import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import text
from sqlmodel import Session

from tests.conftest import World
from texallon.core.document import apply_patch
from texallon.store.deltas import WHOLE_EVERY, difference
from texallon.store.records import NOBODY
from texallon.store.revisions import advance, changed_by, checked, hold_project

pytestmark = pytest.mark.slow

JSON = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-3, 3)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(max_size=3),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=3), inner, max_size=4),
    max_leaves=12,
)


@given(st.dictionaries(st.text(max_size=3), JSON, max_size=5), st.dictionaries(st.text(max_size=3), JSON, max_size=5))
def test_a_difference_leads_back_exactly_or_is_none(new: Any, old: Any) -> None:
    before = copy.deepcopy((new, old))
    patch = difference(new, old)
    assert (new, old) == before
    if patch is not None:
        assert json.dumps(jsonpatch.apply_patch(new, patch), sort_keys=True) == json.dumps(old, sort_keys=True)


@pytest.mark.parametrize(("new", "old"), [(True, 1), (1.0, 1), (0, False)])
def test_what_is_equal_and_not_the_same_is_told_apart(new: Any, old: Any) -> None:
    filler = {"text": "x" * 200}
    patch = difference({**filler, "value": new}, {**filler, "value": old})
    assert patch is not None
    assert json.dumps(jsonpatch.apply_patch({**filler, "value": new}, patch)["value"]) == json.dumps(old)


def an_edit(held: Any, number: int, rng: random.Random) -> list[dict[str, Any]]:
    """An edit as people make them: mostly a number, now and then a layer that comes or goes."""
    look = held["looks"][0]
    layers = look["layers"]
    kind = rng.random()
    if kind < 0.8:
        at = f"/looks/{look['id']}/layers/{rng.choice(layers)['id']}"
        return [{"op": "replace", "path": f"{at}/opacity", "value": round(rng.random(), 6)}]
    if kind < 0.9 and len(layers) < 12:
        return [{"op": "add", "path": f"/looks/{look['id']}/layers/0", "value": {"name": f"layer {number}"}}]
    gone = next((each for each in layers if each["name"].startswith("layer ")), None)
    if gone is not None:
        return [{"op": "remove", "path": f"/looks/{look['id']}/layers/{gone['id']}"}]
    return [{"op": "replace", "path": "/title", "value": f"title {number}"}]


def edited(world: World, document: Any, count: int) -> tuple[int, dict[int, str]]:
    """A shot after many edits, and its document after each. They are kept as `ShotStore.edit` keeps them, without what it asks before and after."""
    shot = world.store.add_shot(f"edited {uuid.uuid4().hex}", document, "")
    rng = random.Random(11)
    with Session(world.engine) as session:
        head = hold_project(session, shot)
        seen = {1: json.dumps(head.document, sort_keys=True)}
        for number in range(1, count + 1):
            patch = an_edit(json.loads(seen[number]), number, rng)
            _, made = checked(apply_patch(json.loads(seen[number]), patch))
            new = changed_by(session, head, NOBODY, made, "an edit")
            new.patch = patch
            advance(session, head, new)
            seen[new.number] = json.dumps(made, sort_keys=True)
            head = new
        session.commit()
    assert len(seen) == count + 1
    return shot, seen


def test_each_of_two_thousand_revisions_opens_exactly(world: World) -> None:
    layers = [{"name": name} for name in ("stone", "wet", "moss")]
    shot, seen = edited(world, {"schema": 2, "name": "S", "looks": [{"name": "plain", "layers": layers}]}, 2000)
    for number, then in seen.items():
        assert json.dumps(world.store.document(shot, number), sort_keys=True) == then, f"revision {number}"


def test_revisions_take_a_tenth_of_the_room_of_whole_documents(world: World, demo_folder: Path) -> None:
    shot, seen = edited(world, json.loads((demo_folder / "GH010.json").read_text()), 256)
    for number in (1, 2, 31, 32, 33, 100, 255, 256, 257):
        assert json.dumps(world.store.document(shot, number), sort_keys=True) == seen[number]
    with world.engine.begin() as connection:

        def ask(what: str) -> int:
            found: int = connection.execute(
                text(f"SELECT {what} FROM revisions r WHERE shot_id = :shot"), {"shot": shot}
            ).scalar_one()
            return found

        assert ask("count(document)") <= 257 / WHOLE_EVERY + 2
        whole = ask("max(pg_column_size(document))")
        assert 10 * ask("sum(pg_column_size(r.*))") < 257 * whole, "as PostgreSQL compresses them"
