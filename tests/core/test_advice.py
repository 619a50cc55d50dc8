"""Craft rules: for each, a document that it notices and one that it has nothing to say about, and fixes that work."""

import re
from dataclasses import replace
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, document, layer, look, recipe, step, value
from texallon.core.advice.facts import gather
from texallon.core.advice.look_over import SIZE, look_over
from texallon.core.advice.registry import rules
from texallon.core.advice.rule import Advice
from texallon.core.advice.too_fast import TooFast
from texallon.core.document import apply_patch, read_shot
from texallon.core.document.resolved import resolve
from texallon.core.geometry.mesh import Mesh, make_mesh, make_points
from texallon.core.render.graph import FrameGraph
from texallon.core.signal.check_recipes import check_shot

pytestmark = pytest.mark.slow


def ball(carries: str = "heat") -> Mesh:
    """A ball of 1 m about the origin with a groove round it, so that it has a top, a rim and a hollow."""
    across, down = np.meshgrid(np.linspace(0, 2 * np.pi, 97), np.linspace(1e-3, np.pi - 1e-3, 65))
    radius = 0.5 - 0.1 * np.exp(-(((down - np.pi / 2) / 0.12) ** 2))
    vertices = np.stack([np.sin(down) * np.cos(across), np.cos(down), -np.sin(down) * np.sin(across)], axis=2)
    vertices = (vertices * radius[..., None]).reshape(-1, 3)
    corner = (np.arange(64)[:, None] * 97 + np.arange(96)).ravel()
    faces = np.concatenate(
        [np.stack([corner, corner + 97, corner + 1], 1), np.stack([corner + 1, corner + 97, corner + 98], 1)]
    )
    return make_mesh(vertices, faces, None, np.zeros((len(vertices), 2)), {carries: np.linspace(0, 1, len(vertices))})


def pods(middle: float) -> Mesh:
    return make_points([[middle, 0, 0], [middle + 0.2, 0, 0]], {"radius": [0.2, 0.2]})


FILES = MadeFiles(
    ball=ball(),
    pods=pods(0.0),
    pods_beside=pods(0.3),
    pods_far=pods(1.5),
    other=ball("heat_k"),
    **{"p.png": np.ones((2, 2, 3)), "wall_normal.png": np.full((2, 2, 3), [0.5, 0.5, 1.0])},
)


def shot_of(*layers: dict[str, Any], **members: Any) -> dict[str, Any]:
    whole: dict[str, Any] = {
        "camera": {"position": [0, 0.6, 3], "target": [0, 0, 0]},
        "objects": [{"name": "ball", "geometry": {"file": "ball"}, "look": "l"}],
        "looks": [look("l", layer("base", base_weight=value(0.8)), *layers)],
    }
    return document(**whole | members)


def advice(data: dict[str, Any], rule: str | None = None) -> list[Advice]:
    shot = read_shot(data)
    assert check_shot(shot) == []
    return [each for each in look_over(shot, FILES) if rule is None or each.rule == rule]


def masked(*steps: dict[str, Any], name: str = "a", **members: Any) -> dict[str, Any]:
    return shot_of(layer(name, recipe(*steps), base_color=value([0.5, 0.2, 0.1])), **members)


FOAM: dict[str, Any] = {"gives": "foam", "detail": "coarse", "wind": 14, "fetch": 3000, "size": 1.0, "folds_below": 0.9}
NOISE = step("noise", size=0.4, octaves=2)
RANGE = step("remap", from_start=0.3, from_end=0.7)

EDGES = [{"at": at, "value": v} for at, v in ((0.03, 0), (0.06, 1), (0.11, 1), (0.15, 0))]
"""The rounded edges on both sides of the ball's groove."""

BALL = {"name": "ball", "geometry": {"file": "ball"}, "look": "l"}
FAR = {"name": "far", "geometry": {"shape": "sphere"}, "look": "l", "position": [0, 40, 0]}


def moved(height: float, levels: int = 0, **bounds: float) -> dict[str, Any]:
    """A ball that is displaced."""
    heights = {"recipe": recipe(NOISE, step("multiply", by=height))}
    item = {**BALL, "displacement": bounds, "subdivision": {"levels": levels} if levels else None}
    return shot_of(layer("a", displacement=heights), objects=[item])


def scattered(apart: float) -> dict[str, Any]:
    stone = {
        "name": "stone", "geometry": {"shape": "sphere", "radius": 0.1, "segments": 12}, "look": "l",
        "array": {"along": "surface", "object": "ball", "apart": apart},
    }  # fmt: skip
    return shot_of(objects=[BALL, stone])


def skins(other: str, **members: Any) -> dict[str, Any]:
    skin = {"look": "l", "particles": {"skin": {"smooth": 0.0}}}
    pair = [{"name": "one", "geometry": {"file": "pods"}, **skin}, {"name": "two", "geometry": {"file": other}, **skin}]
    return shot_of(objects=[BALL, pair[0], pair[1] | members])


def filled(*layers: dict[str, Any], **geometry: Any) -> dict[str, Any]:
    """The ball, and a body of 1 m beside it that is filled with a volume."""
    fill = {"name": "fill", "domain": "volume", "layers": list(layers)}
    body = geometry or {"shape": "box", "rounding": 0.0}
    objects = [BALL, {"name": "body", "geometry": body, "look": "fill", "position": [0, 0.6, 0]}]
    return shot_of(objects=objects) | {"looks": [look("l", layer("base", base_weight=value(0.8))), fill]}


def remembering(segments: int = 1, **own: Any) -> dict[str, Any]:
    """A level square beside the ball that remembers."""
    kept = {"name": "kept", "signal": "near", **own}
    pond = {
        "name": "pond",
        "look": "p",
        "geometry": {"shape": "plane", "width": 1.0, "depth": 1.0, "segments": segments},
        "remembers": [kept],
    }
    near = {"name": "near", "recipe": recipe(step("contact", to={"object": "ball"}))}
    made = shot_of(layer("l", base_weight=value(0.8)), objects=[BALL, pond], signals=[near])
    return made | {"looks": [*made["looks"], look("p", layer("base", base_weight=value(0.5)))]}


def keyed(
    first: tuple[float, float], last: tuple[float, float], at: str = "focal_length", **track: Any
) -> dict[str, Any]:
    keys = [{"frame": frame, "value": number} for frame, number in (first, last)]
    return shot_of(layer("l", base_weight=value(0.8)), tracks=[{"at": f"/camera/{at}", "keys": keys, **track}])


def spots(size: float, radius: float = 0.03) -> dict[str, Any]:
    return {"recipe": recipe(step("cellular", size=size), step("remap", from_start=radius, from_end=0.0))}


NOTICED: dict[str, list[dict[str, Any]]] = {
    "open body": [
        filled(layer("a", density=value(1.0)), shape="plane"),
        filled(layer("a", density=value(1.0)), file="ball"),
    ],
    "front finer than the mesh": [remembering(kind="growth", edge=0.01), remembering(8, kind="growth", edge=0.0)],
    "springs too quick": [remembering(kind="springs", frequency=11.0, damping=0.1)],
    "key outside the shot": [keyed((1, 30.0), (60, 40.0)), keyed((-20, 30.0), (99, 40.0))],
    "loop that jumps": [keyed((1, 30.0), (24, 40.0), after="loop"), keyed((1, 30.0), (24, 29.0), before="loop")],
    "faint volume": [filled(layer("a", density=value(0.0001))), filled(layer("a", density=value(5000.0)))],
    "same hue": [
        filled(layer("a", scattering_color=value([0.2, 0.5, 0.9]), absorption_color=value([0.1, 0.3, 0.6]))),
        filled(layer("a", volume_emission_color=value([1.0, 0.4, 0.1]), absorption_color=value([0.5, 0.2, 0.05]))),
    ],
    "lost spots": [
        filled(layer("a", volume_emission=spots(0.02))),
        filled(layer("a", volume_emission=spots(0.2))),
    ],
    "no surface": [
        filled(layer("a", density={"recipe": recipe(step("curvature", radius=0.05), step("multiply", by=3.0))})),
        filled(layer("a", recipe(step("slope")), density=value(1.0))),
    ],
    "hardly varies": [
        masked(NOISE, step("multiply", by=0.001)),
        masked(step("height"), step("multiply", by=0.004), step("add", by=0.97)),
    ],
    "range misses": [
        masked(step("height"), step("remap", from_start=3, from_end=5)),
        masked(step("height"), step("remap", from_start=5, from_end=3)),
        masked(NOISE, step("threshold", level=2)),
    ],
    "inverted": [
        masked(step("slope", direction=[0, -1, 0]), name="dust"),
        masked(step("view angle", inverse=True, exponent=0.5), name="dark rim"),
        masked(step("height"), step("absolute"), step("ramp", stops=EDGES), name="dirt"),
    ],
    "negative power": [
        masked(NOISE, step("subtract", by=0.5), step("power", exponent=2)),
        masked(NOISE, step("subtract", by=0.5), step("power", exponent=0.5)),
    ],
    "data as colour": [
        masked(step("image", file={"file": "p.png"}, role="mask", read_as="colour")),
        shot_of(layer("a", specular_color={"recipe": recipe(step("image", file={"file": "wall_normal.png"}))})),
    ],
    "missing name": [
        masked(step("attribute", attribute="haet"), RANGE),
        masked(
            step("attribute", attribute="heat"),
            RANGE,
            objects=[BALL, {**BALL, "name": "other", "geometry": {"file": "other"}, "position": [0.3, 0, 0]}],
        ),
        masked(
            step("signal", signal="s"),
            signals=[
                {
                    "name": "s",
                    "recipe": recipe(
                        step("height", origin={"locator": "waterlin"}), step("remap", from_start=-1, from_end=1)
                    ),
                }
            ],
            locators=[{"name": "waterline"}],
        ),
        masked(
            step("signal", signal="s"),
            signals=[
                {
                    "name": "s",
                    "recipe": recipe(
                        step("height", origin={"object": "bal"}), step("remap", from_start=-1, from_end=1)
                    ),
                }
            ],
        ),
    ],
    "finer than the mesh": [
        masked(step("curvature", radius=0.002), RANGE),
        masked(step("occlusion", distance=0.001), RANGE),
    ],
    "touches nothing": [masked(step("contact", to={"object": "far"}, end=0.3), objects=[BALL, FAR])],
    "moves nothing": [shot_of(layer("a", displacement={"recipe": recipe(NOISE, step("multiply", by=0.05))}))],
    "out of bounds": [moved(1.5), moved(0.2, zero=-3.0)],
    "too coarse to move": [moved(0.1)],
    "crowded copies": [scattered(0.1)],
    "overlapping skins": [skins("pods_beside")],
    "round spots": [masked(step("spots", size=0.3, irregular=0.0))],
    "too many octaves": [masked(step("noise", size=0.1, octaves=14))],
    "too fast": [masked(step("noise", size=0.4, speed=20.0))],
    "foam stays": [masked(step("waves", **FOAM, foam_lasts=60.0))],
    "not finite": [
        masked(step("formula", expression="1 / (position.x - position.x)"), step("clamp", low=0, high=1)),
        masked(step("formula", expression="log(position.y - position.y - 1)")),
    ],
    "no change": [
        masked(NOISE, RANGE, step("clamp", low=-1, high=2)),
        masked(step("twirl", space="uv"), NOISE, RANGE),
        masked(NOISE, RANGE, step("multiply", by=1)),
    ],
    "glowing metal": [
        shot_of(
            layer("iron", base_metalness=value(1.0)), layer("hot", recipe(NOISE, RANGE), emission_luminance=value(5.0))
        ),
    ],
    "implausible albedo": [
        shot_of(layer("a", base_color=value([0.97, 0.97, 0.97]), base_weight=value(1.0))),
        shot_of(layer("a", base_color=value([0.001, 0.001, 0.001]))),
    ],
    "half cut out": [
        shot_of(layer("a", geometry_opacity={"recipe": recipe(NOISE, step("remap", from_start=0.1, from_end=0.9))})),
    ],
    "index below one": [
        shot_of(layer("a", specular_ior={"recipe": recipe(NOISE, step("remap", to_start=0.4, to_end=1.4))})),
        shot_of(layer("a", coat_ior=value(0.5))),
    ],
    "held in range": [
        shot_of(layer("a", specular_roughness=value(1.5))),
        shot_of(layer("a", coat_weight={"recipe": recipe(NOISE, step("multiply", by=3.0))})),
    ],
    "dispersion without glass": [
        shot_of(layer("a", transmission_dispersion_scale=value(1.0))),
        shot_of(
            layer(
                "a",
                transmission_dispersion_scale=value(1.0),
                transmission_weight=value(1.0),
                geometry_thin_walled=value(1.0),
            )
        ),
    ],
    "burnt out": [
        shot_of(layer("a", emission_luminance=value(100.0))),
        shot_of(layer("a", emission_luminance={"recipe": recipe(NOISE, RANGE, step("multiply", by=30.0))})),
    ],
    "shut in": [shot_of(lights=[{"name": "lamp", "shape": "sphere", "position": [0, 0.2, 0], "width": 0.05}])],
    "too few turns": [
        shot_of(layer("a", geometry_opacity=value(0.5)), limits={"transparency": 1}),
        shot_of(layer("a", transmission_weight=value(1.0)), limits={"transmission": 1}),
        shot_of(layer("a", transmission_weight=value(1.0)), bounces=1),
    ],
    "glints under water": [masked(step("height"), step("threshold", level=0.0, keep="below"), name="below water")],
}

SILENT: dict[str, dict[str, Any]] = {
    "open body": filled(layer("a", density=value(1.0)), shape="sphere"),
    "front finer than the mesh": remembering(50, kind="growth", edge=0.05),
    "springs too quick": remembering(kind="springs", frequency=3.0),
    "key outside the shot": keyed((1, 30.0), (48, 40.0)),
    "loop that jumps": keyed((1, 30.0), (24, 30.0), after="loop"),
    "faint volume": filled(layer("a", density=value(2.0))),
    "same hue": filled(layer("a", scattering_color=value([0.2, 0.5, 0.9]), absorption_color=value([0.6, 0.3, 0.1]))),
    "lost spots": filled(layer("a", volume_emission=spots(1.0, 0.6))),
    "no surface": filled(
        layer("a", recipe(step("height"), step("remap", from_start=0.4, from_end=1.6)), density=value(2.0))
    ),
    "hardly varies": masked(NOISE, RANGE),
    "range misses": masked(step("height"), step("remap", from_start=-0.2, from_end=0.4)),
    "inverted": masked(step("slope"), name="dust"),
    "negative power": masked(NOISE, RANGE, step("power", exponent=2)),
    "data as colour": shot_of(layer("a", base_color={"recipe": recipe(step("image", file={"file": "p.png"}))})),
    "missing name": masked(step("attribute", attribute="heat"), RANGE),
    "finer than the mesh": masked(step("curvature", radius=0.05), RANGE),
    "touches nothing": masked(
        step("contact", to={"object": "far"}, end=0.3), objects=[BALL, {**FAR, "position": [0, 0.6, 0]}]
    ),
    "moves nothing": moved(0.1, levels=1),
    "out of bounds": moved(0.5, levels=1),
    "too coarse to move": moved(0.1, levels=2),
    "crowded copies": scattered(0.15),
    "overlapping skins": skins("pods_far"),
    "round spots": masked(step("spots", size=0.3, irregular=0.6)),
    "too many octaves": masked(step("noise", size=0.5, octaves=4)),
    "too fast": masked(step("noise", size=0.4, speed=0.3)),
    "foam stays": masked(step("waves", **FOAM, foam_lasts=3.0)),
    "not finite": masked(step("formula", expression="1 / (2 + position.x)")),
    "no change": masked(step("twirl"), NOISE, RANGE),
    "glowing metal": shot_of(
        layer("iron", base_metalness=value(1.0)),
        layer("hot", recipe(NOISE, RANGE), emission_luminance=value(5.0), base_metalness=value(0.0)),
    ),
    "implausible albedo": shot_of(layer("a", base_color=value([0.5, 0.04, 0.02]))),
    "half cut out": shot_of(layer("a", geometry_opacity={"recipe": recipe(NOISE, step("threshold", width=0.02))})),
    "index below one": shot_of(layer("a", specular_ior=value(1.0))),
    "held in range": shot_of(layer("a", specular_roughness={"recipe": recipe(NOISE, RANGE)})),
    "dispersion without glass": shot_of(
        layer("a", transmission_dispersion_scale=value(1.0), transmission_weight=value(1.0))
    ),
    "burnt out": shot_of(layer("a", emission_luminance=value(3.0))),
    "shut in": shot_of(
        layer("a", transmission_weight=value(1.0)),
        lights=[{"name": "lamp", "shape": "sphere", "position": [0, 0.2, 0], "width": 0.05}],
    ),
    "too few turns": shot_of(layer("a", geometry_opacity=value(0.5))),
    "glints under water": shot_of(
        layer(
            "below water",
            recipe(step("height"), step("threshold", level=0.0, keep="below")),
            specular_weight=value(0.0),
        )
    ),
}


def test_every_rule_has_both_documents() -> None:
    assert set(NOTICED) == set(SILENT) == set(rules())


def test_skins_of_which_one_comes_first_may_overlap() -> None:
    assert advice(skins("pods_beside", priority=1), "overlapping skins") == []


CASES = [(rule, number) for rule, documents in NOTICED.items() for number in range(len(documents))]


@pytest.mark.parametrize(("rule", "number"), CASES)
def test_what_a_rule_is_for_is_noticed(rule: str, number: int) -> None:
    found = advice(NOTICED[rule][number], rule)
    assert len(found) == 1
    (one,) = found
    assert one.severity in ("error", "warning", "note")
    assert re.match("/(looks|signals|lights|limits|objects|tracks)/", one.address)
    assert one.where
    assert one.reason.endswith((".", "?"))
    assert one.reason.count(". ") == 0, "one sentence"


@pytest.mark.parametrize("rule", list(SILENT))
def test_where_all_is_well_a_rule_says_nothing(rule: str) -> None:
    assert advice(SILENT[rule], rule) == []


@pytest.mark.parametrize(("rule", "number"), CASES)
def test_a_fix_mends_what_was_noticed_and_breaks_nothing(rule: str, number: int) -> None:
    data = NOTICED[rule][number]
    (one,) = advice(data, rule)
    if one.fix is None:
        without = ("hardly varies", "not finite", "implausible albedo", "touches nothing")
        assert rule in (*without, "key outside the shot", "open body", "faint volume", "lost spots", "no surface"), (
            "these have no fix that is safe"
        )
        return
    mended = apply_patch(data, [dict(operation) for operation in one.fix.patch])
    assert advice(mended, rule) == []


def test_rules_name_their_source() -> None:
    for rule in rules().values():
        assert rule.about
        assert "common practice" in rule.about or "definition" in rule.about or any(c.isdigit() for c in rule.about)


def test_the_gravest_comes_first() -> None:
    both = shot_of(
        layer("a", recipe(step("spots", size=0.3, irregular=0.0)), base_color=value([0.5, 0.2, 0.1])),
        layer("b", recipe(step("height"), step("remap", from_start=3, from_end=5)), base_weight=value(0.1)),
    )
    assert [each.severity for each in advice(both)] == ["error", "note"]


def test_water_may_move_as_fast_as_it_does_also_through_a_signal_but_noise_may_not() -> None:
    water = step("waves", wind=12, size=2, scale=0.02, detail="coarse", gives="foam")
    named = [{"name": "pond", "recipe": recipe(water)}, {"name": "boils", "recipe": recipe(step("noise", speed=20.0))}]

    def of(*steps: dict[str, Any]) -> list[Advice]:
        shot = read_shot(masked(*steps, signals=named))
        graph = FrameGraph(resolve(shot, None), FILES)
        facts = gather(graph.shot, resolve(shot, 2.0), graph.gbuffer(*SIZE))
        kept = [replace(each, change_per_second=9.0) for each in facts.recipes if each.role == "mask"]
        return [found for each in kept for found in TooFast().check_recipe(each, facts)]

    assert of(step("signal", signal="pond")) == [], "though it would be too fast for noise"
    assert len(of(step("signal", signal="boils"))) == 1
    assert len(of(step("signal", signal="pond"), step("multiply", by={"signal": "boils"}))) == 1


def test_nothing_is_said_of_layers_that_are_off_nor_of_signals_that_nothing_uses() -> None:
    data = masked(
        step("spots", size=0.3, irregular=0.0),
        signals=[{"name": "s", "recipe": recipe(step("attribute", attribute="gone"))}],
    )
    data["looks"][0]["layers"][1]["on"] = False
    assert advice(data) == []


def test_a_stand_in_is_looked_at_instead_of_what_it_stands_for() -> None:
    here = {"waterline": {"locator": "pond"}}
    data = masked(
        step("signal", signal="s", stand_ins=here),
        RANGE,
        signals=[{"name": "s", "recipe": recipe(step("height", origin={"locator": "waterline"}))}],
        locators=[{"name": "pond", "position": [0, -0.4, 0]}],
    )
    assert advice(data, "missing name") == []


def test_a_shot_in_which_nothing_is_seen_gets_no_advice_on_values() -> None:
    data = NOTICED["range misses"][0] | {"camera": {"position": [0, 0.6, 3], "target": [0, 0.6, 9]}}
    assert advice(data) == []
