"""Shared signals: who uses one, another name for it, and writing it out without changing a single value."""

from typing import Any

import numpy as np
import pytest

from tests.builders import document, layer, look, recipe, step
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.resolved import resolve
from texallon.core.signal import sharing
from texallon.core.signal.check_recipes import check_shot
from texallon.core.signal.planner import Planner
from texallon.core.signal.run import evaluate, fill_missing

P = np.random.default_rng(61).uniform(-1, 1, (3, 2000)).astype(np.float32)

WAVES = {"name": "waves", "recipe": recipe(step("move", by=[0.2, 0, 0]), step("noise", size=0.6, seed=3), step("multiply", by={"signal": "level"}))}  # fmt: skip
LEVEL = {"name": "level", "recipe": recipe(step("height", origin={"locator": "line"}), step("remap", from_start=-1, from_end=1))}  # fmt: skip
USES: list[dict[str, Any]] = [
    recipe(step("signal", signal="waves")),
    recipe(step("twirl", angle=70), step("signal", signal="waves"), step("invert")),
    recipe(step("constant", value=0.3), step("add", by={"signal": "waves"})),
    recipe(step("constant", value=0.3), step("add", by={"signal": "waves", "space": [step("twirl", angle=200)]})),
    recipe(step("signal", signal="waves", stand_ins={"line": {"locator": "other"}})),
    recipe(
        step("noise"),
        step("mix", other={"signal": "waves", "stand_ins": {"line": {"locator": "other"}}}, amount={"signal": "level"}),
    ),
    recipe(
        step("noise"),
        step("maximum", by={"steps": [step("mirror"), step("signal", signal="waves"), step("bias", amount=0.7)]}),
    ),
    recipe({"op": "signal", "on": False, "params": {"signal": "waves"}}),
]


def project(*masks: dict[str, Any]) -> dict[str, Any]:
    return document(
        signals=[WAVES, LEVEL],
        locators=[{"name": "line", "position": [0, 0.3, 0]}, {"name": "other", "position": [0, -0.8, 0]}],
        looks=[look("l", *(layer(f"layer {number}", mask) for number, mask in enumerate(masks)))],
    )


def masks_of(data: dict[str, Any]) -> list[np.ndarray]:
    made = resolve(read_shot(data))
    assert check_shot(made) == []
    planner = Planner(made)
    for number, each in enumerate(made.looks[0].layers):
        planner.want(str(number), planner.mask(each, ("looks", 0, "layers", number)))
    plan = planner.plan()
    values = evaluate(plan, plan.points(P.shape[1], fill_missing(plan.required_data, {"position": P}, P.shape[1])))
    return [values[str(number)] for number in range(len(made.looks[0].layers))]


def test_every_use_is_found_by_name_and_path() -> None:
    data = project(*USES)
    found = sharing.uses(data, "waves")
    assert [use.where for use in found] == [f"layer {number} · where" for number in range(len(USES))]
    assert found[0].path == ("looks", 0, "layers", 0, "where")
    level = sharing.uses(data, "level")
    assert level[0].where == "signal waves", "a use within another signal counts"
    formula = project(recipe(step("formula", expression='signal("waves") * 2')))
    assert len(sharing.uses(formula, "waves")) == 1
    assert sharing.uses(data, "nothing") == []


@pytest.mark.parametrize("name", ["waves", "level"])
def test_another_name_changes_no_value(name: str) -> None:
    formula = recipe(step("formula", expression='signal("waves") + 0 * signal("level")'))
    data = project(*USES, formula)
    renamed = sharing.rename(data, name, 'other "name"')
    assert sharing.uses(renamed, name) == []
    assert all(np.array_equal(a, b) for a, b in zip(masks_of(data), masks_of(renamed), strict=True))


@pytest.mark.parametrize("name", ["waves", "level"])
@pytest.mark.parametrize("use", range(len(USES)))
def test_writing_a_signal_out_changes_no_value(name: str, use: int) -> None:
    data = project(USES[use])
    written = sharing.inline(data, name)
    assert name not in [signal["name"] for signal in written["signals"]]
    assert sharing.uses(written, name) == []
    assert np.allclose(masks_of(data)[0], masks_of(written)[0], atol=1e-6)


def test_a_formulas_signal_can_not_be_written_out_and_is_told_where() -> None:
    data = project(recipe(step("formula", expression='1 - signal("waves")')))
    with pytest.raises(DocumentError, match="a formula uses “waves”") as caught:
        sharing.inline(data, "waves")
    assert caught.value.problems[0].pointer == "/looks/0/layers/0/where/steps/0"


def test_documents_given_are_left_as_they_were() -> None:
    data = project(*USES)
    before = str(data)
    sharing.rename(data, "waves", "x")
    sharing.inline(data, "waves")
    assert str(data) == before


def test_one_signal_serves_ground_and_pillar_from_their_own_waterlines() -> None:
    data = project(
        recipe(step("signal", signal="level")),
        recipe(step("signal", signal="level", stand_ins={"line": {"locator": "other"}})),
    )
    ground, pillar = masks_of(data)
    assert np.allclose(ground, np.clip((P[1] - 0.3 + 1) / 2, 0, 1), atol=1e-6)
    assert np.allclose(pillar, np.clip((P[1] + 0.8 + 1) / 2, 0, 1), atol=1e-6)
