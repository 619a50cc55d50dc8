"""Values of sources that bricks keep: what is evaluated with some of them known is what it would be without."""

from typing import Any

import numpy as np
import pytest

from tests.builders import plan_of, recipe, step
from texallon.core.render.volume.quantities import VALUES
from texallon.core.render.volume.source_values import Bricks, SourceValues, ValuesOfBricks
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import evaluate, fill_missing

RNG = np.random.default_rng(14)
PLACES = np.ascontiguousarray(RNG.uniform(-1, 1, (3, 2 * VALUES)), np.float32)
BRICKS = Bricks(0, np.array([3, 8], np.int32))

NOISE = step("noise", size=0.2, octaves=4, seed=3, space="world")
MOVED: list[list[dict[str, Any]]] = [
    [step("move", by=[0.1, 0.2, 0.0]), NOISE, step("remap", from_start=0.4, from_end=0.6)],
    [NOISE, step("power", exponent=2.0)],
    [step("twirl", angle=90.0), step("move", by=[0, 0.1, 0]), step("ridged", size=0.3, seed=5), step("threshold")],
    [step("move", by=[0.1, 0, 0]), NOISE, step("multiply", by=recipe(NOISE)), step("ramp")],
    [step("offset", by=recipe(NOISE), amount=0.2), step("cellular", size=0.2), step("invert")],
]


def values(plan: Plan, wide: float, kept: SourceValues | None) -> np.ndarray:
    n = PLACES.shape[1]
    here = {"position": PLACES, "object_position": PLACES, "footprint": np.full((1, n), wide, np.float32)}
    points = plan.points(n, fill_missing(plan.required_data, here, n))
    cache = None if kept is None else ValuesOfBricks(kept, BRICKS, plan)
    return evaluate(plan, points, cache=cache, variants=1)["value"]


@pytest.mark.parametrize("wide", [0.0, 0.05, 0.3])
@pytest.mark.parametrize("steps", MOVED)
def test_another_ramp_over_known_sources_gives_what_it_gives_without(steps: list[dict[str, Any]], wide: float) -> None:
    kept = SourceValues()
    values(plan_of(*steps), wide, kept)
    assert kept.nbytes > 0
    again = plan_of(*steps, step("gain", amount=0.3))
    assert np.array_equal(values(again, wide, kept), values(again, wide, None))
    assert np.array_equal(values(plan_of(*steps), wide, kept), values(plan_of(*steps), wide, None))
