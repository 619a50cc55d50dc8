"""Named numbers outside of recipes: the shot is the one with the values written out, whatever place takes them."""

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import MadeFiles, document, layer, look, shot
from texallon.core.document import DocumentError, read_shot, shot_json
from texallon.core.document.changes import changes
from texallon.core.document.resolved import resolve
from texallon.core.render.graph import FrameGraph

N = {"name": "n", "value": 0.25}
SCENE: dict[str, Any] = {
    "lights": [{"id": "lamp", "name": "lantern", "power": 3.0}],
    "objects": [{"id": "obj", "name": "ball", "geometry": {"shape": "sphere"}, "look": "plain"}],
    "locators": [{"id": "loc", "name": "line"}],
    "object_groups": [{"id": "grp", "name": "all"}],
}
PLACES = [
    "/lights/lamp/power",
    "/lights/lamp/colour/1",
    "/lights/lamp/position/0",
    "/objects/obj/rotation/1",
    "/objects/obj/scale",
    "/objects/obj/stretch/2",
    "/objects/obj/geometry/radius",
    "/locators/loc/position/1",
    "/object_groups/grp/position/2",
    "/camera/focal_length",
    "/camera/position/1",
    "/environment/intensity",
    "/environment/tilt/0",
    "/bloom/intensity",
]


def placed(at: str, value: float) -> dict[str, Any]:
    """The scene with a value written out at a place."""
    made = shot_json(read_shot(document(**SCENE)))
    *path, last = at.split("/")[1:]
    here: Any = made
    for token in path:
        here = next(each for each in here if each["id"] == token) if isinstance(here, list) else here[token]
    here[int(last) if isinstance(here, list) else last] = value
    return made


@pytest.mark.parametrize("at", PLACES)
@given(value=st.floats(0.05, 0.4), times=st.floats(0.2, 2.0), plus=st.floats(0, 0.1))
def test_a_shot_is_the_one_with_the_value_written_out(at: str, value: float, times: float, plus: float) -> None:
    uses = [{"at": at, "number": "n", "times": times, "plus": plus}]
    made = shot(numbers=[{**N, "value": value}], number_uses=uses, **SCENE)
    expected = resolve(read_shot(placed(at, value * times + plus)))
    for member in ("lights", "objects", "locators", "object_groups", "camera", "environment", "bloom"):
        assert getattr(made, member) == getattr(expected, member)


def test_the_document_keeps_the_number_that_stood_there() -> None:
    read = read_shot(document(numbers=[N], number_uses=[{"at": PLACES[0], "number": "n"}], **SCENE))
    assert read.lights[0].power == 3.0 and resolve(read).lights[0].power == 0.25


@pytest.mark.parametrize(
    ("use", "pointer", "reason"),
    [
        ({"at": "/lights/lamp/power", "number": "m"}, "/number_uses/0/number", "no number “m”"),
        ({"at": "/lights/gone/power", "number": "n"}, "/number_uses/0/at", "nothing at /lights/gone/power"),
        ({"at": "/lights/0/power", "number": "n"}, "/number_uses/0/at", "/lights/lamp/power"),
        ({"at": "/lights/lamp/shape", "number": "n"}, "/number_uses/0/at", "not a number"),
        ({"at": "/lights/lamp/colour", "number": "n"}, "/number_uses/0/at", "not a number"),
        ({"at": "/lights/lamp/on", "number": "n"}, "/number_uses/0/at", "not a number"),
        ({"at": "/light/lamp/power", "number": "n"}, "/number_uses/0/at", "lights"),
        ({"at": "/numbers/n/value", "number": "n"}, "/number_uses/0/at", "no numbers that can be named"),
        ({"at": "/objects/obj/scale", "number": "n", "times": -1}, "/number_uses/0/at", "would make obj scale -0.25"),
        ({"at": "/bloom/intensity", "number": "n", "plus": 1}, "/number_uses/0/at", "less than or equal to 1"),
    ],
)
def test_what_can_not_be_is_said_with_its_place(use: dict[str, Any], pointer: str, reason: str) -> None:
    with pytest.raises(DocumentError) as caught:
        read_shot(document(numbers=[N], number_uses=[use], **SCENE))
    found = caught.value.problems[0]
    assert found.pointer == pointer and reason in str(found)


def test_a_place_takes_one_number() -> None:
    use = {"at": "/lights/lamp/power", "number": "n"}
    with pytest.raises(DocumentError, match="already"):
        read_shot(document(numbers=[N], number_uses=[use, use], **SCENE))


def test_a_lamp_that_a_number_puts_onto_what_it_faces_is_refused() -> None:
    lamp = {"id": "lamp", "name": "lantern", "position": [0, 1, 0], "target": [0, 0, 0]}
    use = {"at": "/lights/lamp/position/1", "number": "n"}
    with pytest.raises(DocumentError, match="the light stands on the point it faces"):
        read_shot(document(numbers=[{**N, "value": 0.0}], number_uses=[use], lights=[lamp]))


@given(st.floats(0, 1))
def test_an_opacity_is_that_of_the_value(value: float) -> None:
    def key(opacity: Any) -> str:
        top = {**layer("top", base_weight={"recipe": {"steps": [{"op": "constant", "params": {"value": 1.0}}]}})}
        made = shot(numbers=[{**N, "value": value}], looks=[look("plain", layer("low"), {**top, "opacity": opacity})])
        return FrameGraph(made, MadeFiles()).plan(0).content_key

    assert key({"number": "n"}) == key(value)
    assert (key({"number": "n", "times": 0.5}) == key(value)) == (value * 0.5 == value)


@pytest.mark.parametrize(
    ("opacity", "reason"), [({"number": "m"}, "no number “m”"), ({"number": "n", "times": 8}, "between 0 and 1")]
)
def test_an_opacity_that_can_not_be_is_refused_at_its_place(opacity: dict[str, Any], reason: str) -> None:
    with pytest.raises(DocumentError, match=reason) as caught:
        read_shot(document(numbers=[N], looks=[look("plain", {**layer("low"), "opacity": opacity})]))
    assert caught.value.problems[0].pointer == "/looks/0/layers/0/opacity"


def test_what_changed_is_told_by_what_it_is_called() -> None:
    bare = shot_json(read_shot(document(numbers=[N], **SCENE)))
    used = shot_json(read_shot(document(numbers=[N], number_uses=[{"at": PLACES[0], "number": "n"}], **SCENE)))
    double = shot_json(read_shot(document(numbers=[N], number_uses=[{"at": PLACES[0], "number": "n", "times": 2}], **SCENE)))  # fmt: skip
    assert changes(bare, used) == ["lantern · power follows the number n"]
    assert changes(used, bare) == ["lantern · power does not follow n any more"]
    assert changes(used, double) == ["lantern · power · named number · times 1 → 2"]
