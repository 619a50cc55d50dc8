"""Space steps: closed forms of what they do to coordinates, and how sources, signals and second inputs are looked up in them."""

from typing import Any

import numpy as np
import pytest

from tests.builders import plan_of, recipe, run, shot, step
from texallon.core.document import DocumentError
from texallon.core.signal.check_recipes import check_shot
from texallon.core.signal.planner import Planner
from texallon.core.signal.run import evaluate, fill_missing

P = np.random.default_rng(11).uniform(-2, 2, (3, 3000)).astype(np.float32)
WHERE = step("position", read="all")


def warped(*steps: dict[str, Any], position: np.ndarray = P, **members: Any) -> np.ndarray:
    """Where a source behind some space steps is looked up, `(3, n)`."""
    return run(*steps, WHERE, data={"position": position}, **members)


def about_y(p: np.ndarray, angle: np.ndarray | float) -> np.ndarray:
    """Points turned about the y axis, right-handed."""
    c, s = np.cos(angle), np.sin(angle)
    return np.stack([c * p[0] + s * p[2], p[1], c * p[2] - s * p[0]])


def test_a_twirl_turns_in_proportion_to_the_distance_from_its_axis() -> None:
    # Rotation matrices: the pattern is turned by 50° per metre, so the lookup turns back by as much.
    radius = np.hypot(P[0], P[2])
    assert np.allclose(warped(step("twirl", angle=50)), about_y(P, -np.radians(50) * radius), atol=1e-5)


def test_a_swirl_is_full_at_its_pivot_and_none_beyond_its_radius() -> None:
    radius = np.hypot(P[0], P[2])
    left = np.clip(1 - radius / 1.5, 0, None)
    expected = about_y(P, -np.radians(200) * left**2)
    found = warped(step("swirl", angle=200, radius=1.5, power=2))
    assert np.allclose(found, expected, atol=1e-5)
    beyond = radius >= 1.5
    assert beyond.mean() > 0.2
    assert np.array_equal(found[:, beyond], P[:, beyond]), "an unclamped fall-off would turn the other way here"
    middle = np.float32([[1e-4], [0.5], [0]])
    assert np.allclose(warped(step("swirl", angle=90), position=middle), about_y(middle, -np.pi / 2), atol=1e-6)


@pytest.mark.parametrize("op", [step("twirl", angle=130), step("swirl", angle=300, radius=2.5, power=1.5)])
def test_twirl_and_swirl_preserve_area(op: dict[str, Any]) -> None:
    # A rotation that depends on the distance alone has a Jacobian of 1.
    h = 1e-3
    flat = P.copy()
    flat[1] = 0
    x, z = np.float32([[h], [0], [0]]), np.float32([[0], [0], [h]])
    across = (warped(op, position=flat + x) - warped(op, position=flat - x)) / (2 * h)
    along = (warped(op, position=flat + z) - warped(op, position=flat - z)) / (2 * h)
    area = across[0] * along[2] - across[2] * along[0]
    assert np.allclose(area, 1, atol=0.02)


def test_move_is_the_inverse_of_placing_an_object() -> None:
    op = step("move", by=[0.3, -1, 2], rotation=[20, -35, 70], scale=[2, 0.5, 1.5], pivot=[0.1, 0.2, -0.3])
    x, y, z = np.radians([20, -35, 70])
    turn_x = np.array([[1, 0, 0], [0, np.cos(x), -np.sin(x)], [0, np.sin(x), np.cos(x)]])
    turn_y = np.array([[np.cos(y), 0, np.sin(y)], [0, 1, 0], [-np.sin(y), 0, np.cos(y)]])
    turn_z = np.array([[np.cos(z), -np.sin(z), 0], [np.sin(z), np.cos(z), 0], [0, 0, 1]])
    pivot = np.array([[0.1], [0.2], [-0.3]])
    placed = turn_z @ turn_y @ turn_x @ np.diag([2, 0.5, 1.5]) @ (P - pivot) + pivot + [[0.3], [-1], [2]]
    assert np.allclose(warped(op, position=placed), P, atol=2e-5)


def test_a_map_is_turned_about_its_pivot() -> None:
    uv = np.random.default_rng(1).uniform(0, 1, (2, 500)).astype(np.float32)
    data = {"uv": uv}
    turned = run(step("turn map", angle=90, pivot_u=0.25, pivot_v=0.5), step("uv", read="both"), data=data)
    # Turned counter-clockwise by 90°, what is seen at (u, v) comes from clockwise of it.
    assert np.allclose(turned[0], 0.25 + (uv[1] - 0.5), atol=1e-6)
    assert np.allclose(turned[1], 0.5 - (uv[0] - 0.25), atol=1e-6)


def test_mirror_and_tile_fold_space() -> None:
    mirrored = warped(step("mirror", x=True, z=True, pivot=[0.5, 0, 0]))
    assert np.allclose(mirrored[0], np.abs(P[0] - 0.5) + 0.5, atol=1e-6)
    assert np.allclose(mirrored[1], P[1])
    assert np.allclose(mirrored[2], np.abs(P[2]))
    tiled = warped(step("tile", size=[0.7, 0, 1.3]))
    assert np.allclose(tiled[0], np.mod(P[0], 0.7), atol=1e-5)
    assert np.allclose(tiled[1], P[1])
    back = warped(step("tile", size=[0.7, 0, 0], mirrored=True))[0]
    folded = np.abs((P[0] + 0.7) % 1.4 - 0.7)  # the triangle wave
    assert np.allclose(back, folded, atol=1e-5)


def test_an_offset_moves_the_pattern_by_a_signal() -> None:
    along = warped(step("offset", by=0.75, amount=0.2, middle=0.5, direction=[0, 2, 0]))
    assert np.allclose(along, P - np.float32([[0], [0.1], [0]]), atol=1e-6)
    vector = warped(step("offset", by=[1, 0.5, 0], amount=0.3, middle=0.5))
    assert np.allclose(vector, P - np.float32([[0.15], [0], [-0.15]]), atol=1e-6)
    waves = {"steps": [step("height", axis="z")]}
    assert np.allclose(warped(step("offset", by=waves, amount=1, middle=0))[0], P[0] - P[2], atol=1e-5)


def test_space_steps_follow_each_other_in_reading_order() -> None:
    # First moved, then mirrored: the pattern that is mirrored is the moved one, so the lookup is mirrored last… of all read first.
    both = warped(step("move", by=[1, 0, 0]), step("mirror", x=True))
    assert np.allclose(both[0], np.abs(P[0] - 1), atol=1e-6)


def test_a_locators_space_can_be_bent() -> None:
    place = {"locators": [{"name": "l", "position": [0.4, 0, -0.2], "rotation": [0, 90, 0]}]}
    found = warped(step("mirror", space={"locator": "l"}, x=True), **place)
    # In the locator's frame x runs along the world's −z; what lies on its negative side is seen from the positive one.
    local = -(P[2] + 0.2)
    assert np.allclose(found[2], -np.abs(local) - 0.2, atol=1e-5)
    assert np.allclose(found[:2], P[:2], atol=1e-5)


def test_only_what_is_measured_in_the_bent_space_notices() -> None:
    data = {"position": P, "uv": P[:2]}
    bent_uv = run(step("twirl", angle=90, space="uv"), step("noise"), data=data)
    assert np.array_equal(bent_uv, run(step("noise"), data=data)), "this noise is measured in the world"
    assert not np.array_equal(run(step("twirl", angle=90, space="uv"), step("noise", space="uv"), data=data), bent_uv)


def test_a_second_input_is_looked_up_where_the_point_is_unless_it_carries_its_own_bend() -> None:
    signals = {"signals": [{"name": "where", "recipe": recipe(step("position", read="x"))}]}
    data = {"position": P}
    shift = step("move", by=[1, 0, 0])
    plain = run(shift, step("constant", value=0), step("add", by={"signal": "where"}), data=data, **signals)[0]
    assert np.allclose(plain, P[0])
    own = run(step("constant", value=0), step("add", by={"signal": "where", "space": [shift]}), data=data, **signals)[0]
    assert np.allclose(own, P[0] - 1, atol=1e-6)
    inner = {"steps": [shift, step("signal", signal="where")]}
    assert np.allclose(
        run(step("constant", value=0), step("add", by=inner), data=data, **signals)[0], P[0] - 1, atol=1e-6
    )


def test_a_named_signal_is_looked_up_in_the_bent_space_as_a_whole() -> None:
    signals = {"signals": [{"name": "s", "recipe": recipe(step("position", read="x"), step("multiply", by={"steps": [step("position", read="z")]}))}]}  # fmt: skip
    found = run(step("move", by=[1, 0, 2]), step("signal", signal="s"), data={"position": P}, **signals)[0]
    assert np.allclose(found, (P[0] - 1) * (P[2] - 2), atol=1e-5)


@pytest.mark.parametrize(
    "op", [step("twirl", angle=400), step("swirl", angle=900, radius=3), step("move", scale=[0.1, 1, 1])]
)
def test_a_stretched_lookup_is_filtered_more(op: dict[str, Any]) -> None:
    data = {"position": P, "footprint": np.full((1, 3000), 0.05)}
    fine = step("noise", size=0.3, octaves=2, low=-1, high=1)
    assert run(op, fine, data=data).std() < 0.8 * run(fine, data=data).std()


def test_a_step_that_is_off_bends_nothing_and_one_after_the_source_is_refused() -> None:
    off = {"op": "twirl", "on": False, "params": {"angle": 90}}
    assert np.array_equal(warped(off), P)
    with pytest.raises(DocumentError, match="before the source"):
        plan_of(step("noise"), step("twirl"))
    with pytest.raises(DocumentError, match="no source"):
        plan_of(step("twirl"))


def test_places_that_are_no_number_stay_so() -> None:
    odd = np.float32([[np.nan, 0.5], [0, 0], [0, 0.5]])
    for name in ("twirl", "swirl", "move", "tile", "mirror", "offset"):
        found = warped(step(name), position=odd)
        assert not np.isfinite(found[:, 0]).all()
        assert np.isfinite(found[:, 1]).all()


def test_what_measures_from_a_locator_or_an_object_takes_a_stand_in() -> None:
    wet = recipe(step("height", origin={"locator": "waterline"}))
    members = {
        "locators": [{"name": "waterline", "position": [0, 1, 0]}, {"name": "pond", "position": [0, -2, 0]}],
        "objects": [{"name": "crate", "geometry": {"file": "c"}, "look": "plain", "position": [0, 5, 0]}],
        "signals": [{"name": "wet", "recipe": wet}],
    }
    data = {"position": P}
    plain = run(step("signal", signal="wet"), data=data, **members)[0]
    assert np.allclose(plain, P[1] - 1, atol=1e-6)
    here = run(step("signal", signal="wet", stand_ins={"waterline": {"locator": "pond"}}), data=data, **members)[0]
    assert np.allclose(here, P[1] + 2, atol=1e-6)
    crate = run(step("signal", signal="wet", stand_ins={"waterline": {"object": "crate"}}), data=data, **members)[0]
    assert np.allclose(crate, P[1] - 5, atol=1e-6)
    joined = run(
        step("constant", value=0),
        step("add", by={"signal": "wet", "stand_ins": {"waterline": {"locator": "pond"}}}),
        data=data,
        **members,
    )[0]
    assert np.allclose(joined, P[1] + 2, atol=1e-6)


def test_a_shot_without_the_signals_locator_measures_from_the_worlds_origin() -> None:
    signals = [{"name": "wet", "recipe": recipe(step("height", origin={"locator": "waterline"}))}]
    assert check_shot(shot(signals=signals)) == []
    assert np.allclose(run(step("signal", signal="wet"), data={"position": P}, signals=signals)[0], P[1])
    direct = shot(
        looks=[{"name": "l", "layers": [{"name": "a", "where": recipe(step("height", origin={"object": "crate"}))}]}]
    )
    assert "there is no object “crate”" in check_shot(direct)[0].reason


def test_equal_bends_are_computed_once() -> None:
    made = shot()
    planner = Planner(made)
    spaced = {"steps": [step("twirl", angle=33), step("noise")]}
    from texallon.core.document.recipe import Recipe

    first = planner.recipe(Recipe.model_validate(spaced), ("a",))
    second = planner.recipe(Recipe.model_validate(spaced), ("b",))
    assert first == second
    plan = planner.plan_of({"value": first[-1]})
    count = P.shape[1]
    assert evaluate(plan, plan.points(count, fill_missing(plan.required_data, {"position": P}, count)))[
        "value"
    ].shape == (1, count)
