"""Older revisions take little room, and every one of them opens exactly as it was."""

import copy
import json
import random
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from sqlalchemy import text

from tests.conftest import World
from texallon.store.deltas import WHOLE_EVERY, difference

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
    import jsonpatch

    before = copy.deepcopy((new, old))
    patch = difference(new, old)
    assert (new, old) == before
    if patch is not None:
        assert jsonpatch.apply_patch(new, patch) == old


def test_each_of_two_thousand_revisions_opens_exactly_and_takes_a_tenth_of_the_room(
    world: World, demo_folder: Path
) -> None:
    document = json.loads((demo_folder / "GH010.json").read_text())
    shot = world.store.add_shot("two thousand", document, "")
    rng = random.Random(11)
    seen = {1: json.dumps(world.store.current(shot).document, sort_keys=True)}
    whole = 0
    for number in range(1, 2001):
        held = json.loads(seen[number])
        layers = held["looks"][0]["layers"]
        layer = rng.choice(layers)
        at = f"/looks/{held['looks'][0]['id']}/layers/{layer['id']}"
        kind = rng.random()
        if kind < 0.8:
            patch = [{"op": "replace", "path": f"{at}/opacity", "value": round(rng.random(), 6)}]
        elif kind < 0.9 and len(layers) < 12:
            patch = [
                {"op": "add", "path": f"/looks/{held['looks'][0]['id']}/layers/0", "value": {"name": f"layer {number}"}}
            ]
        elif len(layers) > 4:
            gone = next((each for each in layers if each["name"].startswith("layer ")), None)
            patch = [{"op": "remove", "path": f"/looks/{held['looks'][0]['id']}/layers/{gone['id']}"}] if gone else []
        else:
            patch = []
        patch = patch or [{"op": "replace", "path": "/title", "value": f"title {number}"}]
        made = world.store.edit(shot, number, patch, "an edit")
        seen[made.revision] = json.dumps(made.document, sort_keys=True)
        whole += len(seen[made.revision])
    assert len(seen) == 2001
    for number, then in seen.items():
        assert json.dumps(world.store.document(shot, number), sort_keys=True) == then, f"revision {number}"
    with world.engine.begin() as connection:
        size = "SELECT sum(pg_column_size(document)), sum(pg_column_size(r.*)) FROM revisions r WHERE shot_id = :shot"
        documents, rows = connection.execute(text(size), {"shot": shot}).one()
        one = connection.execute(
            text("SELECT pg_column_size(document) FROM revisions WHERE shot_id = :shot AND number = 2001"),
            {"shot": shot},
        ).scalar_one()
        kept = connection.execute(
            text("SELECT count(*) FROM revisions WHERE shot_id = :shot AND document IS NOT NULL"), {"shot": shot}
        ).scalar_one()
    assert kept <= 2001 / WHOLE_EVERY + 2
    assert rows * 10 < 2001 * one, "a tenth of whole documents, as PostgreSQL compresses them"
    assert documents < rows
