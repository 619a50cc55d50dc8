"""Stand-in simulations: what they are at a moment follows from the moment; what they should be is counted and measured."""

from typing import Any

import numpy as np
import pytest
from pydantic import ValidationError

from tests import builders
from tests.builders import MadeFiles, layer, look, recipe, step, value
from tests.core.test_growth import remembered
from texallon.core.document import read_shot
from texallon.core.document.ids import complete_ids
from texallon.core.document.resolved import resolve
from texallon.core.document.simulation import Cells, Flow, Footsteps, Rain, Spores
from texallon.core.geometry.bodies.sizes import body_size
from texallon.core.geometry.simulations.cells import make_cells
from texallon.core.geometry.simulations.flow import make_flow, spread_of
from texallon.core.geometry.simulations.footsteps import foot_at, make_footsteps
from texallon.core.geometry.simulations.rain import make_rain
from texallon.core.geometry.simulations.spores import make_spores
from texallon.core.render.object_geometry import object_geometry
from texallon.core.render.render_frame import render_frame


def rain(seconds: float, **more: Any) -> Rain:
    return Rain(**{"shape": "rain", "seconds": seconds, "rate": 300.0, **more})


def by_number(mesh: Any) -> dict[int, np.ndarray]:
    return {int(n): row for n, row in zip(mesh.attributes["number"][:, 0], mesh.vertices, strict=True)}


def test_drops_fall_at_their_speed_and_rest_where_they_hit() -> None:
    early, late = by_number(make_rain(rain(1.0))), by_number(make_rain(rain(1.05)))
    both = early.keys() & late.keys()
    assert len(both) > 60
    for number in both:
        a, b = early[number], late[number]
        assert a[0] == b[0] and a[2] == b[2]
        assert b[1] == pytest.approx(max(a[1] - 6.5 * 0.05, 0), abs=1e-5)
    assert all(row[1] == 0 for number, row in early.items() if number not in late)


@pytest.mark.parametrize("rate", [50.0, 1000.0])
def test_as_many_fall_as_are_asked_for_evenly_over_the_ground(rate: float) -> None:
    hits: dict[int, np.ndarray] = {}
    for frame in range(241):
        mesh = make_rain(rain(frame / 24, rate=rate, rests=0.05))
        ages = mesh.attributes["age"][:, 0]
        hits |= {n: row for (n, row), age in zip(by_number(mesh).items(), ages, strict=True) if age >= 0}
    expected = rate * 10
    assert len(hits) == pytest.approx(expected, abs=0.02 * expected + 2)
    at = np.array(list(hits.values()))
    counts, _, _ = np.histogram2d(at[:, 0], at[:, 2], bins=4, range=[[-1, 1], [-1, 1]])
    mean = len(hits) / 16
    # Poisson's scatter: five standard deviations.
    assert np.abs(counts - mean).max() < 5 * np.sqrt(mean)


def test_where_none_falls_nothing_is_seen_and_nothing_breaks() -> None:
    mesh = make_rain(rain(3.0, rate=0.0))
    assert mesh.attributes["radius"].max() == 0
    with pytest.raises(ValidationError, match="drops at a moment"):
        rain(0.0, rate=1e6, height=1e4, speed=1e-3)


@pytest.mark.parametrize("made", [rain(2.0), Spores(shape="spores", count=77), Footsteps(shape="footsteps")])
def test_their_size_is_known_before(made: Any) -> None:
    maker = {Rain: make_rain, Spores: make_spores, Footsteps: make_footsteps}[type(made)]
    size, mesh = body_size(made), maker(made)
    assert len(mesh.vertices) <= size.points and len(mesh.faces) <= size.triangles


def test_spores_go_with_the_wind_and_swell_at_the_border_they_come_in_by() -> None:
    def at(seconds: float) -> Any:
        return make_spores(Spores(shape="spores", count=500, wind=(0.4, 0.0, 0.0), wavering=0.0, seconds=seconds))

    early, late = at(0.0), at(0.5)
    moved = (late.vertices - early.vertices)[:, 0]
    assert np.allclose(np.where(moved < 0, moved + 2.0, moved), 0.2, atol=1e-5)
    jumped = moved < 0
    assert 10 < jumped.sum() < 100
    near = np.abs(np.abs(late.vertices[:, 0]) - 1.0) < 0.01
    assert late.attributes["radius"][near].max() < 0.2 * late.attributes["radius"].max()


def test_a_foot_that_stands_does_not_slide_and_both_get_on_alike() -> None:
    steps = Footsteps(shape="footsteps", stride=0.6, pace=2.0)
    moments = np.linspace(0, 4, 1601)
    for side in (0, 1):
        ways = np.array([foot_at(steps.model_copy(update={"seconds": t}), side) for t in moments])
        along, high = ways.T
        down = high == 0
        assert (np.diff(along)[down[1:] & down[:-1]] == 0).all() and 0.5 < down.mean() < 0.7
        assert (np.diff(along) >= -1e-12).all() and high.max() == pytest.approx(0.08, abs=1e-4)
        # Two steps a second, of both feet: each gets on by its stride once a second.
        assert along[-1] - along[0] == pytest.approx(4 * 0.6, abs=1e-9)


def test_feet_are_closed_bodies() -> None:
    mesh = make_footsteps(Footsteps(shape="footsteps"))
    a, b, c = (mesh.vertices[mesh.faces[:, k]].astype(float) for k in range(3))
    volume = (np.cross(a, b) * c).sum() / 6
    area = np.cross(b - a, c - a)
    assert volume > 0 and np.allclose(area.sum(axis=0), 0, atol=1e-6)
    assert mesh.part_names == ("left", "right")


def scene(geometry: dict[str, Any], touch: dict[str, Any], own: dict[str, Any]) -> dict[str, Any]:
    ground = {
        "name": "ground", "look": "snow", "geometry": {"shape": "plane", "width": 2.0, "depth": 2.0, "segments": 100},
        "remembers": [{"name": "print", "signal": "touch", **own}],
    }  # fmt: skip
    mover = {"name": "mover", "look": "snow", "geometry": geometry, "position": [-0.6, 0.0, 0.0]}
    signal = {"name": "touch", "recipe": recipe(step("contact", to={"object": "mover"}, falloff="linear", **touch))}
    made: dict[str, Any] = complete_ids(
        builders.document(
            frames={"first": 1, "last": 49, "rate": 24.0},
            objects=[ground, mover],
            signals=[signal],
            looks=[look("snow", layer("base", base_color=value([0.8] * 3)))],
        )
    )
    return made


def test_feet_leave_prints_where_they_stood_and_none_where_they_were_carried() -> None:
    steps = {"shape": "footsteps", "stride": 0.5, "pace": 2.0, "lift": 0.15}
    shot = read_shot(scene(steps, {"end": 0.03}, {"kind": "growth", "speed": 0.0}))
    found, at = remembered(shot, 49, "print"), object_geometry(shot, "ground", MadeFiles()).vertices
    printed = at[found > 0.5]
    for side in (0, 1):
        own = printed[np.sign(printed[:, 2]) == (1 if side else -1)]
        stood = sorted(
            {round(foot_at(Footsteps(**steps, seconds=t), side)[0] - 0.6, 3) for t in (0.0, 0.5, 1.0, 1.5, 2.0)}
        )
        stood = [x for x in stood if abs((x + 0.6) / 0.25 - round((x + 0.6) / 0.25)) < 1e-6]
        assert all(np.abs(own[:, 0] - x).min() < 0.03 for x in stood)
        between = [x + 0.25 for x in stood[:-1]]
        assert all(np.abs(own[:, 0] - x).min() > 0.1 for x in between)


def test_drops_leave_rings() -> None:
    drops = {"shape": "rain", "rate": 6.0, "width": 0.6, "depth": 1.0}
    own = {"kind": "springs", "frequency": 0.0, "spread": 0.6, "damping": 0.1, "strength": -20.0}
    shot = read_shot(scene(drops, {"end": 0.04}, own))
    spread_of = [float((np.abs(remembered(shot, frame, "print")) > 1e-3).mean()) for frame in (1, 20, 40)]
    assert spread_of[0] < 0.05 and spread_of[0] < spread_of[1] < spread_of[2]


def test_they_are_seen_in_pictures_and_move() -> None:
    members: dict[str, Any] = {
        "looks": [look("glow", layer("base", base_color=value([0.0] * 3), emission_luminance=value(1.0)))],
        "camera": {"position": [0, 1.5, 5], "target": [0, 1.0, 0]}, "environment": {"intensity": 0.0},
    }  # fmt: skip
    for geometry in (
        {"shape": "rain", "rate": 100, "radius": 0.05},
        {"shape": "spores", "radius": 0.05},
        {"shape": "footsteps", "radius": 0.4},
    ):
        made = builders.document(objects=[{"name": "a", "look": "glow", "geometry": geometry}], **members)
        shot = read_shot(complete_ids(made))
        first, later = (render_frame(resolve(shot, frame), MadeFiles(), 48, 32, 4, 2).picture() for frame in (1, 9))
        assert first.max() > 0.3 and np.abs(first - later).max() > 0.3


def flow(seconds: float, **more: Any) -> Flow:
    return Flow(**{"shape": "flow", "seconds": seconds, "stiffens": 1.0, "pours": 0.0, **more})


def test_a_flow_spreads_as_huppert_found() -> None:
    """H. E. Huppert, J. Fluid Mech. 121 (1982): R = 0.894 (g V³ / 3ν)^(1/8) t^(1/8) for a volume let go at once, and
    R = 0.715 (g Q³ / 3ν)^(1/8) t^(1/2) for one that grows by Q a second (both from memory)."""
    volume, viscosity = 0.01, 0.05
    for seconds in (10.0, 100.0, 3000.0):
        let_go = spread_of(flow(seconds, volume=volume, viscosity=viscosity))
        assert let_go.radius == pytest.approx(
            0.894 * (9.81 * volume**3 / (3 * viscosity) * seconds) ** (1 / 8), rel=1e-6
        )
        assert let_go.depth == pytest.approx(4 / 3 * volume / (np.pi * let_go.radius**2))
    rate = 1e-3
    for seconds in (20.0, 80.0):
        poured = spread_of(flow(seconds, volume=rate * 100, pours=100.0, viscosity=viscosity))
        # Taken as a row of layers that keep their shape, it runs 5 % wider than the exact solution.
        want = 0.715 * (9.81 * rate**3 / (3 * viscosity)) ** (1 / 8) * seconds**0.5
        assert poured.radius == pytest.approx(want, rel=0.06) and poured.volume == pytest.approx(rate * seconds)


@pytest.mark.parametrize("seconds", [0.3, 2.0, 40.0])
@pytest.mark.parametrize("lobes", [0.0, 0.4])
def test_a_flow_keeps_its_volume_and_meets_the_ground(seconds: float, lobes: float) -> None:
    made = flow(seconds, volume=0.02, pours=1.0, stiffens=4.0, lobes=lobes, segments=256)
    mesh = make_flow(made)
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    shadow = np.abs((b - a)[:, 2] * (c - a)[:, 0] - (b - a)[:, 0] * (c - a)[:, 2]) / 2
    volume = (shadow * corners[:, :, 1].mean(axis=1)).sum()
    assert volume == pytest.approx(0.02 * min(seconds, 1.0), rel=0.01)
    rim = mesh.attributes["rim"][:, 0] == 1
    assert np.abs(mesh.vertices[rim, 1]).max() < 1e-9 and mesh.vertices[:, 1].min() >= 0
    faces = np.cross(b - a, c - a)
    assert (faces[:, 1] > 0).all(), "all of it is seen from above"
    assert (mesh.normals[:, 1] >= -1e-6).all() and np.linalg.norm(mesh.normals, axis=1) == pytest.approx(1, abs=1e-5)


def test_a_flow_cools_by_its_depth_and_stiffens_as_it_cools() -> None:
    """Of a layer that does not spread the excess heat falls as exp(−t / (cools × depth / 1 cm)) (Newton's law of cooling)."""
    still = flow(6.0, viscosity=1e6, volume=0.008, cools=2.0)
    found = spread_of(still)
    lost = 6.0 * 0.01 / (2.0 * found.depth)
    assert found.heat_lost == pytest.approx(lost, rel=1e-6)
    temperature = make_flow(still).attributes["temperature"][:, 0]
    assert temperature.max() == pytest.approx(290 + 1210 * np.exp(-lost), rel=1e-5)
    assert temperature.min() == pytest.approx(290, abs=1)
    radii = [spread_of(flow(60.0, stiffens=stiffens)).radius for stiffens in (1.0, 2.0, 10.0)]
    assert radii[0] > radii[1] * 1.02 > radii[2]
    late, later = (spread_of(flow(at, stiffens=10.0)).radius for at in (600.0, 3600.0))
    assert later / late < 1.0001, "it stands still for good"


def test_a_flows_steps_are_fine_enough() -> None:
    """Held against the same rule in fifteen times as many, over what is poured and after."""
    for seconds in (0.4, 1.0, 3.0, 30.0):
        made = flow(seconds, pours=1.0, stiffens=3.0, volume=0.004, viscosity=0.02)
        coarse = spread_of(made)
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr("texallon.core.geometry.simulations.flow.STEPS", 1200)
            fine = spread_of(made)
        assert coarse.radius == pytest.approx(fine.radius, rel=1e-4)
        assert coarse.heat_lost == pytest.approx(fine.heat_lost, rel=5e-3)


def cells(seconds: float, **more: Any) -> Cells:
    return Cells(**{"shape": "cells", "seconds": seconds, "divides": 0.5, "uneven": 0.0, **more})


def test_cells_double_at_each_division_until_they_divide_no_more() -> None:
    for seconds, count in ((-3.0, 1), (0.2, 1), (0.7, 2), (2.2, 16), (2.7, 32), (40.0, 64)):
        assert len(make_cells(cells(seconds, divisions=6)).vertices) == count
    uneven = make_cells(cells(2.6, uneven=0.6, divisions=9))
    assert len({float(each) for each in uneven.attributes["generation"][:, 0]}) > 1
    numbers = uneven.attributes["number"][:, 0]
    assert len(set(numbers.tolist())) == len(numbers)


def test_a_division_keeps_volume_and_place_and_nothing_jumps() -> None:
    def volume(seconds: float) -> float:
        return float((make_cells(cells(seconds, uneven=0.3)).attributes["radius"].astype(np.float64) ** 3).sum())

    moments = np.linspace(0.3, 4.4, 300)
    volumes = np.array([volume(float(at)) for at in moments])
    assert (np.diff(volumes) > -1e-9).all() and (np.diff(volumes) / volumes[1:]).max() < 0.05
    before, after = make_cells(cells(1.9999)), make_cells(cells(2.0001))
    assert len(after.vertices) == 2 * len(before.vertices)
    mothers = np.repeat(before.vertices, 2, axis=0)
    assert np.linalg.norm(after.vertices - mothers, axis=1).max() < 0.1 * 0.03


@pytest.mark.parametrize("flat", [False, True])
def test_cells_press_each_other_apart_in_a_ball_or_a_layer(flat: bool) -> None:
    made = make_cells(cells(4.4, divisions=8, flat=flat))
    at, radius = made.vertices.astype(np.float64), made.attributes["radius"][:, 0].astype(np.float64)
    apart = np.linalg.norm(at[:, None] - at[None], axis=2) + np.eye(len(at)) * 9
    overlap = 1 - (apart / (radius[:, None] + radius[None])).min(axis=1)
    assert np.median(overlap) < 0.2
    middle = at - at.mean(axis=0)
    widest = np.linalg.norm(middle, axis=1).max()
    filled = (radius**2).sum() if flat else (radius**3).sum()
    assert filled / widest ** (2 if flat else 3) > 0.15, "they lie together"
    if flat:
        assert at[:, 1] == pytest.approx(radius, abs=1e-6)


def test_strains_stay_near_their_mothers() -> None:
    made = make_cells(cells(3.2, strays=0.1, divisions=6))
    numbers, strain = made.attributes["number"][:, 0].astype(int), made.attributes["strain"][:, 0]
    assert strain.min() >= 0 and strain.max() <= 1
    by = dict(zip(numbers.tolist(), strain.tolist(), strict=True))
    sisters = [abs(by[n] - by[n + 1]) for n in by if n % 2 == 0 and n + 1 in by]
    assert sisters and max(sisters) <= 0.2 + 1e-6
    same = make_cells(cells(3.2, strays=0.0, divisions=6)).attributes["strain"]
    assert np.ptp(same) == 0


@pytest.mark.parametrize("seed", range(24))
def test_at_the_ends_of_their_ranges_flows_and_cells_are_still_meshes(seed: int) -> None:
    """Every measure at its least or its most, by chance."""
    random = np.random.default_rng(seed)

    def of(kind: Any, make: Any) -> None:
        ends = {}
        for name, field in kind.model_fields.items():
            limits = {type(each).__name__: each for each in field.metadata}
            if name not in ("shape", "seconds", "segments", "seed", "divisions", "flat") and "Le" in limits:
                low = limits["Ge"].ge if "Ge" in limits else 1e-3
                ends[name] = float(random.choice([low, limits["Le"].le]))
        seconds = float(random.choice([-1e6, 0.0, 1e-9, 3.0, 1e6]))
        made = make(kind(**{"shape": kind.__name__.lower(), "seconds": seconds, **ends}))
        assert np.isfinite(made.vertices).all(), ends
        assert all(np.isfinite(each).all() for each in made.attributes.values()), ends

    of(Flow, make_flow)
    of(Cells, make_cells)
