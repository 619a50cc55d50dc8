"""Bricks: what is stored is what was evaluated, bounds hold, and there is never more than the budget allows."""

import numpy as np
import pytest

from tests.builders import MadeFiles, recipe, step
from tests.volumes import ball, volume_look, volume_shot
from texallon.core.derived import DerivedStore
from texallon.core.ops.noise import Noise
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.core.render.volume.brick_field import BrickField, Layout
from texallon.core.render.volume.grid import make_grid
from texallon.core.render.volume.quantities import DENSITY, EMPTY, MISSING, MOST_REST, QUANTITIES, SIDE

HERE = np.eye(4, dtype=np.float32)[:3]


def layout() -> Layout:
    row_of = np.full(QUANTITIES, -1, np.int32)
    row_of[DENSITY] = 0
    constant = np.zeros(QUANTITIES, np.float32)
    constant[1:4] = 1
    return Layout(row_of, constant)


def waves(own: np.ndarray, footprint: float = 0.0, bricks: object = None) -> np.ndarray:
    return (1 + np.sin(5 * own[0]) * np.cos(3 * own[1] + own[2]))[None].astype(np.float32)


def field(budget: int = 10**8, finest: int = 128) -> BrickField:
    low, high = np.float32([-1, -1, -1]), np.float32([1, 1, 1])
    return BrickField(make_grid(low, high, HERE, finest), layout(), waves, budget)


def test_what_is_stored_is_what_was_evaluated() -> None:
    made = field()
    made.fill(0, np.array([5, 77, 300], np.int32))
    for number in (5, 77, 300):
        at = made.table[made.grid.first[0] + number] - 1
        low, step = made.scales[at, 0]
        got = low + step * made.values[at, :, 0]
        want = waves(made.grid.corners(0, np.array([number], np.int32)))[0]
        assert np.abs(got - want).max() <= step, "within one of 65 535 steps"


def test_bounds_are_the_largest_values() -> None:
    made = field()
    numbers = np.arange(0, 4096, 37, dtype=np.int32)
    made.fill(0, numbers)
    for number in numbers:
        at = made.table[made.grid.first[0] + number] - 1
        values = made.scales[at, 0, 0] + made.scales[at, 0, 1] * made.values[at, :, 0]
        assert made.headers[at, MOST_REST] >= values.max()
        assert made.headers[at, MOST_REST] <= values.max() * 1.001


def test_where_nothing_is_no_room_is_taken() -> None:
    low, high = np.float32([-1, -1, -1]), np.float32([1, 1, 1])
    made = BrickField(make_grid(low, high, HERE, 64), layout(), lambda own, *_: np.zeros((1, own.shape[1]), np.float32))
    made.fill(0, np.arange(20, dtype=np.int32))
    assert (made.table[made.grid.first[0] : made.grid.first[0] + 20] == EMPTY).all()
    assert made.nbytes == 0


def test_the_budget_holds_and_what_was_used_last_stays() -> None:
    made = field(budget=200 * (729 * 2 + 8 + 40))
    for tick in range(1, 41):
        made.fill(0, np.arange(tick * 20, tick * 20 + 20, dtype=np.int32), tick)
        assert made.nbytes <= made.budget
    table = made.table[made.grid.first[0] :]
    assert (table[800:820] > 0).all()
    assert (table[20:40] == MISSING).all()
    coarsest = made.table[made.grid.first[-1] :]
    assert (coarsest != MISSING).all(), "what stands in for all else is never given up"


def test_a_brick_that_was_given_up_comes_back_as_it_was() -> None:
    made = field(budget=200 * (729 * 2 + 8 + 40))
    made.fill(0, np.array([7], np.int32), 1)
    before = made.values[made.table[made.grid.first[0] + 7] - 1].copy()
    for tick in range(2, 40):
        made.fill(0, np.arange(tick * 20, tick * 20 + 20, dtype=np.int32), tick)
    assert made.table[made.grid.first[0] + 7] == MISSING
    made.fill(0, np.array([7], np.int32), 41)
    assert (made.values[made.table[made.grid.first[0] + 7] - 1] == before).all()


@pytest.mark.parametrize("size", [(1, 1, 1), (3, 1, 0.2), (100, 0.5, 100)])
def test_levels_halve_until_a_few_bricks_hold_all(size: tuple[float, float, float]) -> None:
    grid = make_grid(np.zeros(3, np.float32), np.float32(size), HERE)
    assert (grid.dims[1:] <= grid.dims[:-1]).all()
    assert grid.dims[-1].max() <= 2 or grid.levels == 14
    assert (grid.dims[0] * SIDE * grid.cell >= np.float32(size) * (1 - 1e-5)).all()
    assert np.prod(grid.dims[0].astype(np.int64)) <= 1 << 24


def clouds(*colours: list[float]) -> tuple[FrameGraph, ...]:
    """Graphs of one cloud in several colours, which share a store."""
    store = DerivedStore()
    made = []
    for colour in colours:
        stops = [{"at": 0.3, "value": [0, 0, 0]}, {"at": 0.8, "value": colour}]
        noise = step("noise", size=0.3, octaves=4)
        fill = volume_look(
            density={"recipe": recipe(noise)}, volume_emission=1.0,
            volume_emission_color={"recipe": recipe(noise, step("ramp", stops=stops))},
        )  # fmt: skip
        shot = volume_shot(fill, objects=[ball()], light=0.2, camera={"position": [0, 0, 2], "target": [0, 0, 0]})
        made.append(FrameGraph(shot, MadeFiles(), store))
    return tuple(made)


def rendered(graph: FrameGraph) -> np.ndarray:
    context = graph.context(24, 16)
    film = Film(24, 16, len(context.lights.names))
    film.add_sample(context)
    return film.picture()


def test_another_ramp_evaluates_no_noise_again_and_gives_the_same_picture(monkeypatch: pytest.MonkeyPatch) -> None:
    counted = [0]
    pattern = Noise._pattern

    def counting(self: Noise, points: object, out: np.ndarray) -> None:
        counted[0] += out.shape[1]
        pattern(self, points, out)  # type: ignore[arg-type]

    monkeypatch.setattr(Noise, "_pattern", counting)
    red, blue = clouds([1, 0.2, 0.1], [0.1, 0.2, 1])
    rendered(red)
    assert counted[0] > 100_000
    counted[0] = 0
    recoloured = rendered(blue)
    assert counted[0] == 0
    (alone,) = clouds([0.1, 0.2, 1])
    assert (recoloured == rendered(alone)).all()
