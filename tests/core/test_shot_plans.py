"""Plans of a shot: made anew for what an edit touches, by name or by place or by time, and for nothing else."""

from collections import Counter
from typing import Any

import pytest

from tests.builders import document, layer, look, recipe, step, value
from texallon.core.derived import Access, DerivedStore
from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.render.shot_plans import ShotPlans
from texallon.core.signal.check_recipes import check_recipes
from texallon.core.signal.look_plan import plan_look


def made(gain: float = 2.0, away: float = 0.0, raised: bool = False) -> dict[str, Any]:
    """A still look, one that measures from a locator, one that moves, and one that uses a shared signal."""
    return document(
        signals=[{"name": "damp", "recipe": recipe(step("noise"))}],
        locators=[{"name": "lamp", "position": [away, 0, 0]}],
        objects=[{"name": "ball", "look": "still", "geometry": {"shape": "sphere"}, "position": [0, 1.0 * raised, 0]}],
        looks=[
            look("still", layer("a", recipe(step("noise"), step("multiply", by=gain)), base_weight=value(0.5))),
            look("near", layer("a", recipe(step("falloff", origin={"locator": "lamp"})), base_weight=value(0.5))),
            look("moving", layer("a", recipe(step("noise", speed=1.0)), base_weight=value(0.5))),
            look("shared", layer("a", recipe(step("signal", signal="damp")), base_weight=value(0.5))),
        ],
    )


def planned(data: dict[str, Any], store: DerivedStore, frame: int = 1) -> Counter[str]:
    """How many of what kinds are computed for all looks of a document."""
    seen: list[Access] = []
    end = store.listen(seen.append)
    shot = resolve(read_shot(data), frame)
    plans = ShotPlans(shot, store)
    assert plans.problems() == ()
    for number, each in enumerate(shot.looks):
        assert plans.of_look(number).content_key == plan_look(shot, each).content_key, "as if planned afresh"
    end()
    return Counter(each.kind for each in seen if not each.reused)


def test_an_edit_of_a_look_plans_and_checks_that_look_alone() -> None:
    store = DerivedStore()
    first = planned(made(), store)
    assert first["problems of a look"] == 4 and first["problems of signals"] == 1
    assert planned(made(), store) == {}
    assert planned(made(gain=3.0), store) == {"problems of a look": 1, "plan": 1}


def test_what_is_moved_plans_those_looks_that_measure_from_it() -> None:
    store = DerivedStore()
    planned(made(), store)
    assert planned(made(away=2.0), store) == {"plan": 1}
    assert planned(made(raised=True), store) == {}


def test_another_frame_plans_those_looks_that_move() -> None:
    store = DerivedStore()
    planned(made(), store)
    assert planned(made(), store, frame=9) == {"plan": 1}
    assert planned(made(), store, frame=1) == {}


def test_a_renamed_signal_checks_all_and_says_where_it_is_missed() -> None:
    store = DerivedStore()
    planned(made(), store)
    data = made()
    data["signals"][0]["name"] = "wet"
    shot = resolve(read_shot(data), 1)
    found = ShotPlans(shot, store).problems()
    assert [each.pointer for each in found] == [each.pointer for each in check_recipes(shot, shot.looks)]
    assert found and all("/looks/" in each.pointer for each in found)


@pytest.mark.parametrize("broken", range(3))
def test_problems_are_those_of_the_whole_document_wherever_they_are(broken: int) -> None:
    data = made()
    data["looks"][broken]["layers"][0]["where"]["steps"].append({"op": "nosuch"})
    data["signals"][0]["recipe"]["steps"].append({"op": "remap", "params": {"nosuch": 1}})
    shot = resolve(read_shot(data), 1)
    found = ShotPlans(shot, DerivedStore()).problems()
    assert [str(each) for each in found] == [str(each) for each in check_recipes(shot, shot.looks)]
    assert len({each.pointer for each in found}) == 2
