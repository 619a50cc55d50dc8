"""Any document that validates can be evaluated: without a crash, without a NaN that nobody put in, and always alike."""

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pytest
from hypothesis import HealthCheck, Phase, assume, example, given, settings
from hypothesis import strategies as st

from tests.builders import MadeFiles, layer, look, recipe, shot
from texallon.core.document.resolved import resolve
from texallon.core.ops.op import DomainWarp, Op
from texallon.core.ops.registry import describe, ops
from texallon.core.ops.voxel_grid import make_voxel_grid
from texallon.core.signal.check_recipes import check_shot
from texallon.core.signal.plan import Plan, subset
from texallon.core.signal.planner import Planner
from texallon.core.signal.run import evaluate, fill_missing

pytestmark = pytest.mark.slow

COUNT = 400
RNG = np.random.default_rng(71)
UNIT = RNG.normal(size=(3, COUNT))
DATA = {
    "position": RNG.uniform(-3, 3, (3, COUNT)),
    "normal": UNIT / np.linalg.norm(UNIT, axis=0),
    "view": -UNIT / np.linalg.norm(UNIT, axis=0),
    "uv": RNG.uniform(-1, 2, (2, COUNT)),
    "footprint": RNG.uniform(0, 0.05, (1, COUNT)),
    "object_id": RNG.integers(0, 5, (1, COUNT)),
    "attribute:heat": RNG.uniform(-2, 2, (1, COUNT)),
}
DATA = {name: np.ascontiguousarray(values, np.float32) for name, values in DATA.items()}
VOXELS = make_voxel_grid(RNG.uniform(0, 1, (4, 5, 6, 1)).astype(np.float32), np.eye(4)[:3] * 3)
FILES = MadeFiles(
    **{"p.png": RNG.uniform(0, 1, (8, 8, 3)).astype(np.float32), "v.npz": {"density": VOXELS}},
)
PLACES: list[Any] = ["world", "object", "rest", "uv", "camera", {"locator": "l"}, {"object": "o"}]
FORMULAS = ["position.x * 2", "clamp(distance / 9)", 'signal("damp") + uv.u', "normal if position.y > 0 else view"]
# Only a formula may make what is no number of numbers; none of these does.

number = st.floats(-4, 4, width=32).map(lambda x: round(x, 3))


def of_kind(parameter: dict[str, Any], depth: int) -> st.SearchStrategy[Any]:
    """Values that a parameter takes."""
    low, high = parameter["range"]
    kind = parameter["type"]
    if kind in ("number", "whole number"):
        small = -4.0 if low is None else float(low)
        least = small if low is None or kind != "number" else small + 0.01
        most = min(float(high) if high is not None else 6.0, least + 6)
        if kind == "whole number":
            return st.integers(int(least), int(most))
        return (
            st.floats(least, most, allow_nan=False).map(lambda x: round(x, 4)).filter(lambda x: low is None or x > low)
        )
    if kind == "choice":
        return st.sampled_from(parameter["choices"])
    if kind == "switch":
        return st.booleans()
    if kind == "place":
        return st.sampled_from(PLACES)
    if kind == "vector":
        return st.lists(number, min_size=3, max_size=3)
    if kind in ("input", "scalar input", "number or colour"):
        options: list[st.SearchStrategy[Any]] = [number]
        if kind != "scalar input":
            options.append(st.lists(number, min_size=3, max_size=3))
        if kind != "number or colour":
            options.append(st.just({"signal": "damp"}))
            if depth < 2:
                options.append(a_recipe(depth + 1))
        return st.one_of(options)
    return {
        "stops": st.just([{"at": 0.0, "value": 0.1}, {"at": 0.5, "value": 0.9}, {"at": 0.7, "value": 0.2}]),
        "curve": st.just([[0.0, 1.0], [0.4, 0.2], [1.0, 0.5]]),
        "formula": st.sampled_from(FORMULAS),
        "image": st.just({"file": "p.png"}),
        "voxel file": st.just({"file": "v.npz"}),
        "voxel grid": st.just("density"),
        "signal": st.just("damp"),
        "stand-ins": st.sampled_from([{}, {"l": {"object": "o"}}]),
        "attribute": st.just("heat"),
    }[kind]  # fmt: skip


def a_step(kind: str, depth: int) -> st.SearchStrategy[dict[str, Any]]:
    def params_of(op: type[Op]) -> st.SearchStrategy[dict[str, Any]]:
        described = describe(op)["parameters"]
        needed = {each["name"]: of_kind(each, depth) for each in described if each["default"] is None}
        optional = {each["name"]: of_kind(each, depth) for each in described if each["default"] is not None}
        params = st.fixed_dictionaries(needed, optional=optional)
        return st.fixed_dictionaries({"op": st.just(op.name), "on": st.booleans() if op.kind != "source" else st.just(True), "params": params})  # fmt: skip

    return st.sampled_from([op for op in ops().values() if op.kind == kind]).flatmap(params_of)


def a_recipe(depth: int = 0) -> st.SearchStrategy[dict[str, Any]]:
    return st.builds(
        lambda space, source, steps: {"steps": [*space, source, *steps]},
        st.lists(a_step("warp", depth), max_size=2),
        a_step("source", depth),
        st.lists(a_step("modifier", depth), max_size=3 if depth == 0 else 1),
    )


def plan_for(where: dict[str, Any], frame: int = 1) -> Plan | None:
    made = shot(
        locators=[{"name": "l", "position": [0.3, 1, 0], "rotation": [0, 30, 10], "scale": 1.5}],
        objects=[{"name": "o", "geometry": {"file": "o"}, "look": "plain", "position": [0, -1, 0]}],
        signals=[{"name": "damp", "recipe": recipe({"op": "noise", "params": {"size": 0.7, "seed": 2}}, {"op": "remap", "params": {}})}],
        looks=[look("plain", layer("a", base_color={"recipe": where}))],
    )  # fmt: skip
    if check_shot(made):
        return None  # a colour where a number is needed, and such: refused, as it should be
    planner = Planner(resolve(made, frame))
    planner.want("value", planner.layer_channel(made.looks[0].layers[0], "base_color", ("looks", 0, "layers", 0)))
    return planner.plan()


def values(plan: Plan, chunk: int = 8192, pool: ThreadPoolExecutor | None = None) -> np.ndarray:
    points = plan.points(COUNT, fill_missing(plan.required_data, DATA, COUNT), FILES)
    return evaluate(plan, points, chunk=chunk, pool=pool)["value"]


def is_moved_out_of_reach(plan: Plan) -> bool:
    """Whether a space step leads so far away that patterns have no value there, as they say themselves."""
    bent = {f"w{at}": at for at, node in enumerate(plan.nodes) if isinstance(node.op, DomainWarp)}
    part = subset(plan.nodes, bent, plan.world_to_space, plan.frame, plan.time)
    points = part.points(COUNT, fill_missing(part.required_data, DATA, COUNT), FILES)
    return any(not (np.abs(place) < 1e9).all() for place in evaluate(part, points).values())


QUICKLY = (Phase.explicit, Phase.reuse, Phase.generate)
"""Without making a failing document smaller, which takes minutes: it is said whole, and `hypothesis.Phase.shrink` can be added by hand."""

INFINITE = {
    "steps": [
        {"op": "stripes", "params": {"profile": "wave", "axis": "x", "space": "world"}},
        {"op": "power", "params": {"exponent": -58.9}},
    ]
}
"""What is finer than a sample becomes infinite here and there: found by the test below."""


TWO_FADED = {
    "steps": [
        {"op": "billow", "params": {}},
        {"op": "mix", "params": {"other": {"signal": "damp"}, "amount": {"signal": "damp"}}},
    ]
}
"""What comes in is faded at more points than what it is mixed with: the mean was taken otherwise where other points were looked at with them."""


@example(TWO_FADED, 1, 1)
@example(INFINITE, 1, 1)
@settings(max_examples=100, phases=QUICKLY, suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much])
@given(a_recipe(), st.integers(1, 48), st.sampled_from([1, 7, 97, 399]))
def test_any_document_that_validates_has_values(where: dict[str, Any], frame: int, chunk: int) -> None:
    plan = plan_for(where, frame)
    assume(plan is not None)
    assert plan is not None
    whole = values(plan)
    assert whole.shape == (plan.width("value"), COUNT)
    assert whole.dtype == np.float32
    assert not np.isnan(whole).any() or is_moved_out_of_reach(plan), "nothing that came in was no number"
    with ThreadPoolExecutor(3) as pool:
        assert np.array_equal(values(plan, chunk, pool), whole, equal_nan=True), "chunks and threads change nothing"
    again = plan_for(where, frame)
    assert again is not None
    assert again.key("value") == plan.key("value")
    assert np.array_equal(values(again), whole), "equal documents give equal values"
