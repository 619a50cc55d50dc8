"""What each kind of edit computes anew, exactly: no more (it would be slow), and no less (it would be stale)."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, layer, look, recipe, square, step, value
from texallon.core.document.patching import apply_patch
from texallon.engine.explain import ExplainedWindow, ProblemError

FILES = MadeFiles(
    floor=square(6.0), ball=ball(0.5, 16), other=ball(0.4, 12), sky=np.ones((4, 8, 3), np.float32),
    card=np.ones((2, 2, 3), np.float32),
)  # fmt: skip

WEAR = layer("wear", recipe(step("noise", size=0.4), step("remap", from_start=0.2)), specular_roughness=value(0.7))
GLOW = layer("glow", emission_luminance=value(3.0))
GLASS = layer("glass", transmission_weight=value(0.6), specular_ior=value(1.4))

DOCUMENT: dict[str, Any] = {
    "schema": 1,
    "name": "T010",
    "frames": {"first": 1, "last": 24, "rate": 24},
    "camera": {"position": [0, 2, 4], "target": [0, 0, 0]},
    "environment": {"image": {"file": "sky"}, "intensity": 0.5},
    "lights": [{"name": "lamp", "position": [1, 3, 1], "target": [0, 0, 0], "group": "key"}],
    "light_groups": [{"name": "key"}],
    "bloom": {},
    "limits": {},
    "sampling": {},
    "locators": [{"name": "mark", "position": [0, 0.1, 0]}],
    "objects": [
        {"name": "floor", "geometry": {"file": "floor"}, "look": "stone"},
        {"name": "lantern", "geometry": {"file": "ball"}, "look": "lantern", "position": [-1, 0.5, 0]},
        {"name": "pane", "geometry": {"file": "ball"}, "look": "glass", "position": [1, 0.5, 0]},
    ],
    "signals": [{"name": "damp", "recipe": recipe(step("height", origin={"locator": "mark"}))}],
    "looks": [
        look("stone", layer("base", base_color=value([0.4, 0.4, 0.4]), base_weight={"recipe": recipe(step("signal", signal="damp"))}), WEAR),
        look("lantern", GLOW),
        look("glass", GLASS),
    ],
}  # fmt: skip


def put(path: str, new: Any) -> list[dict[str, Any]]:
    return [{"op": "add", "path": path, "value": new}]


PICTURE = {"film", "denoised picture"}
PLANS = {"plan", "problems of a look"}
SIGHT = {
    "primary hits", "visible points", "points of a look", "point data", "step values", "step measures", "sheet cell",
}  # fmt: skip
"""Everything that is seen from the camera."""
ARRANGEMENT = {"acceleration structure", "scene"}

EDITS: dict[str, tuple[list[dict[str, Any]], set[str]]] = {
    "title": (put("/title", "x"), set()),
    "exposure": (put("/camera/exposure", 1.0), set()),
    "camera moved": (put("/camera/position", [0, 2.2, 4]), SIGHT | PICTURE),
    "lens": (put("/camera/f_stop", 2.8), PICTURE | {"primary hits"}),
    "roughness of a layer": (
        put("/looks/0/layers/1/channels/specular_roughness", value(0.5)),
        PICTURE | PLANS | {"sheet cell", "step values", "uniform rows"},
    ),
    "colour": (
        put("/looks/0/layers/0/channels/base_color", value([0.3, 0.3, 0.3])),
        PICTURE | PLANS | {"sheet cell", "step measures", "step values", "uniform rows"},
    ),
    "range of a mask": (
        put("/looks/0/layers/1/where/steps/1/params/from_start", 0.3),
        PICTURE | PLANS | {"sheet cell", "step values", "uniform rows"},
    ),
    "size of a noise": (
        put("/looks/0/layers/1/where/steps/0/params/size", 0.3),
        PICTURE | PLANS | {"sheet cell", "step values", "uniform rows"},
    ),
    "opacity of a layer": (put("/looks/0/layers/1/opacity", 0.5), PICTURE | PLANS | {"uniform rows"}),
    "layer off": (put("/looks/0/layers/1/on", False), PICTURE | PLANS | {"uniform rows"}),
    "layer renamed": (put("/looks/0/layers/0/name", "ground"), PLANS),
    "a bump": (
        put("/looks/0/layers/1/channels/bump", {"recipe": recipe(step("noise", size=0.1))}),
        PICTURE | PLANS | {"sheet cell", "step values", "uniform rows"},
    ),
    "emission": (
        put("/looks/1/layers/0/channels/emission_luminance", value(5.0)),
        PICTURE | PLANS | {"mesh lights", "shining faces", "step values", "uniform rows"},
    ),
    "colour of what shines": (
        put("/looks/1/layers/0/channels/base_color", value([0.1, 0.1, 0.1])),
        PICTURE | PLANS | {"mesh lights", "shining faces", "step values", "uniform rows"},
    ),
    "index of glass": (
        put("/looks/2/layers/0/channels/specular_ior", value(1.5)),
        PICTURE | PLANS | {"step values", "uniform rows"},
    ),
    "stone made clear": (
        put("/looks/0/layers/0/channels/transmission_weight", value(0.5)),
        ARRANGEMENT | SIGHT | PICTURE | PLANS | {"uniform rows"},
    ),
    "signal": (
        put("/signals/0/recipe/steps/0/params/axis", "x"),
        PICTURE | PLANS | {"problems of signals", "sheet cell", "step values", "uniform rows"},
    ),
    "locator moved": (
        put("/locators/0/position", [0, 0.3, 0]),
        PICTURE | {"plan", "sheet cell", "step values", "uniform rows"},
    ),
    "object moved": (put("/objects/2/position", [1, 0.6, 0]), ARRANGEMENT | SIGHT | PICTURE),
    "what shines moved": (
        put("/objects/1/position", [-1, 0.6, 0]),
        ARRANGEMENT | SIGHT | PICTURE | {"mesh lights", "shining faces"},
    ),
    # What is hidden may be measured from all the same: signals are looked through for that.
    "object hidden": (
        put("/objects/2/visible", False),
        ARRANGEMENT | SIGHT | PICTURE | {"mesh lights", "plan of a signal"},
    ),
    "object of another mesh": (
        put("/objects/2/geometry", {"file": "other"}),
        ARRANGEMENT
        | SIGHT
        | PICTURE
        | {"bake", "geometry tables", "joined bake", "mesh", "mesh size", "search structure"},
    ),
    "object wears another look": (put("/objects/2/look", "stone"), ARRANGEMENT | SIGHT | PICTURE),
    "lamp's power": (put("/lights/0/power", 20.0), PICTURE | {"lights"}),
    "lamp moved": (
        put("/lights/0/position", [1, 2.5, 1]),
        ARRANGEMENT | SIGHT | PICTURE | {"lights", "search structure of a lamp"},
    ),
    "environment's intensity": (put("/environment/intensity", 0.7), PICTURE | {"environment table", "lights"}),
    "environment turned": (put("/environment/rotation", 40.0), PICTURE | {"lights"}),
    "light group weighed": (put("/light_groups/0/intensity", 0.5), {"denoised light group"}),
    "backdrop": (put("/backdrop", {"image": {"file": "card"}}), PICTURE | {"backdrop", "lights", "picture"}),
    "bloom": (put("/bloom/intensity", 0.2), {"glow"}),
    "limits": (put("/limits/diffuse", 3), PICTURE),
    "seed": (put("/seed", 9), SIGHT | PICTURE),
    "samples": (put("/sampling/noise", 0.02), PICTURE),
}

ALWAYS = {"advice", "reading"}
"""Given the whole shot: a rule may look at anything in it, and what is read tells of it."""


@pytest.mark.parametrize("name", EDITS)
def test_an_edit_computes_anew_exactly_what_it_touches(name: str) -> None:
    patch, expected = EDITS[name]
    window = ExplainedWindow(FILES)
    window.show(DOCUMENT)
    assert window.show(apply_patch(DOCUMENT, patch)).computed == expected | ALWAYS


def test_going_back_computes_nothing() -> None:
    window = ExplainedWindow(FILES)
    window.show(DOCUMENT)
    window.show(apply_patch(DOCUMENT, EDITS["colour"][0]))
    assert window.show(DOCUMENT).computed == set()


def test_another_frame_computes_only_what_time_reaches() -> None:
    window = ExplainedWindow(FILES)
    window.show(DOCUMENT, 1)
    later = window.show(DOCUMENT, 5).computed
    assert later == PICTURE | ALWAYS, "its noise is its own; nothing else in this shot moves"
    waves = put("/looks/0/layers/1/where/steps/0/params/speed", 1.0)
    moving = ExplainedWindow(FILES)
    moving.show(apply_patch(DOCUMENT, waves), 1)
    assert moving.show(apply_patch(DOCUMENT, waves), 5).computed == later | {
        "plan",
        "uniform rows",
        "step values",
        "sheet cell",
    }


def test_a_shot_of_many_files_reads_none_again() -> None:
    # 33 distinct files once made every edit rebuild everything: the cache held 32.
    count = 40
    files = MadeFiles(**{f"m{n}": ball(0.1 + n / 1000, 8) for n in range(count)})
    objects = [
        {"name": f"o{n}", "geometry": {"file": f"m{n}"}, "look": "plain", "position": [n % 8 - 4, 0, n // 8]}
        for n in range(count)
    ]
    made = {"schema": 1, "name": "T", "objects": objects, "looks": [look("plain", layer("a", base_weight=value(0.5)))]}
    window = ExplainedWindow(files)
    assert window.show(made).kinds["mesh"].computed == count
    again = window.show(apply_patch(made, put("/looks/0/layers/0/channels/base_weight", value(0.4))))
    assert again.kinds["mesh"].computed == again.kinds["scene"].computed == 0
    assert "search structure" not in again.computed


def test_what_can_not_be_shown_is_said() -> None:
    with pytest.raises(ProblemError, match="no op"):
        ExplainedWindow(FILES).show(apply_patch(DOCUMENT, put("/looks/0/layers/1/where/steps/0/op", "cake")))
