"""Springs against closed forms, a solver of ordinary differential equations, and the dispersion of waves on a grid; through the document too."""

from typing import Any

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from tests import builders
from tests.builders import MadeFiles, flat_net, layer, look, make_mesh, recipe, step, value
from tests.core.test_growth import moves, remembered
from texallon.core.derived import DerivedStore
from texallon.core.document import read_shot
from texallon.core.document.ids import complete_ids
from texallon.core.document.remembered import Springs
from texallon.core.document.resolved import resolve
from texallon.core.motion.point_graph import PointGraph, copies_graph, surface_graph
from texallon.core.motion.springs import advance, laplacian_of, propagator
from texallon.core.render.graph import FrameGraph

HERE = np.eye(4, dtype=np.float32)[:3]
SECOND = 2 * np.pi


def springs(**more: Any) -> Springs:
    return Springs(**{"kind": "springs", "name": "a", "signal": "s", "frequency": 2.0, "damping": 0.1, **more})


def alone() -> PointGraph:
    return copies_graph(np.zeros((1, 3), np.float32), HERE)


def grid(counts: tuple[int, int], apart: float) -> PointGraph:
    x, z = np.meshgrid(np.arange(counts[0]) * apart, np.arange(counts[1]) * apart)
    return copies_graph(np.stack([x.ravel(), 0 * x.ravel(), z.ravel()], axis=1).astype(np.float32), HERE)


def closed_form(damping: float, omega: float, t: float) -> float:
    """Of a spring that is let go at a height of 1: under-, critically and over-damped (L. Meirovitch, Fundamentals of Vibrations, 2001, 2.2)."""
    if damping < 1:
        wd = omega * np.sqrt(1 - damping**2)
        return float(np.exp(-damping * omega * t) * (np.cos(wd * t) + damping * omega / wd * np.sin(wd * t)))
    if damping == 1:
        return float((1 + omega * t) * np.exp(-omega * t))
    root = omega * np.sqrt(damping**2 - 1)
    a, b = -damping * omega + root, -damping * omega - root
    return float((a * np.exp(b * t) - b * np.exp(a * t)) / (a - b))


@pytest.mark.parametrize("rate", [10, 24, 60])
@pytest.mark.parametrize("damping", [0.0, 0.1, 1.0, 2.0])
def test_one_spring_follows_its_closed_form(rate: int, damping: float) -> None:
    by = propagator(springs(damping=damping), alone(), rate)
    height, velocity, nothing = np.ones(1), np.zeros(1), np.zeros(1)
    for frame in range(1, 2 * rate + 1):
        height, velocity = advance(by, height, velocity, nothing, nothing)
        assert height[0] == pytest.approx(closed_form(damping, 2 * SECOND, frame / rate), abs=1e-9)


@pytest.mark.parametrize("frequency", [0.0, 0.7, 3.0])
def test_a_signal_that_moves_draws_it_as_a_solver_says(frequency: float) -> None:
    rate, signal = 24, np.interp(np.arange(49), [0, 10, 20, 48], [0.0, 1.0, 0.2, 0.2])
    omega, gamma = SECOND * frequency, 0.3 * SECOND * (frequency or 1.0)

    def change(t: float, state: np.ndarray) -> list[float]:
        s = np.interp(t * rate, np.arange(49), signal)
        pull = omega**2 * (s - state[0]) if frequency else s
        return [state[1], pull - 2 * gamma * state[1]]

    right = solve_ivp(change, (0, 2), [0, 0], t_eval=np.arange(49) / rate, rtol=1e-10, atol=1e-12, max_step=1 / 96).y
    by = propagator(springs(frequency=frequency, damping=0.3), alone(), rate)
    height = velocity = np.zeros(1)
    for frame in range(48):
        height, velocity = advance(by, height, velocity, signal[frame : frame + 1], signal[frame + 1 : frame + 2])
        assert height[0] == pytest.approx(right[0, frame + 1], abs=1e-7)
        assert velocity[0] == pytest.approx(right[1, frame + 1], abs=1e-6)


@pytest.mark.parametrize("periods", [1, 4, 15])
def test_waves_on_a_grid_have_its_dispersion(periods: int) -> None:
    """ω² = ω₀² + (2c/h)² sin²(kh/2): L. Brillouin, Wave Propagation in Periodic Structures, 1946. Between walls that let nothing through."""
    count, apart, spread = 33, 0.05, 0.8
    graph = grid((count, 3), apart)
    k = np.pi * periods / (count * apart)
    shape = np.cos(k * (np.arange(count) + 0.5) * apart)
    start = np.tile(shape, 3)
    omega = np.sqrt((SECOND * 1.5) ** 2 + (2 * spread / apart * np.sin(k * apart / 2)) ** 2)
    by = propagator(springs(frequency=1.5, damping=0.0, spread=spread), graph, 24)
    height, velocity, nothing = start, np.zeros_like(start), np.zeros_like(start)
    for frame in range(1, 25):
        height, velocity = advance(by, height, velocity, nothing, nothing)
        assert np.allclose(height, start * np.cos(omega * frame / 24), atol=1e-5)


def test_a_ring_travels_as_fast_as_it_is_told() -> None:
    places, faces = flat_net(101, 0.05)
    mesh = make_mesh(places.tolist(), faces.tolist(), [[0, 1, 0]] * len(places))
    graph, spread = surface_graph(mesh, HERE), 0.5
    away = np.linalg.norm(graph.places - [0.5, 0, 0.5], axis=1)
    by = propagator(springs(frequency=0.0, damping=0.0, spread=spread), graph, 24)
    height, velocity, nothing = np.exp(-((away / 0.04) ** 2)), np.zeros(len(away)), np.zeros(len(away))
    for _ in range(16):
        height, velocity = advance(by, height, velocity, nothing, nothing)
    rings = np.array([height[np.abs(away - r) < 0.01].mean() for r in np.arange(0.1, 0.5, 0.01)])
    crest = 0.1 + 0.01 * int(np.argmax(rings))
    assert crest == pytest.approx(spread * 16 / 24, abs=0.025)
    assert np.abs(height[away > 0.45]).max() < 0.02  # nothing has come farther yet


def test_nothing_is_lost_or_gained_however_stiff_it_is() -> None:
    graph = grid((24, 24), 0.01)
    chance = np.random.default_rng(3)
    height, velocity = chance.normal(size=576), chance.normal(size=576)
    stiff = springs(frequency=1.0, damping=0.0, spread=5.0)

    def energy() -> float:
        inner = height @ (laplacian_of(graph) @ height) * 25.0 + SECOND**2 * height @ height
        return float(inner + velocity @ velocity)

    by, before, nothing = propagator(stiff, graph, 10), energy(), np.zeros(576)
    for _ in range(30):
        height, velocity = advance(by, height, velocity, nothing, nothing)
    assert energy() == pytest.approx(before, rel=1e-5)


def test_neighbours_of_copies_have_no_third_between_them() -> None:
    graph = grid((4, 3), 0.1)
    assert len(graph.edges.to) == 2 * (3 * 3 + 4 * 2) and np.allclose(graph.edges.length, 0.1)
    wide = copies_graph(np.array([[x * 0.3, 0, z * 0.1] for x in range(3) for z in range(4)], np.float32), HERE)
    assert len(wide.edges.to) == 2 * (2 * 4 + 3 * 3)


def document(own: dict[str, Any], **of_object: Any) -> dict[str, Any]:
    drop = {"name": "drop", "recipe": recipe(step("contact", to={"locator": "drop"}, end=0.1, falloff="linear"))}
    worn = look("water", layer("base", base_color=value([0.1] * 3)))
    item = {
        "name": "pond", "look": "water", "geometry": {"shape": "plane", "width": 1.0, "depth": 1.0, "segments": 40},
        "remembers": [{"kind": "springs", "name": "ring", "signal": "drop", **own}], **of_object,
    }  # fmt: skip
    made: dict[str, Any] = complete_ids(
        builders.document(
            frames={"first": 1, "last": 25, "rate": 24.0},
            signals=[drop],
            looks=[worn],
            objects=[item],
            locators=[{"name": "drop", "id": "drop"}],
            tracks=[moves("/locators/drop/position/1", 0.0, 1.0)],
        )
    )
    return made


def test_through_the_document_each_point_follows_its_own_solution() -> None:
    shot = read_shot(document({"frequency": 2.0, "damping": 0.1, "spread": 0.0}))
    middle = 41 * 20 + 20
    signal = np.array([max(1 - (frame - 1) / 24 / 0.1, 0) for frame in range(1, 26)])

    def change(t: float, state: np.ndarray) -> list[float]:
        s = np.interp(t * 24, np.arange(25), signal)
        return [state[1], (2 * SECOND) ** 2 * (s - state[0]) - 0.4 * SECOND * state[1]]

    right = solve_ivp(change, (0, 1), [1, 0], t_eval=np.arange(25) / 24, rtol=1e-9, atol=1e-11, max_step=1 / 96).y[0]
    for frame in (1, 4, 13, 25):
        found = remembered(shot, frame, "ring")
        assert found.max() == pytest.approx(max(right[frame - 1], 0), abs=1e-4) or found[middle] < 0
        assert found[np.argmax(np.abs(found))] == pytest.approx(right[frame - 1], abs=1e-4)


def test_whichever_frame_is_asked_first_it_is_the_same_to_the_bit() -> None:
    shot = read_shot(document({"spread": 0.6}))
    alone_at = {frame: remembered(shot, frame, "ring") for frame in (2, 17, 25, 20.5, 400)}
    store = DerivedStore()
    for frame in (400, 20.5, 2, 25, 17):
        assert np.array_equal(remembered(shot, frame, "ring", store), alone_at[frame])
    assert np.array_equal(alone_at[400], alone_at[25])


def test_between_frames_it_goes_on_smoothly() -> None:
    shot, store = read_shot(document({"spread": 0.3})), DerivedStore()
    low, mid, high = (remembered(shot, frame, "ring", store) for frame in (9, 9.5, 10))
    speed = remembered(shot, 9.5, "ring velocity", store)
    near = [remembered(shot, frame, "ring", store) for frame in (9.49, 9.51)]
    assert np.abs(mid - (low + high) / 2).max() < 0.05 * np.abs(high - low).max() + 0.02
    assert np.allclose(speed, (near[1] - near[0]) * 24 / 0.02, atol=0.02 * np.abs(speed).max() + 1e-3)


def test_copies_rise_and_swing_beyond_where_they_are_drawn() -> None:
    made = document(
        {"of": "copies", "frequency": 3.0, "damping": 0.1},
        geometry={"shape": "box", "width": 0.04, "height": 0.04, "depth": 0.04},
        array={"along": "grid", "counts": [9, 1, 9], "spacing": [0.05, 1.0, 0.05]},
        copies=[{"signal": "raised", "does": "move", "by": [0.0, 0.2, 0.0]}],
    )
    made["signals"].append({"name": "raised", "recipe": recipe(step("attribute", attribute="ring", read="number"))})
    made["tracks"][0] = moves("/locators/drop/position/1", 0.5, 0.0)
    shot = read_shot(complete_ids(made))
    heights = []
    for frame in (1, 25):
        graph = FrameGraph(resolve(shot, frame), MadeFiles())
        [stand] = graph.shapes.stands_of(graph.shot.objects[0])
        heights.append(stand.matrices[:, 1, 3])
        assert np.allclose(heights[-1], 0.2 * stand.attributes["ring"][:, 0], atol=1e-6)
    assert np.abs(heights[0]).max() == 0 and heights[1].max() > 0.02
