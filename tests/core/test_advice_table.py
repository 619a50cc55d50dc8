"""Advice that can be believed: many small looks, sensible and mistaken, and how often each rule is right about them.

What is sensible and what is a mistake is common practice, no published source; reflectances of silver and aluminium are handbook values
(0.97 and 0.91 in the visible; CRC Handbook, from memory).
"""

from collections import defaultdict
from itertools import product
from typing import Any

import numpy as np

from tests.builders import MadeFiles, layer, recipe, step, value
from tests.core.test_advice import NOISE, NOTICED, RANGE, SILENT, ball, masked, pods, shot_of
from texallon.core.advice.look_over import look_over
from texallon.core.advice.registry import rules
from texallon.core.document import read_shot

LEAST = 0.95
"""Of what a rule says that must be right, and of what it should say that it must."""


def _normals() -> np.ndarray:
    """A tangent-space normal map of ripples, as it is stored."""
    x = np.linspace(0, 6 * np.pi, 64)
    slope = np.stack(np.broadcast_arrays(0.4 * np.cos(x)[None, :], 0.3 * np.sin(x)[:, None], np.float64(1)), axis=2)
    return 0.5 + 0.5 * slope / np.linalg.norm(slope, axis=2, keepdims=True)


_random = np.random.default_rng(0)
_grey = np.repeat(_random.uniform(0, 1, (32, 32, 1)), 3, axis=2)
_photo = _random.uniform(0, 1, (32, 32, 3)) * [0.9, 0.5, 0.3]
FILES = MadeFiles(
    ball=ball(),
    pods=pods(0.0),
    pods_beside=pods(0.3),
    pods_far=pods(1.5),
    other=ball("heat_k"),
    **{
        name: made.astype(np.float32)
        for name, made in {
            "p.png": np.ones((2, 2, 3)), "wall_normal.png": _normals(), "ripples.png": _normals(), "tex-a41f.png": _normals(),
            "grain.png": _grey, "scratches_rough.png": _grey, "autumn.png": _photo, "rough_bark.png": _photo,
            "normal_day.jpg": _photo, "linear.exr": _photo, "one.png": _grey[..., :1],
        }.items()
    },
)  # fmt: skip


def image(file: str, **params: Any) -> dict[str, Any]:
    return {"recipe": recipe(step("image", file={"file": file}, **params))}


def glows(nits: float, **channels: Any) -> dict[str, Any]:
    return layer("g", emission_luminance=value(nits), **channels)


LAMP = [{"name": "lamp", "shape": "sphere", "position": [0, 0.1, 0], "width": 0.05}]
FADE = {"recipe": recipe(step("view angle"), step("remap", from_start=0.1, from_end=0.9))}


def camera(stops: float) -> dict[str, Any]:
    return {"position": [0, 0.6, 3], "target": [0, 0, 0], "exposure": stops}


def seen_at(stops: float, *layers: dict[str, Any]) -> dict[str, Any]:
    return shot_of(*layers) | {"camera": camera(stops)}


SENSIBLE: list[dict[str, Any]] = [
    *SILENT.values(),
    *(shot_of(layer("m", base_metalness=value(1.0), base_color=value([c, c, c]))) for c in (0.97, 0.95, 0.93, 0.91)),
    shot_of(layer("lit", self_lit=value(1.0), base_color=value([1.0, 1.0, 1.0]))),
    shot_of(layer("outline", self_lit=value(1.0), base_color=value([0.0, 0.0, 0.0]))),
    shot_of(layer("half", base_weight=value(0.5), base_color=value([1.0, 1.0, 1.0]))),
    shot_of(layer("wax", subsurface_weight=value(1.0), base_color=value([1.0, 1.0, 1.0]))),
    *(shot_of(layer("c", base_color=value([c, c * 0.8, c * 0.6]))) for c in (0.03, 0.2, 0.5, 0.85)),
    shot_of(
        layer("paper", geometry_thin_walled=value(1.0), subsurface_weight=value(1.0), subsurface_color=value([0.8] * 3)),
        lights=LAMP,
    ),
    *(shot_of(layer("case", **{name: value(1.0)}), lights=LAMP) for name in ("transmission_weight", "geometry_opacity")),
    *(seen_at(stops, glows(nits)) for nits, stops in ((3, 1), (100, -4), (1, 3), (400, -6))),
    *(seen_at(0, glows(nits, emission_exposure=value(stops))) for nits, stops in ((1, 2), (100, -5), (0.1, 6))),
    *(shot_of(layer("veil", geometry_opacity=each)) for each in (FADE, {"recipe": recipe(step("view angle", exponent=2.0))})),
    *(shot_of(layer("d", base_color=image(name))) for name in ("autumn.png", "rough_bark.png", "normal_day.jpg", "grain.png")),
    *(shot_of(layer("d", specular_color=image(name))) for name in ("autumn.png", "rough_bark.png")),
    *(
        shot_of(layer("d", geometry_normal=image(name, role="normal")))
        for name in ("wall_normal.png", "ripples.png", "tex-a41f.png")
    ),
    *(shot_of(layer("d", specular_roughness=image(name, role="roughness"))) for name in ("grain.png", "one.png")),
    shot_of(layer("d", base_color=image("linear.exr", read_as="raw"))),
    masked(step("formula", expression='attribute("heat") * 2')),
    *(masked(step("noise", size=size, octaves=3), RANGE) for size in (0.2, 0.5)),
    *(masked(step("noise", size=0.4, octaves=2, spread="full"), step("remap", from_start=low, from_end=0.8)) for low in (0.1, 0.3)),
    *(masked(step("height"), step("remap", from_start=a, from_end=b)) for a, b in ((-0.3, 0.3), (0.3, -0.3))),
    *(shot_of(layer("r", specular_roughness=value(r))) for r in (0.0, 0.4, 1.0)),
    *(shot_of(layer("i", specular_ior=value(n))) for n in (1.0, 1.5, 2.4)),
]  # fmt: skip

Mistake = tuple[str, dict[str, Any]]
MISTAKEN: list[Mistake] = [
    *((rule, each) for rule, documents in NOTICED.items() if rule != "data as colour" for each in documents),
    *(("implausible albedo", shot_of(layer("c", base_color=value([c, c, c]), base_weight=value(1.0)))) for c in (1.0, 0.95, 0.004)),
    ("implausible albedo", shot_of(layer("c", base_color=value([1.0] * 3), base_weight=value(0.97)))),
    ("shut in", shot_of(layer("s", base_color=value([0.5] * 3)), lights=LAMP)),
    ("shut in", shot_of(layer("s", geometry_thin_walled=value(1.0)), lights=LAMP)),
    *(("burnt out", seen_at(stops, glows(nits))) for nits, stops in ((3, 4), (100, -1), (10, 2))),
    *(
        ("burnt out", seen_at(0, glows(nits, emission_exposure=value(stops))))
        for nits, stops in ((1, 6), (3, 4), (0.5, 8))
    ),
    ("data as colour", NOTICED["data as colour"][0]),
    *(
        ("data as colour", shot_of(layer("n", **{channel: image(name)})))
        for channel, name in product(
            ("geometry_normal", "base_color", "specular_color"), ("wall_normal.png", "ripples.png", "tex-a41f.png")
        )
    ),
    *(("data as colour", shot_of(layer("r", geometry_normal=image(name)))) for name in ("grain.png", "scratches_rough.png")),
    *(
        ("data as colour", shot_of(layer("c", base_color=image(name, read_as="raw"))))
        for name in ("autumn.png", "normal_day.jpg", "rough_bark.png")
    ),
    *(
        ("missing name", masked(step("formula", expression=f'attribute("{name}") * 2')))
        for name in ("haet", "nothing like it")
    ),
    *(("half cut out", shot_of(layer("v", geometry_opacity={"recipe": recipe(NOISE, step("remap", from_start=a, from_end=b))})))
      for a, b in ((0.2, 0.8), (0.0, 1.0))),
    *(("held in range", shot_of(layer("h", **{name: value(v)}))) for name, v in (
        ("specular_roughness", 1.5), ("coat_weight", 2.0), ("base_weight", -0.2), ("specular_ior", 9.0))),
    *(("index below one", shot_of(layer("i", specular_ior=value(v)))) for v in (0.1, 0.9)),
    *(("range misses", masked(step("height"), step("remap", from_start=a, from_end=a + 1))) for a in (3.0, -9.0)),
]  # fmt: skip


def found_in(data: dict[str, Any]) -> set[str]:
    return {each.rule for each in look_over(read_shot(data), FILES)}


def test_there_are_enough_of_both() -> None:
    assert len(SENSIBLE) >= 60 and len(MISTAKEN) >= 60
    assert {rule for rule, _ in MISTAKEN} == set(rules())


def test_each_rule_is_right_nearly_always(capsys: Any) -> None:
    right: dict[str, int] = defaultdict(int)
    wrong: dict[str, list[int]] = defaultdict(list)
    missed: dict[str, list[int]] = defaultdict(list)
    for number, data in enumerate(SENSIBLE):
        for rule in found_in(data):
            wrong[rule].append(number)
    for number, (rule, data) in enumerate(MISTAKEN):
        if rule in found_in(data):
            right[rule] += 1
        else:
            missed[rule].append(number)
    poor = {}
    with capsys.disabled():
        print()
        for rule in sorted(rules()):
            said, wanted = right[rule] + len(wrong[rule]), right[rule] + len(missed[rule])
            precision, recall = right[rule] / max(said, 1), right[rule] / max(wanted, 1)
            print(f"    {rule:26} precision {precision:.2f}  recall {recall:.2f}  of {wanted}")
            if precision < LEAST or recall < LEAST:
                poor[rule] = (wrong[rule], missed[rule])
    assert poor == {}
