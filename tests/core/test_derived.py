"""Derived values: keys by content, one computation each, a budget in bytes, and nothing half done."""

import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from enum import Enum
from typing import Any, NamedTuple

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import ball, shot
from texallon.core.derived import (
    Access,
    Cost,
    Derived,
    DerivedStore,
    Given,
    Interrupted,
    checkpoint,
    content_key,
    derived,
    interruptible,
)
from texallon.core.document.base import Model
from texallon.core.geometry.instances import Instances


@dataclass(frozen=True)
class Point:
    x: float
    name: str = ""


class Pair(NamedTuple):
    a: int
    b: str


class Tone(Enum):
    WARM = 1
    COLD = 2


class Small(Model):
    number: float = 0.0
    word: str = ""


UNLIKE = [
    None, True, False, 0, 1, 1.0, -0.0, 0.0, "1", b"1", "", (), (1,), ((1,),), (1, 2), (2, 1), (12,), ("a", "b"), ("ab",),
    Tone.WARM, Tone.COLD, Point(1.0), Point(1.0, "a"), Point(2.0), Small(), Small(number=1), Small(word="1"), {"a": 1},
    {"a": 2}, {"b": 1}, frozenset({1}), frozenset({1, 2}), np.zeros(3, np.float32), np.zeros(3, np.float64),
    np.zeros((3, 1), np.float32), np.zeros((1, 3), np.float32), np.array([0, 0, 1], np.float32), float("inf"), float("nan"),
]  # fmt: skip


def test_unlike_values_have_unlike_keys() -> None:
    assert len({content_key(each) for each in UNLIKE}) == len(UNLIKE)


@given(st.recursive(st.none() | st.integers() | st.floats() | st.text(), lambda inner: st.tuples(inner, inner) | st.dictionaries(st.text(), inner, max_size=3)))  # fmt: skip
def test_equal_values_have_equal_keys(value: Any) -> None:
    import copy

    assert content_key(value) == content_key(copy.deepcopy(value))


def test_order_counts_in_rows_but_not_in_sets_and_mappings() -> None:
    assert content_key({"a": 1, "b": 2}) == content_key({"b": 2, "a": 1})
    assert content_key(frozenset("abc")) == content_key(frozenset("cba"))
    strided = np.arange(12, dtype=np.float32).reshape(3, 4)[:, ::2]
    assert content_key(strided) == content_key(strided.copy()), "how an array lies in memory is not its content"


def test_what_has_no_content_can_not_be_given() -> None:
    for value in (lambda: 1, open, threading.Lock()):
        with pytest.raises(TypeError, match="has no content"):
            content_key(value)


def test_meshes_and_instances_are_told_by_what_they_hold() -> None:
    assert ball().content_key == ball().content_key != ball(0.5).content_key
    at = np.stack([np.eye(4)] * 2)
    assert Instances(ball(), at).content_key == Instances(ball(), at).content_key != ball().content_key
    pieces = Instances(Instances(ball(), at), at).pieces()
    assert len(pieces) == 4, "instances of instances"


runs: list[Any] = []


@derived("double", cost=Cost.INSTANT)
def double(x: int) -> int:
    runs.append(x)
    return 2 * x


@derived("sum")
def total(values: tuple[int, ...], more: int = 0) -> int:
    return sum(values) + more


@derived("block")
def block(number: int, size: int) -> np.ndarray:
    runs.append(number)
    return np.full(size, number, np.float32)


@derived("view")
def part(whole: np.ndarray) -> np.ndarray:
    return whole[: len(whole) // 2]


def test_arguments_are_computed_first_and_each_value_once() -> None:
    runs.clear()
    store = DerivedStore()
    wanted = total.of((double.of(1), double.of(2), double.of(1)), 5)
    assert store.cost(wanted) == Cost.SLOW
    assert store.value(wanted) == 13
    assert runs == [1, 2]
    assert store.value(total.of((double.of(1), double.of(2), double.of(1)), 5)) == 13
    assert runs == [1, 2]
    assert store.cost(wanted) == Cost.INSTANT


def test_a_key_follows_from_name_version_and_arguments() -> None:
    other = derived("double", version=2)(lambda x: x)
    keys = {double.of(1).content_key, double.of(2).content_key, other.of(1).content_key, total.of((1,)).content_key}
    assert len(keys) == 4
    assert double.of(Given(object(), "k")).content_key == double.of(Given(None, "k")).content_key


def test_the_least_recently_used_go_first_when_the_budget_is_full() -> None:
    runs.clear()
    store = DerivedStore(budget=10 * 4000)
    for number in range(20):
        store.value(block.of(number, 1000))
        store.value(block.of(0, 1000))
    assert store.bytes <= store.budget
    assert store.known(block.of(0, 1000)) and store.known(block.of(19, 1000)) and not store.known(block.of(1, 1000))
    store.budget = 4000
    assert store.bytes <= 4000
    assert np.array_equal(store.value(block.of(1, 1000)), np.ones(1000)), "it is computed again"


def test_shared_arrays_count_once() -> None:
    store = DerivedStore()
    store.value(part.of(block.of(1, 1000)))
    assert store.bytes == 4000
    assert {kind: count for kind, (count, _) in store.holds().items()} == {"block": 1, "view": 1}


def test_what_is_larger_than_the_budget_is_handed_out_and_not_kept() -> None:
    store = DerivedStore(budget=1000)
    assert len(store.value(block.of(1, 1000))) == 1000
    assert not store.known(block.of(1, 1000)) and store.bytes == 0


def test_threads_wait_for_a_value_that_is_being_computed() -> None:
    store, begun, go = DerivedStore(), threading.Event(), threading.Event()
    count = []

    @derived("slow one")
    def slow() -> int:
        count.append(1)
        begun.set()
        assert go.wait(10)
        return 7

    with ThreadPoolExecutor(4) as pool:
        first = pool.submit(store.value, slow.of())
        assert begun.wait(10)
        others = [pool.submit(store.value, slow.of()) for _ in range(3)]
        go.set()
        assert [each.result(10) for each in (first, *others)] == [7] * 4
    assert len(count) == 1


def test_what_is_no_longer_wanted_leaves_nothing_behind() -> None:
    store, steps = DerivedStore(), []

    @derived("long one")
    def long() -> int:
        check = checkpoint()
        for number in range(5):
            check()
            steps.append(number)
        return 5

    with interruptible(lambda: len(steps) < 3), pytest.raises(Interrupted):
        store.value(long.of())
    assert steps == [0, 1, 2] and not store.known(long.of())
    assert store.value(long.of()) == 5


def test_failures_are_told_each_time_and_nothing_is_kept() -> None:
    store = DerivedStore()

    @derived("broken")
    def broken() -> int:
        raise ValueError("no")

    for _ in range(2):
        with pytest.raises(ValueError, match="no"):
            store.value(broken.of())
    assert store.bytes == 0


def test_listeners_hear_of_every_access() -> None:
    store, heard = DerivedStore(), list[Access]()
    stop = store.listen(heard.append)
    wanted: Derived[int] = total.of((double.of(4),))
    store.value(wanted)
    store.value(wanted)
    stop()
    store.value(wanted)
    assert [(each.kind, each.reused) for each in heard] == [("double", False), ("sum", False), ("sum", True)]


def test_a_shot_at_a_time_is_told_by_its_time_apart() -> None:
    from texallon.core.document.resolved import resolve

    made = shot(frames={"first": 1, "last": 9, "rate": 24})
    later = resolve(made, 5)
    assert later.time.seconds == pytest.approx(4 / 24)
    assert content_key(later) != content_key(resolve(made, 6))
    assert content_key(later) == content_key(resolve(made, 5))
    assert later.model_dump(mode="json") == made.model_dump(mode="json"), "time is no member of a document"
