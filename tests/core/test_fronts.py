"""Fronts over surfaces against ways that are known: straight lines, great circles, exact geodesics, and the wake of what moves."""

import igl
import numpy as np
import numpy.typing as npt
import pytest
import trimesh

from tests.builders import flat_net
from texallon.core.motion.fronts import Fronts, corners_of, edges_between, spread_fronts

Doubles = npt.NDArray[np.float64]


def spread(places: Doubles, faces: object, at: object, begun: object = 0.0, slowness: object = 1.0) -> Fronts:
    count, nothing = len(places), np.zeros(0, np.int64)
    starts = np.atleast_1d(np.asarray(at, np.int64))
    corners = corners_of(count, np.asarray(faces, np.int64))
    edges = edges_between(count, nothing, nothing, np.zeros(0))
    slow = np.broadcast_to(np.asarray(slowness, np.float64), count).copy()
    return spread_fronts(places, corners, edges, slow, starts, np.broadcast_to(begun, len(starts)).astype(np.float64))


def error(found: Doubles, right: Doubles, beyond: float) -> Doubles:
    far = right > beyond
    made: Doubles = np.abs(found[far] - right[far]) / right[far]
    return made


@pytest.mark.parametrize(("jitter", "mean", "most"), [(0.0, 1e-9, 1e-9), (0.1, 1e-6, 1e-6)])
def test_from_a_point_on_a_plane_a_front_is_a_circle(jitter: float, mean: float, most: float) -> None:
    places, faces = flat_net(101, jitter)
    start = 101 * 50 + 50
    found = error(spread(places, faces, start).arrival, np.linalg.norm(places - places[start], axis=1), 0.05)
    assert found.mean() < mean and found.max() < most


def test_from_a_line_it_is_straight_on_an_uneven_net_too() -> None:
    places, faces = flat_net(101, 0.1)
    row = np.arange(101)
    places[row, 2] = 0.0
    found = spread(places, faces, row).arrival
    assert np.abs(found - places[:, 2])[101 * 20 :].max() < 0.003


def test_on_a_sphere_ways_are_great_circles() -> None:
    ball = trimesh.creation.icosphere(5)
    right = np.arccos(np.clip(ball.vertices @ ball.vertices[0], -1, 1))
    found = error(spread(np.array(ball.vertices), ball.faces, 0).arrival, right, 0.1)
    assert found.mean() < 2e-3 and found.max() < 0.01


def test_on_an_uneven_body_they_are_exact_geodesics() -> None:
    """Against libigl's exact geodesics (J. Mitchell, D. Mount, C. Papadimitriou, "The discrete geodesic problem", SIAM J. Comput. 16, 1987)."""
    ball = trimesh.creation.icosphere(4)
    places = ball.vertices * (1 + 0.3 * np.sin(5 * ball.vertices[:, :1]) * np.cos(4 * ball.vertices[:, 1:2]))
    nothing = np.zeros(0, np.int64)
    all_of_it = np.arange(len(places), dtype=np.int64)
    right = igl.exact_geodesic(places, ball.faces.astype(np.int64), np.array([0]), nothing, all_of_it, nothing)
    found = error(spread(places, ball.faces, 0).arrival, right, 0.1)
    assert found.mean() < 5e-3 and found.max() < 0.02


def test_what_moves_faster_than_its_front_leaves_a_wedge() -> None:
    """A source that goes along a line at twice the speed of its fronts: each place is reached from where that is earliest (a wake's angle has the
    sine ½: E. Mach, 1887)."""
    places, faces = flat_net(101, 0.0)
    row = 101 * 50 + np.arange(101)
    begun = places[row, 0] / 2.0
    found = spread(places, faces, row, begun).arrival
    ways = np.linalg.norm(places[:, None] - places[None, row], axis=2) + begun
    right = ways.min(axis=1)
    assert np.abs(found - right).max() < 0.012
    inside = (places[:, 0] > 0.6) & (np.abs(places[:, 2] - 0.5) < 0.3)
    wake = places[:, 0] / 2 + np.abs(places[:, 2] - 0.5) * np.sqrt(1 - 0.25)
    assert np.abs(found - wake)[inside].max() < 0.012


def test_a_slow_strip_bends_the_way_as_light_is_bent() -> None:
    """Snell: of two halves of which one is twice as slow, the time between points is the least over all places of crossing (Fermat)."""
    places, faces = flat_net(161, 0.0)
    slow = np.where(places[:, 2] > 0.5, 2.0, 1.0)
    start = 80
    found = spread(places, faces, start, slowness=slow).arrival
    ends = np.flatnonzero((places[:, 2] > 0.7) & (np.abs(places[:, 0] - 0.9) < 0.1))
    across = np.linspace(0, 1, 4001)
    before = np.hypot(across - places[start, 0], 0.5)
    for end in ends[::97]:
        right = (before + 2 * np.hypot(across - places[end, 0], places[end, 2] - 0.5)).min()
        assert found[end] == pytest.approx(right, rel=0.015)


def test_nothing_comes_to_what_hangs_together_with_nothing() -> None:
    places, faces = flat_net(11, 0.0)
    two = np.concatenate([places, places + np.array([5, 0, 0])])
    found = spread(two, np.concatenate([faces, faces + len(places)]), [0, 5], [0.25, 0.0])
    assert np.isinf(found.arrival[len(places) :]).all() and (found.start_of[len(places) :] == -1).all()
    assert np.isfinite(found.arrival[: len(places)]).all()
    assert np.isinf(spread(places, faces, []).arrival).all()


def test_where_nothing_passes_a_front_goes_round() -> None:
    places, faces = flat_net(61, 0.0)
    wall = (np.abs(places[:, 2] - 0.5) < 0.01) & (places[:, 0] < 0.7)
    found = spread(places, faces, 30, slowness=np.where(wall, np.inf, 1.0)).arrival
    behind = 60 * 61 + 30
    right = np.hypot(0.7 - places[30, 0], 0.5) + np.hypot(0.7 - places[behind, 0], 0.5)
    assert found[behind] == pytest.approx(right, rel=0.02)
