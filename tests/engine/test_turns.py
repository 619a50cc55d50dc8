"""Two windows share the processors by time, not by turns."""

from dataclasses import dataclass, field

import pytest

from texallon.engine.turns import next_turn, seconds_to_begin_with


@dataclass
class Hand:
    touched: float = 0.0


@dataclass
class Fake:
    turn: float
    """Seconds that one turn takes."""
    seconds: float = 0.0
    fresh: bool = False
    window: Hand = field(default_factory=Hand)


def take_turns(sessions: list[Fake], count: int) -> None:
    for _ in range(count):
        chosen = next_turn(sessions)
        chosen.seconds += chosen.turn


@pytest.mark.parametrize("slow", [0.1, 1.0, 7.0])
def test_a_heavy_shot_gets_no_more_time_than_a_light_one(slow: float) -> None:
    heavy, light = Fake(slow), Fake(0.1)
    take_turns([heavy, light], 500)
    assert abs(heavy.seconds - light.seconds) <= slow + 1e-9, "apart by one turn at most"


def test_who_comes_later_does_not_take_back_all_the_time_that_others_had() -> None:
    first, second = Fake(1.0), Fake(1.0)
    take_turns([first, second], 100)
    late = Fake(1.0, seconds_to_begin_with([first, second]))
    before = first.seconds
    take_turns([first, second, late], 30)
    assert first.seconds - before == pytest.approx(10.0)
    assert seconds_to_begin_with([]) == 0.0


def test_the_window_under_the_hand_goes_first() -> None:
    behind, touched = Fake(1.0), Fake(1.0, seconds=50.0, fresh=True)
    assert next_turn([behind, touched]) is touched
    last = Fake(1.0, seconds=90.0, fresh=True, window=Hand(2.0))
    assert next_turn([behind, touched, last]) is last
