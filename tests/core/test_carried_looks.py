"""Looks as layers: the same as their layers written out, to the bit, through plan, reading and renderer; loops are refused by name."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, document, layer, look, recipe, shot, square, step, value
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.carried_looks import MOST_LAYERS, touched_channels
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import render_frame
from texallon.core.signal.check_recipes import check_shot
from texallon.core.signal.look_plan import plan_look
from texallon.core.signal.run import evaluate, fill_missing
from texallon.engine.measure import sheet_plans

NOISE = recipe(step("noise", size=0.3), step("remap", from_start=-0.4, from_end=0.4, to_start=0, to_end=1))
HEIGHT = recipe(step("height"), step("remap", from_start=-0.5, from_end=0.5, to_start=1, to_end=0))


def carrying(name: str, inner: str, where: Any = None, **more: Any) -> dict[str, Any]:
    """A layer that carries a look."""
    own = {key: more.pop(key) for key in ("bare", "stand_ins") if key in more}
    return {"name": name, "where": where, "look": {"look": inner, **own}, **more}


GROUND = layer("ground", base_color=value([0.4, 0.3, 0.2]), specular_roughness=value(0.6), coat_weight=value(0.2))
DARK = layer("dark", HEIGHT, base_color=value([0.5, 0.5, 0.6], "multiply"), specular_roughness=value(0.1))
MARKS = layer("marks", NOISE, base_color=value([0.1, 0.5, 0.1]), bump={"recipe": recipe(step("noise", size=0.05))})


def values_of(made: Any, number: int = 0) -> dict[str, np.ndarray]:
    """A look's channels at some points about the origin."""
    plan = plan_look(made, made.looks[number])
    rng = np.random.default_rng(3)
    data = {"position": rng.uniform(-1, 1, (3, 500)).astype(np.float32)}
    points = plan.points(500, fill_missing(plan.required_data, data, 500))
    return evaluate(plan, points)


def same(one: Any, other: Any) -> None:
    a, b = values_of(one), values_of(other)
    assert a.keys() == b.keys() and len(a) > 2
    for name, found in a.items():
        assert np.array_equal(found, b[name], equal_nan=True), name


def test_without_a_mask_it_is_its_layers_written_out() -> None:
    one = shot(looks=[look("a", GROUND, carrying("edge", "wet edge")), look("wet edge", DARK, MARKS)])
    same(one, shot(looks=[look("a", GROUND, DARK, MARKS)]))


def test_a_single_layer_behind_a_mask_is_that_layer_with_the_mask() -> None:
    paint = layer("paint", base_color=value([0.1, 0.1, 0.5]), coat_weight=value(1.0), bump=value(0.01))
    one = shot(looks=[look("a", GROUND, carrying("p", "paint", NOISE, opacity=0.7)), look("paint", paint)])
    same(one, shot(looks=[look("a", GROUND, {**paint, "where": NOISE, "opacity": 0.7})]))


def test_a_layer_that_is_off_lies_nowhere() -> None:
    one = shot(looks=[look("a", GROUND, carrying("edge", "wet edge", on=False)), look("wet edge", DARK, MARKS)])
    same(one, shot(looks=[look("a", GROUND)]))


def test_what_it_carries_may_carry_others() -> None:
    one = shot(
        looks=[
            look("a", GROUND, carrying("edge", "wet edge")),
            look("wet edge", DARK, carrying("m", "moss")),
            look("moss", MARKS),
        ]
    )
    same(one, shot(looks=[look("a", GROUND, DARK, MARKS)]))


def test_behind_a_mask_it_is_blended_as_one() -> None:
    # Half of what lies below, half of what its layers make of that: closed form of two linear blends.
    inner = look("two", layer("one", base_weight=value(0.8)), layer("other", base_weight=value(0.5, "multiply")))
    half = recipe(step("constant", value=0.5))
    made = shot(looks=[look("a", layer("g", base_weight=value(0.2)), carrying("c", "two", half)), inner])
    assert values_of(made)["base_weight"].ravel()[0] == np.float32(0.5 * 0.2 + 0.5 * (0.8 * 0.5))


def test_a_bare_one_begins_from_defaults() -> None:
    rust = look("rust", layer("r", base_color=value([0.3, 0.1, 0.0])))
    coated = look("a", GROUND, carrying("r", "rust", bare=True))
    found = values_of(shot(looks=[coated, rust]))
    assert (found["coat_weight"] == 0).all()  # the default of OpenPBR, also of a channel that it does not set
    multiplied = look("rust", layer("r", base_color=value([0.5, 0.5, 0.5], "multiply")))
    below = values_of(shot(looks=[look("a", GROUND, carrying("r", "rust")), multiplied]))["base_color"][:, 0]
    bare = values_of(shot(looks=[coated, multiplied]))["base_color"][:, 0]
    assert np.allclose(below, [0.2, 0.15, 0.1]) and np.allclose(bare, 0.4)  # 0.8 is OpenPBR's default


@pytest.mark.parametrize("at", [0.0, 0.4])
def test_stand_ins_move_what_it_measures_from(at: float) -> None:
    up = recipe(
        step("height", origin={"locator": "tide"}), step("remap", from_start=-0.5, from_end=0.5, to_start=1, to_end=0)
    )
    places = [{"name": "tide", "position": [0, 0.3, 0]}, {"name": "other", "position": [0, at, 0]}]
    wet = layer("wet", up, base_color=value([0.1, 0.1, 0.1]), specular_roughness=value(0.0), coat_weight=value(1.0))
    stands = carrying("w", "wet", stand_ins={"tide": {"locator": "other"}})
    one = shot(locators=places, looks=[look("a", GROUND, stands), look("wet", wet)])
    there = recipe(
        step("height", origin={"locator": "other"}), step("remap", from_start=-0.5, from_end=0.5, to_start=1, to_end=0)
    )
    same(one, shot(locators=places, looks=[look("a", GROUND, {**wet, "where": there})]))


def test_the_picture_is_that_of_the_layers_written_out() -> None:
    files = MadeFiles(ball=ball(), ground=square(6.0, -1.0))
    clear = layer("hole", NOISE, geometry_opacity=value(0.0), emission_luminance=value(30.0))
    things = [
        {"name": "b", "geometry": {"file": "ball"}, "look": "a"},
        {"name": "g", "geometry": {"file": "ground"}, "look": "a"},
    ]
    members = {"objects": things, "camera": {"position": [0, 1, 5], "target": [0, 0, 0]}}
    inner = look("inner", DARK, MARKS, clear)
    one = shot(looks=[look("a", GROUND, carrying("c", "inner")), inner], **members)
    other = shot(looks=[look("a", GROUND, DARK, MARKS, clear), inner], **members)
    pictures = [render_frame(made, files, 40, 30, 4, 2).picture() for made in (one, other)]
    assert np.array_equal(*pictures)
    plain = shot(looks=[look("a", GROUND), inner], **members)
    assert not np.array_equal(pictures[0], render_frame(plain, files, 40, 30, 4, 2).picture())


def test_changing_it_changes_every_place() -> None:
    def looks(weight: float) -> list[dict[str, Any]]:
        edge = look("edge", layer("e", coat_weight=value(weight)))
        return [look(name, GROUND, carrying("c", "edge")) for name in ("a", "b")] + [edge]

    for number in (0, 1):
        assert (values_of(shot(looks=looks(0.75)), number)["coat_weight"] == 0.75).all()
    keys = [[FrameGraph(shot(looks=looks(w)), MadeFiles()).plan(n).content_key for n in (0, 1)] for w in (0.5, 0.75)]
    assert keys[0][0] != keys[1][0] and keys[0][1] != keys[1][1]


@pytest.mark.parametrize("first", ["a", "b", "c"])
def test_a_circle_is_refused_by_names(first: str) -> None:
    order = {"a": "b", "b": "c", "c": "a"}
    names = [first, *(name for name in "abc" if name != first)]
    looks = [look(name, GROUND, carrying("x", order[name])) for name in names]
    with pytest.raises(DocumentError) as caught:
        read_shot(document(looks=looks))
    found = caught.value.problems[0]
    assert found.pointer == "/looks/0/layers/1/look/look" and "circle" in found.reason
    assert f"{first} → {order[first]} → {order[order[first]]} → {first}" in found.reason


def test_a_look_that_carries_itself_or_none_is_refused() -> None:
    with pytest.raises(DocumentError, match="a → a"):
        read_shot(document(looks=[look("a", carrying("x", "a"))]))
    with pytest.raises(DocumentError, match=r"there is no look “moos”.*did you mean “moss”"):
        read_shot(document(looks=[look("a", carrying("x", "moos")), look("moss", MARKS)]))
    with pytest.raises(DocumentError, match="not both"):
        read_shot(document(looks=[look("a", {**GROUND, "look": {"look": "moss"}}), look("moss", MARKS)]))


def test_looks_that_double_within_each_other_are_refused_before_they_are_planned() -> None:
    looks = [look("l0", GROUND)]
    for number in range(1, 10):
        looks.append(look(f"l{number}", *(carrying(f"c{each}", f"l{number - 1}") for each in range(2))))
    with pytest.raises(DocumentError, match=f"at most {MOST_LAYERS}"):
        read_shot(document(looks=looks))
    deep = [look("l0", GROUND), *(look(f"l{n}", carrying("c", f"l{n - 1}")) for n in range(1, 40))]
    with pytest.raises(DocumentError, match="lie within each other"):
        read_shot(document(looks=deep))


def test_a_locator_that_only_its_stand_in_lacks_is_reported_at_the_look() -> None:
    up = recipe(step("height", origin={"locator": "tide"}))
    made = read_shot(
        document(
            locators=[{"name": "tide"}],
            looks=[
                look("a", GROUND, carrying("w", "wet", stand_ins={"tide": {"locator": "gone"}})),
                look("wet", layer("w", up, coat_weight=value(1.0))),
            ],
        )
    )
    assert any("there is no locator “gone”" in problem.reason for problem in check_shot(made))


def test_sheet_shows_what_it_puts_there() -> None:
    made = shot(looks=[look("a", GROUND, carrying("edge", "inner", NOISE)), look("inner", DARK, MARKS)])
    plans = sheet_plans(made, made.looks[0])
    assert {"1/where", "1/base_color", "1/specular_roughness", "1/bump"} <= plans.keys()
    assert touched_channels(made.looks[0], made.carried_looks) == {
        "base_color", "specular_roughness", "coat_weight", "bump",
    }  # fmt: skip
