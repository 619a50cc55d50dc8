"""Thinning of old drafts: the stated rule holds, what stays opens exactly, and undo never reaches what has gone."""

import json
import random
import uuid
from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from sqlalchemy import null, text, update
from sqlmodel import Session, col, select

from tests.conftest import World
from tests.store.test_deltas import edited
from texallon.store.deltas import WHOLE_EVERY
from texallon.store.records import NotFoundError, NothingToDoError, StaleError, Who
from texallon.store.tables import RevisionRow
from texallon.store.thinning import thin

NOON = datetime(2026, 6, 30, 12, tzinfo=UTC)
SMALL: dict[str, Any] = {"schema": 2, "name": "S", "looks": [{"name": "plain", "layers": [{"name": "base"}]}]}


def age(world: World, shot: int, moments: dict[int, datetime]) -> None:
    """Have revisions made at other moments."""
    with Session(world.engine) as session:
        for number, moment in moments.items():
            session.exec(
                update(RevisionRow)
                .where(col(RevisionRow.shot_id) == shot, col(RevisionRow.number) == number)
                .values(created=moment)
            )
        session.commit()


def numbers(world: World, shot: int) -> list[int]:
    with Session(world.engine) as session:
        chosen = select(RevisionRow.number).where(RevisionRow.shot_id == shot).order_by(col(RevisionRow.number))
        return list(session.exec(chosen).all())


def opens(world: World, shot: int, number: int) -> str:
    return json.dumps(world.store.document(shot, number), sort_keys=True)


def test_of_each_old_day_the_last_draft_stays_with_what_snapshots_name(world: World) -> None:
    shot, seen = edited(world, SMALL, 60)
    # Six drafts a day for ten days, the last an hour ago.
    age(world, shot, {number: NOON - timedelta(hours=4 * (61 - number)) for number in seen})
    world.store.add_snapshot(shot, 9, "kept", 1, "0" * 64)
    thin(world.engine, 5, NOON)
    left = numbers(world, shot)
    made = {number: NOON - timedelta(hours=4 * (61 - number)) for number in seen}
    young = {number for number in seen if made[number] >= NOON - timedelta(days=5)}
    last_of_day = {max(other for other in seen if made[other].date() == made[number].date()) for number in seen}
    assert left == sorted(young | last_of_day | {1, 9, 61})
    assert len(left) < 45
    for number in left:
        assert opens(world, shot, number) == seen[number]
    with pytest.raises(NotFoundError):
        world.store.document(shot, 2)
    before = numbers(world, shot)
    thin(world.engine, 5, NOON)
    assert numbers(world, shot) == before, "once is enough"


def test_a_thousand_days_later_the_chains_are_short_and_exact(world: World) -> None:
    shot, seen = edited(world, SMALL, 200)
    chance = random.Random(5)
    moment, moments = NOON - timedelta(days=3000), {}
    for number in seen:
        moment += timedelta(hours=chance.choice([1, 1, 5, 30, 400]))
        moments[number] = moment
    age(world, shot, moments)
    thin(world.engine, 0, NOON)
    assert len(numbers(world, shot)) == 201, "0 days: never"
    # In steps, as time goes by: what is thinned is thinned again.
    for days in (2500, 2000, 1000, 200, 30):
        thin(world.engine, days, NOON)
    left = numbers(world, shot)
    assert 70 < len(left) < 180
    for number in left:
        assert opens(world, shot, number) == seen[number]
    with Session(world.engine) as session:
        whole = session.exec(
            select(col(RevisionRow.document).is_not(None))
            .where(RevisionRow.shot_id == shot)
            .order_by(col(RevisionRow.number))
        ).all()
    gaps = [at for at, each in enumerate(whole) if each]
    assert max(b - a for a, b in zip([-1, *gaps], gaps, strict=False)) <= 2 * WHOLE_EVERY
    assert len(gaps) < len(left) / 4


def test_undo_stops_where_drafts_were_thinned(world: World) -> None:
    shot = world.store.add_shot(f"thinned {uuid.uuid4().hex}", SMALL, "")
    mine = Who("w" * 12, "Mara")
    for number in range(1, 13):
        patch = [{"op": "replace", "path": "/title", "value": f"title {number}"}]
        world.store.edit(shot, number, patch, f"edit {number}", mine)
    # One day long ago, but for the last three.
    age(world, shot, {number: NOON - timedelta(days=100, minutes=-number) for number in range(1, 11)})
    age(world, shot, dict.fromkeys(range(11, 14), NOON))
    thin(world.engine, 30, NOON)
    assert numbers(world, shot) == [1, 10, 11, 12, 13]
    for title in ("title 11", "title 10", "title 9"):
        assert world.store.undo(shot, mine).document["title"] == title
    with pytest.raises(NothingToDoError):
        world.store.undo(shot, mine)
    assert world.store.redo(shot, mine).document["title"] == "title 10"
    with pytest.raises(StaleError):
        world.store.edit(shot, 5, [{"op": "replace", "path": "/title", "value": "late"}], "", mine)


def test_a_window_whose_newest_draft_went_does_not_undo_twice(world: World) -> None:
    shot = world.store.add_shot(f"thinned {uuid.uuid4().hex}", SMALL, "")
    mine, other = Who("a" * 12), Who("b" * 12)

    def title(number: int, value: str, who: Who) -> None:
        world.store.edit(shot, number, [{"op": "replace", "path": "/title", "value": value}], value, who)

    title(1, "mine", mine)
    world.store.add_snapshot(shot, 2, "kept", 1, "0" * 64)
    world.store.undo(shot, mine)  # the third, which goes
    title(3, "theirs", other)
    title(4, "mine", other)
    age(world, shot, {number: NOON - timedelta(days=100, minutes=-number) for number in range(1, 5)})
    age(world, shot, {5: NOON})
    thin(world.engine, 30, NOON)
    assert numbers(world, shot) == [1, 2, 4, 5]
    with pytest.raises(NothingToDoError):
        world.store.undo(shot, mine)
    assert world.store.current(shot).document["title"] == "mine"


def test_what_an_older_version_kept_whole_is_made_small(world: World, demo_folder: Any) -> None:
    shot, seen = edited(world, json.loads((demo_folder / "GH010.json").read_text()), 40)
    with Session(world.engine) as session:
        for number, then in seen.items():
            session.exec(
                update(RevisionRow)
                .where(col(RevisionRow.shot_id) == shot, col(RevisionRow.number) == number)
                .values(document=json.loads(then), back=null())
            )
        session.commit()
    thin(world.engine, 30)
    assert len(numbers(world, shot)) == 41
    with world.engine.begin() as connection:
        count = "SELECT count(*) FILTER (WHERE document IS NOT NULL), count(*) FILTER (WHERE document = 'null') FROM revisions"
        whole, wrong = connection.execute(text(f"{count} WHERE shot_id = :shot"), {"shot": shot}).one()
    assert (whole, wrong) == (2, 0)
    for number, then in seen.items():
        assert opens(world, shot, number) == then
