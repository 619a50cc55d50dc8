"""Named numbers: the same as their values written out, through plan and picture; what can't be is said with its place."""

from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import MadeFiles, document, layer, look, recipe, shot, square, step
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.named_number import with_numbers
from texallon.core.document.resolved import resolve
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import render_frame
from texallon.core.signal.check_recipes import check_shot

SIZE = {"name": "pattern size", "value": 0.4, "unit": "m", "low": 0.01, "high": 2.0, "look": "a"}


def two_noises(size: Any, other: Any) -> dict[str, Any]:
    inner = {"steps": [step("noise", size=other, seed=2)]}
    return look("a", layer("l", base_weight={"recipe": recipe(step("noise", size=size), step("multiply", by=inner))}))


def keys(made: Any) -> str:
    return FrameGraph(made, MadeFiles()).plan(0).content_key


@given(st.floats(0.05, 2.0), st.floats(0.1, 3.0), st.floats(0, 0.5))
def test_several_parameters_use_one_number_also_multiplied(size: float, times: float, plus: float) -> None:
    numbers = [{**SIZE, "value": size}]
    refs = {"number": "pattern size"}, {"number": "pattern size", "times": times, "plus": plus}
    named = shot(numbers=numbers, looks=[two_noises(*refs)])
    assert keys(named) == keys(shot(looks=[two_noises(size, size * times + plus)]))


def test_the_picture_is_that_of_the_values_and_follows_the_number() -> None:
    files = MadeFiles(floor=square(4.0))
    things = [{"name": "f", "geometry": {"file": "floor"}, "look": "a"}]

    def picture(**members: Any) -> np.ndarray:
        made = shot(objects=things, camera={"position": [0, 2, 1], "target": [0, 0, 0]}, **members)
        return render_frame(made, files, 24, 18, 2, 2).picture()

    refs = {"number": "pattern size"}, {"number": "pattern size", "times": 2.0}
    written = picture(looks=[two_noises(0.4, 0.8)])
    assert np.array_equal(picture(numbers=[SIZE], looks=[two_noises(*refs)]), written)
    assert not np.array_equal(picture(numbers=[{**SIZE, "value": 0.2}], looks=[two_noises(*refs)]), written)


def test_in_vectors_stops_signals_and_masks_too() -> None:
    numbers = [{"name": "n", "value": 0.25}]
    ref = {"number": "n"}
    stops = [{"at": 0.0, "value": [ref, 0.5, 0.0]}, {"at": 1.0, "value": [1, 1, 1]}]
    made = read_shot(
        document(
            numbers=numbers,
            signals=[{"name": "s", "recipe": recipe(step("noise", size=ref))}],
            looks=[look("a", layer("l", recipe(step("noise", scale=[ref, 1, 1])), base_color={"recipe": recipe(step("noise"), step("ramp", stops=stops))}))],
        )
    )  # fmt: skip
    assert check_shot(made) == []
    now = resolve(made)
    assert now.signals[0].recipe.steps[0].params["size"] == 0.25
    where = now.looks[0].layers[0].where
    assert where is not None and where.steps[0].params["scale"] == [0.25, 1, 1]
    ramp = now.looks[0].layers[0].channels["base_color"].recipe.steps[1]
    assert ramp.params["stops"][0]["value"] == [0.25, 0.5, 0.0]


def test_what_names_no_number_is_left_as_it_is() -> None:
    made = shot(numbers=[SIZE], looks=[two_noises({"number": "pattern size"}, 0.3), look("b", layer("l"))])
    signals, looks = with_numbers(made.numbers, made.signals, made.looks)
    assert looks[1] is made.looks[1] and signals == []


@pytest.mark.parametrize(
    ("members", "pointer", "reason"),
    [
        ({"looks": [two_noises({"number": "patern size"}, 1.0)]}, "/looks/0/layers/0/channels/base_weight/recipe/steps/0/params/size", "did you mean “pattern size”"),
        ({"looks": [two_noises(1.0, {"number": "x"})]}, "/looks/0/layers/0/channels/base_weight/recipe/steps/1/params/by/steps/0/params/size", "no number “x”"),
        ({"numbers": [{**SIZE, "look": "gone"}]}, "/numbers/0/look", "no look “gone”"),
        ({"numbers": [{**SIZE, "low": 3.0}]}, "/numbers/0/low", "no extent"),
        ({"numbers": [SIZE, SIZE]}, "/numbers/1/name", "second time"),
    ],
)  # fmt: skip
def test_what_can_not_be_is_said_with_its_place(members: dict[str, Any], pointer: str, reason: str) -> None:
    base = {"numbers": [SIZE], "looks": [two_noises(1.0, 1.0)]}
    with pytest.raises(DocumentError) as caught:
        read_shot(document(**{**base, **members}))
    found = caught.value.problems[0]
    assert found.pointer == pointer and reason in str(found)


def test_a_number_beyond_a_parameters_range_is_refused_at_the_parameter() -> None:
    made = read_shot(document(numbers=[{**SIZE, "value": -1.0}], looks=[two_noises({"number": "pattern size"}, 1.0)]))
    assert [each.pointer for each in check_shot(made)] == [
        "/looks/0/layers/0/channels/base_weight/recipe/steps/0/params/size"
    ]


def test_in_formulas_also_nested_and_beside_signals() -> None:
    def paint(text: str) -> dict[str, Any]:
        inner = recipe(step("formula", expression=text))
        return look(
            "a",
            layer("l", base_weight={"recipe": recipe(step("formula", expression=text), step("multiply", by=inner))}),
        )

    numbers = [{"name": "the size", "value": 0.25}, {"name": "k", "value": -2.0}]
    signals = [{"name": "s", "recipe": recipe(step("noise"))}]
    named = shot(
        numbers=numbers, signals=signals, looks=[paint("number(\"the size\") * signal('s') - number('k') ** 2")]
    )
    assert keys(named) == keys(shot(signals=signals, looks=[paint("(0.25) * signal('s') - (-2.0) ** 2")]))
    assert check_shot(named) == []
    bare = document(numbers=numbers, looks=[paint("number('the sise')")])
    with pytest.raises(DocumentError, match="there is no number") as caught:
        read_shot(bare)
    assert caught.value.problems[0].pointer.endswith("/steps/0/params/expression")
    assert "the size" in caught.value.problems[0].hint
