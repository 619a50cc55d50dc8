"""A reading: the values at one point, in order, and the step that decided."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, layer, look, recipe, shot, square, step, value
from texallon.core.render.camera.pick import Picked, pick, read_point
from texallon.core.render.camera.view import make_view
from texallon.core.render.graph import make_scene
from texallon.core.signal.reading import LayerReading, Reading, as_json, lines

CAMERA = {"position": [0, 4, 0.01], "target": [0, 0, 0]}


def reading(*layers: dict[str, Any], across: float = 0.5, down: float = 0.5, **members: Any) -> Reading:
    """What is read in the picture of a floor at height 0.49 that wears a look."""
    made = shot(
        camera=CAMERA,
        objects=[{"name": "f", "geometry": {"file": "floor"}, "look": "l"}],
        looks=[look("l", *layers)],
        **members,
    )
    scene = make_scene(made, MadeFiles(floor=square(4.0, 0.49)))
    view = make_view(made.camera, 160, 90)
    picked = pick(scene, view, across, down, False)
    assert picked is not None
    found = read_point(made, scene, view, picked)
    assert found is not None
    return found.reading


def mask_of(*steps: dict[str, Any], **members: Any) -> LayerReading:
    return reading(layer("a", recipe(*steps), base_weight=value(0.5)), **members).layers[0]


def decider(read: LayerReading) -> tuple[str, str]:
    return next((step.op, step.reason) for step in read.mask if step.decided)


def test_a_threshold_that_made_the_mask_nothing_says_why() -> None:
    read = mask_of(step("height"), step("threshold", level=0.5))
    assert [step.op for step in read.mask] == ["height", "threshold"]
    assert read.mask[0].value[0] == pytest.approx(0.49, abs=1e-5)
    assert decider(read) == ("threshold", "made this 0: 0.49 < 0.5")
    assert read.weight == 0


@pytest.mark.parametrize(
    ("steps", "name", "words"),
    [
        ([step("height"), step("remap", from_start=1, from_end=2)], "remap", "0.49 ≤ 1, the range's lower end"),
        ([step("height"), step("multiply", by={"signal": "none"}), step("bias")], "multiply", "times 0 from “none”"),
        ([step("height"), step("clamp", low=0.6, high=1)], "clamp", "0.49 < 0.6"),
        ([step("height"), step("minimum", by=0.2)], "minimum", "0.2 < 0.49"),
        ([step("height"), step("maximum", by=0.9)], "maximum", "0.9 > 0.49"),
        ([step("height"), step("subtract", by=1), step("power", exponent=0.5)], "power", "has no power of 0.5"),
        ([step("height"), step("mix", other=0.3, amount=1)], "mix", "the amount is 1"),
        ([step("height"), step("levels", count=4)], "levels", "makes no difference"),
        ([step("height"), step("invert"), step("gain", amount=0.3)], "height", ""),
    ],
)  # fmt: skip
def test_the_step_that_decided_is_marked(steps: list[dict[str, Any]], name: str, words: str) -> None:
    signals = [{"name": "none", "recipe": recipe(step("constant", value=0))}]
    found, reason = decider(mask_of(*steps, signals=signals))
    assert found == name
    assert words in reason


def test_the_last_of_several_that_decide_is_the_one() -> None:
    read = mask_of(step("height"), step("threshold", level=0.2), step("threshold", level=2.0))
    assert decider(read)[1] == "made this 0: 1 < 2"
    assert sum(step.decided for step in read.mask) == 1


def test_layers_come_in_order_with_masks_weights_and_what_they_put_in() -> None:
    half = {**layer("over", recipe(step("constant", value=0.5)), base_weight=value(1.0)), "opacity": 0.5}
    read = reading(layer("under", base_weight=value(0.2)), half)
    assert [each.name for each in read.layers] == ["under", "over"]
    assert read.layers[0].weight == 1
    assert read.layers[1].weight == 0.25
    assert read.layers[1].channels[0].value == (1.0,)
    assert read.layers[1].channels[0].after == pytest.approx((0.4,))
    (weight,) = read.channels
    assert weight.value == pytest.approx((0.4,))
    assert weight.layer == "under", "it has three quarters of the say"


def test_a_layer_that_is_off_is_shown_and_has_no_say() -> None:
    off = {**layer("over", base_weight=value(1.0)), "on": False}
    read = reading(layer("under", base_weight=value(0.2)), off)
    assert read.layers[1].weight == 0
    assert not read.layers[1].on
    assert read.channels[0].layer == "under"


def test_steps_that_are_off_and_bent_space_are_told_apart() -> None:
    read = mask_of(step("twirl", angle=90), step("noise"), {"op": "invert", "on": False, "params": {}})
    assert [(each.op, each.on, each.space) for each in read.mask] == [
        ("twirl", True, True),
        ("noise", True, False),
        ("invert", False, False),
    ]
    assert len(read.mask[0].value) == 3
    assert read.mask[1].value == read.mask[2].value


def test_odd_values_are_told_in_words() -> None:
    read = reading(
        layer("a", recipe(step("formula", expression="0 / (position.x - position.x)")), base_weight=value(1.0)),
        layer("b", recipe(step("formula", expression="-1 / (position.x - position.x)")), base_weight=value(1.0)),
    )
    plain = as_json(read)
    assert plain["layers"][0]["mask"][0]["value"] == ["NaN"]
    assert plain["layers"][1]["mask"][0]["value"] == ["−∞"]
    assert [each.weight for each in read.layers] == [0, 0]


def test_the_picked_point_stays_with_its_object() -> None:
    made = shot(
        camera=CAMERA,
        objects=[{"name": "f", "geometry": {"file": "floor"}, "look": "l"}],
        looks=[look("l", layer("a", recipe(step("height")), base_weight=value(1.0)))],
    )
    files = MadeFiles(floor=square(4.0, 0.49))
    view = make_view(made.camera, 160, 90)
    picked = pick(make_scene(made, files), view, 0.6, 0.4, False)
    assert isinstance(picked, Picked)
    moved = made.model_copy(update={"objects": [made.objects[0].model_copy(update={"position": (5.0, 2.0, 0.0)})]})
    first = read_point(made, make_scene(made, files), view, picked)
    later = read_point(moved, make_scene(moved, files), view, picked)
    assert first is not None
    assert later is not None
    assert np.allclose(later.position - first.position, [5, 2, 0], atol=1e-4)
    assert later.reading.layers[0].mask[0].value[0] == pytest.approx(2.49, abs=1e-4)
    hidden = made.model_copy(update={"objects": [made.objects[0].model_copy(update={"visible": False})]})
    assert read_point(hidden, make_scene(hidden, files), view, picked) is None, "what is hidden can't be read"


def test_the_sky_can_not_be_picked() -> None:
    made = shot(camera=CAMERA, objects=[{"name": "f", "geometry": {"file": "floor"}, "look": "plain"}])
    scene = make_scene(made, MadeFiles(floor=square(0.2)))
    assert pick(scene, make_view(made.camera, 160, 90), 0.02, 0.02, False) is None


def test_a_reading_can_be_printed() -> None:
    read = reading(layer("wet", recipe(step("height"), step("threshold", level=0.5)), base_weight=value(0.4)))
    assert list(lines(read)) == [
        "wet: 0",
        "    height: 0.49",
        "    threshold: 0  ← made this 0: 0.49 < 0.5",
        "    amount =: 0.4",
        "amount 1 (default)",
    ]
