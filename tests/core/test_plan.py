"""Plans: equal steps once, edits recompute only what is downstream, and the same values however they are cut."""

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pytest

from tests.builders import KeptValues, layer, look, plan_of, recipe, shot, step, value
from texallon.core.document import DocumentError
from texallon.core.ops.points import Points
from texallon.core.signal.check_recipes import check_shot
from texallon.core.signal.look_plan import plan_look
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import evaluate, fill_missing
from texallon.core.signal.sampling import sample_signal

POSITION = np.random.default_rng(0).uniform(-2, 2, (3, 30_011)).astype(np.float32)


def values_of(plan: Plan, **options: Any) -> dict[str, np.ndarray]:
    count = POSITION.shape[1]
    return evaluate(
        plan, plan.points(count, fill_missing(plan.required_data, {"position": POSITION}, count)), **options
    )


def test_equal_recipes_are_computed_once() -> None:
    noisy = recipe(step("noise", seed=4), step("remap"))
    made = shot(looks=[look("l", layer("a", noisy, base_weight=value(0.2), specular_roughness=value(0.9)))])
    names = [type(node.op).__name__ for node in plan_look(made, made.looks[0]).nodes]
    assert names.count("Noise") == 1
    assert names.count("Remap") == 1


def test_an_edit_keeps_the_keys_of_everything_upstream() -> None:
    before = plan_of(step("noise"), step("remap", from_end=0.7), step("threshold"))
    after = plan_of(step("noise"), step("remap", from_end=0.7), step("threshold", level=0.2))
    kept = [a.key == b.key for a, b in zip(before.nodes, after.nodes, strict=True)]
    assert kept == [True, True, False]


def test_a_cached_step_does_not_run_again(monkeypatch: pytest.MonkeyPatch) -> None:
    from texallon.core.ops.noise import Noise

    runs = []
    original = Noise._fill
    monkeypatch.setattr(Noise, "_fill", lambda self, points, out: (runs.append(1), original(self, points, out)))
    cache = KeptValues()
    first = values_of(plan_of(step("noise"), step("remap")), cache=cache)["value"]
    assert runs
    runs.clear()
    second = values_of(plan_of(step("noise"), step("remap", from_end=0.4)), cache=cache)["value"]
    assert not runs
    assert not np.array_equal(first, second)


@pytest.mark.parametrize("chunk", [7, 97, 8192, 1_000_000])
def test_chunks_and_threads_change_nothing(chunk: int) -> None:
    plan = plan_of(step("noise", octaves=3), step("remap", ease="smooth"), step("multiply", by=[1, 0.5, 0.2]))
    whole = values_of(plan)["value"]
    with ThreadPoolExecutor(3) as pool:
        assert np.array_equal(values_of(plan, chunk=chunk, pool=pool)["value"], whole)


def test_a_plan_asks_only_for_the_data_it_needs() -> None:
    assert plan_of(step("constant")).required_data == frozenset()
    assert plan_of(step("height")).required_data == {"position"}
    assert plan_of(step("attribute", attribute="heat")).required_data == {"attribute:heat"}
    assert plan_of(step("noise", space="object")).required_data == {"object_position", "object_footprint"}


def test_a_locator_that_moves_changes_only_what_is_measured_from_it() -> None:
    def plan(height: float) -> Plan:
        spaces = [{"name": "w", "position": [0, height, 0]}]
        return plan_of(step("noise"), step("multiply", by={"signal": "s"}), locators=spaces, signals=[
            {"name": "s", "recipe": recipe(step("height", origin={"locator": "w"}))}
        ])  # fmt: skip

    changed = [a.key != b.key for a, b in zip(plan(0.0).nodes, plan(0.5).nodes, strict=True)]
    assert changed == [False, True, True]


def test_layers_cover_by_mask_and_opacity() -> None:
    half = {**layer("over", recipe(step("constant", value=0.5)), base_weight=value(1.0)), "opacity": 0.5}
    made = shot(looks=[look("l", layer("under", base_weight=value(0.2)), half)])
    covered = values_of(plan_look(made, made.looks[0]))["base_weight"]
    assert np.allclose(covered, 0.2 + 0.25 * (1.0 - 0.2))


@pytest.mark.parametrize(
    ("blend", "expected"), [("replace", 0.5), ("multiply", 0.3), ("add", 1.1), ("lighter", 0.6), ("darker", 0.5)]
)
def test_blends(blend: str, expected: float) -> None:
    made = shot(looks=[look("l", layer("a", base_weight=value(0.6)), layer("b", base_weight=value(0.5, blend)))])
    assert np.allclose(values_of(plan_look(made, made.looks[0]))["base_weight"], expected)


def test_a_mask_that_is_no_number_hides_its_layer() -> None:
    masked = layer("b", recipe(step("attribute", attribute="m")), base_weight=value(1.0))
    made = shot(looks=[look("l", layer("a", base_weight=value(0.2)), masked)])
    plan = plan_look(made, made.looks[0])
    data = {"attribute:m": np.array([[np.nan, -5, 0.5, 9, np.inf]], np.float32)}
    result = evaluate(plan, Points(5, data))["base_weight"][0]
    assert np.allclose(result, [0.2, 0.2, 0.6, 1.0, 1.0])


def test_a_layer_that_is_off_does_nothing() -> None:
    off = {**layer("b", base_weight=value(1.0)), "on": False}
    made = shot(looks=[look("l", layer("a", base_weight=value(0.2)), off)])
    assert np.allclose(values_of(plan_look(made, made.looks[0]))["base_weight"], 0.2)


def test_a_circle_of_signals_is_refused_by_naming_it() -> None:
    loop = [
        {"name": "a", "recipe": recipe(step("signal", signal="b"))},
        {"name": "b", "recipe": recipe(step("constant"), step("multiply", by={"signal": "a"}))},
    ]
    problems = check_shot(shot(signals=loop))
    assert any("a → b → a" in problem.reason for problem in problems)


@pytest.mark.parametrize(
    ("steps", "pointer", "words"),
    [
        ([step("hieght")], "/op", "did you mean “height”"),
        ([step("noise", octaves=99)], "/params/octaves", "less than or equal to 16"),
        ([step("noise", octave=3)], "/params/octave", "did you mean “octaves”"),
        ([step("remap")], "", "put a source first"),
        ([step("noise"), step("noise")], "", "a source stands first"),
        ([step("height", origin={"locator": "watrline"})], "/params", "did you mean “waterline”"),
        ([step("constant"), step("multiply", by={"signal": "splsh"})], "/params/by", "did you mean “splash”"),
        ([step("noise", size=-1)], "/params/size", "greater than or equal to 0.000001"),
        ([step("ramp", stops=[{"at": 1, "value": 0}, {"at": 0, "value": 1}])], "/params", "not in order"),
    ],
)  # fmt: skip
def test_what_is_wrong_is_said_with_its_place(steps: list[Any], pointer: str, words: str) -> None:
    made = shot(
        locators=[{"name": "waterline"}],
        signals=[{"name": "splash", "recipe": recipe(step("noise"))}],
        looks=[look("l", layer("a", {"steps": steps}))],
    )
    problem = check_shot(made)[0]
    assert problem.pointer == f"/looks/0/layers/0/where/steps/{len(steps) - 1}{pointer}"
    assert words in f"{problem.reason} {problem.hint}"


def test_a_colour_never_becomes_a_number_silently() -> None:
    coloured = recipe(step("constant", value=[1, 0, 0]))
    problems = check_shot(shot(looks=[look("l", layer("a", coloured, specular_roughness={"recipe": coloured}))]))
    assert [problem.pointer for problem in problems] == [
        "/looks/0/layers/0/where/steps/0",
        "/looks/0/layers/0/channels/specular_roughness/recipe",
    ]


def test_a_signal_can_be_sampled_at_points_of_ones_own() -> None:
    wet = recipe(step("height"), step("remap", from_start=1, from_end=0))
    made = shot(
        signals=[{"name": "s", "recipe": wet}], looks=[look("l", layer("a", wet, base_color=value([0.1, 0.2, 0.3])))]
    )
    arrays = {"position": np.array([[0, 0.25, 0], [9, 2, 9]])}
    assert sample_signal(made, "l", "s", arrays).tolist() == [0.75, 0]
    assert sample_signal(made, "l", "a.where", arrays).tolist() == [0.75, 0]
    blended = sample_signal(made, "l", "base_color", arrays)
    assert blended.shape == (2, 3)
    assert np.allclose(blended[1], 0.8)
    with pytest.raises(DocumentError, match=r"did you mean “a\.where”"):
        sample_signal(made, "l", "a.wher", arrays)
    with pytest.raises(ValueError, match="position"):
        sample_signal(made, "l", "s", {"normal": np.zeros((2, 3))})
    with pytest.raises(ValueError, match=r"\(2, 3\) is needed"):
        sample_signal(made, "l", "s", arrays | {"normal": np.zeros((2, 2))})


def test_how_a_recipe_is_written_down_changes_neither_its_key_nor_its_values() -> None:
    # A database gives members back in another order, a person may leave out what is the default, ids are made anew.
    def made(params: dict[str, Any], ident: str) -> Any:
        inner = {"steps": [{"id": ident, "op": "noise", "params": params}]}
        bent = [step("offset", by=inner, amount=0.3), step("spots", size=0.05)]
        return plan_of(*bent)

    first = made({"size": 0.2, "octaves": 3, "fields": "colour", "seed": 21}, "aa")
    other = made({"seed": 21, "fields": "colour", "octaves": 3, "size": 0.2, "space": "world"}, "bb")
    assert first.key("value") == other.key("value")
    assert first.key("value") != made({"size": 0.2, "octaves": 3, "fields": "colour", "seed": 22}, "aa").key("value")
