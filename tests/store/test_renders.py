"""Orders for frames in the database, held to a model in memory: whatever people and workers do, in whatever order, and whichever server ends."""

import random
import uuid
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import pytest
from sqlalchemy import URL, create_engine, text
from sqlmodel import SQLModel

from tests.conftest import World
from texallon.farm.ledger import LOSSES, TRIES, given_up
from texallon.store.records import NotFoundError
from texallon.store.renders import LONGEST_LOG, NewRender, RenderStore

pytestmark = pytest.mark.slow

RESULT = {"seconds": 1.5, "memory": 210.0, "worker": "w1", "files": ["a.exr"], "thumbnail": None, "kept": False}


@pytest.fixture(scope="module")
def database(world: World) -> Iterator[URL]:
    """A database of its own beside that of the servers, which would take up these orders."""
    name = f"orders_{uuid.uuid4().hex[:12]}"
    admin = create_engine(world.engine.url, isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text(f"CREATE DATABASE {name}"))
    url = world.engine.url.set(database=name)
    engine = create_engine(url)
    SQLModel.metadata.create_all(engine)
    engine.dispose()
    yield url
    with admin.connect() as connection:
        connection.execute(text(f"DROP DATABASE {name} WITH (FORCE)"))
    admin.dispose()


@pytest.fixture
def store(database: URL) -> Iterator[RenderStore]:
    """An empty list, on connections of its own."""
    engine = create_engine(database)
    made = RenderStore(engine)
    for each in made.newest(count=500):
        made.remove(each.id)
    try:
        yield made
    finally:
        made.release()
        engine.dispose()


def wanted(*frames: int, priority: int = 0) -> NewRender:
    how = {"size": [64, 36], "samples": 4}
    return NewRender(1, "GH010", 3, "d" * 64, "s" * 64, how, frames, "Ida", priority)


@dataclass
class Order:
    """An order as the model has it: states, tries and losses of its frames."""

    state: str = "going"
    priority: int = 0
    frames: dict[int, list[Any]] = field(default_factory=dict)


def states(store: RenderStore, number: int) -> dict[int, list[Any]]:
    return {each.frame: [each.state, each.tries, each.losses] for each in store.find(number).frames}


def next_frame(model: dict[int, Order]) -> tuple[int, int] | None:
    """The frame that comes next: of the most urgent order, then of the oldest, then one that lost the fewest workers."""
    waiting = [
        (-order.priority, number, losses, frame)
        for number, order in model.items()
        for frame, (state, _, losses) in order.frames.items()
        if order.state == "going" and state == "waiting"
    ]
    if not waiting:
        return None
    _, number, _, frame = min(waiting)
    return number, frame


@pytest.mark.parametrize("seed", range(6))
def test_the_list_is_what_the_model_says_after_any_sequence(store: RenderStore, seed: int) -> None:
    chance = random.Random(seed)
    model: dict[int, Order] = {}
    under_way: set[tuple[int, int]] = set()
    assert store.holds()
    for _ in range(120):
        event = chance.choice(
            [
                "order",
                "take",
                "take",
                "take",
                "done",
                "done",
                "failed",
                "lost",
                "back",
                "pause",
                "stop",
                "go",
                "again",
                "urgent",
                "remove",
                "restart",
            ]
        )
        number = chance.choice(sorted(model)) if model else 0
        order = model.get(number)
        if event == "order" and len(model) < 6:
            frames, priority = range(1, chance.randint(2, 6)), chance.choice((0, 0, 10, -10))
            made = store.order(wanted(*frames, priority=priority))
            model[made.id] = Order("going", priority, {each: ["waiting", 0, 0] for each in frames})
        elif event == "take":
            there, found = next_frame(model), store.take()
            assert (None if found is None else (found.render.id, found.frame)) == there
            assert store.waits() == (next_frame(model) is not None) or there is not None
            if there is not None and found is not None:
                model[there[0]].frames[there[1]][0] = "running"
                under_way.add(there)
                assert found.of == len(model[there[0]].frames)
        elif event in ("done", "failed", "lost", "back") and under_way:
            at = chance.choice(sorted(under_way))
            under_way.discard(at)
            frame = model[at[0]].frames[at[1]]
            if event == "done":
                store.done(*at, dict(RESULT), "made")
                if frame[0] in ("running", "stopped"):
                    frame[0], frame[1] = "done", frame[1] + 1
            elif event == "back":
                store.put_back(*at)
                if frame[0] == "running":
                    frame[0] = "waiting"
            else:
                lost = event == "lost"
                store.failed(*at, "it ended", lost, given_up)
                if frame[0] == "running":
                    frame[1 + lost] += 1
                    frame[0] = "failed" if frame[1] >= TRIES or frame[2] >= LOSSES else "waiting"
        elif event == "restart":  # the server ends and begins again: what ran waits
            store.release()
            assert store.holds()
            under_way.clear()
            for each in model.values():
                for frame in each.frames.values():
                    frame[0] = "waiting" if frame[0] == "running" else frame[0]
        elif order is None:
            continue
        elif event in ("pause", "stop", "go"):
            state = {"pause": "paused", "stop": "stopped", "go": "going"}[event]
            store.change(number, state=state)
            order.state = state
            for frame in order.frames.values():
                if state == "stopped" and frame[0] in ("waiting", "running"):
                    frame[0] = "stopped"
                elif state == "going" and frame[0] == "stopped":
                    frame[0] = "waiting"
        elif event == "again":
            chosen = [frame for frame in order.frames if chance.random() < 0.5]
            assert store.again(number, [*chosen, 999]) == len(chosen)
            order.state = "going"
            for frame in chosen:
                order.frames[frame] = ["waiting", 0, 0]
        elif event == "urgent":
            order.priority = chance.choice((-10, 0, 10))
            store.change(number, priority=order.priority)
        elif event == "remove":
            store.remove(number)
            del model[number]
            under_way = {each for each in under_way if each[0] != number}
        running = {
            at for at in under_way if model[at[0]].state == "going" and model[at[0]].frames[at[1]][0] == "running"
        }
        assert store.running(under_way) == running
    assert {each.id: states(store, each.id) for each in store.newest(count=50)} == {
        number: order.frames for number, order in model.items()
    }
    assert [each.id for each in store.newest(count=50)] == sorted(model, reverse=True)


def test_of_two_servers_one_sends_frames_and_the_other_goes_on(database: URL, store: RenderStore) -> None:
    engine = create_engine(database)
    other = RenderStore(engine)
    try:
        made = store.order(wanted(1, 2))
        assert store.holds() and store.holds() and not other.holds()
        assert store.take() is not None
        assert states(store, made.id)[1][0] == "running"
        store.release()
        # The first has ended: what it was at waits again, once.
        assert other.holds() and not store.holds()
        assert [each[0] for each in states(store, made.id).values()] == ["waiting", "waiting"]
        assert other.take() is not None and other.holds()
        assert states(store, made.id)[1][0] == "running"
    finally:
        other.release()
        engine.dispose()


def test_a_connection_that_is_cut_gives_the_lock_away(database: URL, store: RenderStore) -> None:
    engine = create_engine(database)
    other = RenderStore(engine)
    try:
        assert store.holds() and not other.holds()
        assert store._hold is not None
        store._hold.connection.dbapi_connection.close()  # as when the database begins anew
        assert other.holds() and not store.holds()
    finally:
        other.release()
        engine.dispose()


def test_the_log_has_an_end_and_unknown_orders_are_said(store: RenderStore) -> None:
    made = store.order(wanted(1))
    for number in range(LONGEST_LOG + 5):
        assert store.take() is not None
        store.failed(made.id, 1, f"line {number}", True, lambda tries, losses: False)
    log = store.find(made.id).frames[0].log
    assert len(log) == LONGEST_LOG and log[-1] == f"line {LONGEST_LOG + 4}"
    store.remove(made.id)
    for act in (store.find, store.remove, lambda number: store.change(number, "paused"), lambda number: store.again(number, [1])):  # fmt: skip
        with pytest.raises(NotFoundError, match=f"there is no order {made.id}"):
            act(made.id)
    # What a worker says of an order that is gone is left alone.
    store.done(made.id, 1, dict(RESULT), "made")
    store.failed(made.id, 1, "it ended", False, given_up)
    store.put_back(made.id, 1)
    assert store.newest() == []


def test_orders_of_a_shot_are_listed_the_newest_first(store: RenderStore) -> None:
    mine = [store.order(wanted(number)).id for number in (1, 2, 3)]
    other = store.order(NewRender(2, "GH020", 1, "e" * 64, "t" * 64, {}, [7, 5, 6])).id
    assert [each.id for each in store.newest()] == [other, *reversed(mine)]
    assert [each.id for each in store.newest(shot_id=1)] == mine[::-1]
    assert [each.id for each in store.newest(count=2)] == [other, mine[2]]
    assert [each.frame for each in store.find(other).frames] == [5, 6, 7], "by their numbers, however they were given"
