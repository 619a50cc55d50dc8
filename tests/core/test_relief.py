"""Bump and normal maps: normals tilt as the height's slope and the map say."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, apply, layer, look, recipe, run, shot, square, step, value
from texallon.core.derived import DerivedStore
from texallon.core.geometry.mesh import Mesh, make_mesh
from texallon.core.render.camera.pick import pick, read_point
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import make_context
from texallon.core.render.transport.integrator import trace


def normals(mesh: Mesh, *layers: dict[str, Any], pixels: int = 16, width: float = 60.0, **members: Any) -> np.ndarray:
    """The first normals `(3, n)` that the camera sees from above."""
    made = shot(
        camera={"position": [0, 4, 0.0001], "target": [0, 0, 0], "focal_length": width},
        objects=[{"name": "f", "geometry": {"file": "f"}, "look": "l", **members.pop("item", {})}],
        looks=[look("l", *layers)],
        bounces=0,
        **members,
    )
    context = make_context(made, MadeFiles(f=mesh), pixels, pixels)
    return trace(context, np.arange(pixels * pixels, dtype=np.int32), 0).normal


def bump(*steps: dict[str, Any]) -> dict[str, Any]:
    return layer("b", bump={"recipe": recipe(*steps)})


@pytest.mark.parametrize("axis", ["x", "z"])
@pytest.mark.parametrize("slope", [0.3, -1.0])
def test_a_height_that_rises_evenly_tilts_the_normal_by_its_slope(axis: str, slope: float) -> None:
    # J. Blinn 1978: on a plane, the normal of the height h = s·x is (−s, 1, 0) / √(1 + s²).
    found = normals(square(20.0), bump(step("height", axis=axis), step("multiply", by=slope)))
    expected = np.array([-slope, 1, 0] if axis == "x" else [0, 1, -slope]) / np.sqrt(1 + slope**2)
    assert np.allclose(found, expected[:, None], atol=2e-3)


def test_a_wavy_height_tilts_the_normal_by_its_derivative() -> None:
    height = step("formula", expression="0.02 * sin(9 * position.x) * cos(5 * position.z)")
    found = normals(square(20.0), bump(height), pixels=48)
    assert np.allclose(np.linalg.norm(found, axis=0), 1, atol=1e-5)
    slopes = -found[[0, 2]] / found[1]
    # The extremes of the partial derivatives, 0.18 and 0.10.
    assert np.abs(slopes[0]).max() == pytest.approx(0.18, abs=0.01)
    assert np.abs(slopes[1]).max() == pytest.approx(0.10, abs=0.01)


def test_a_bump_follows_the_uv_map_and_stored_attributes() -> None:
    corners = [[-5, 0, -5], [5, 0, -5], [5, 0, 5], [-5, 0, 5]]
    mesh = make_mesh(
        corners, [[0, 2, 1], [0, 3, 2]], [[0, 1, 0]] * 4, [[0, 0], [1, 0], [1, 1], [0, 1]], {"h": [0, 2, 2, 0]}
    )
    by_uv = normals(mesh, bump(step("uv", read="u"), step("multiply", by=2.0)))
    assert np.allclose(by_uv, np.array([[-0.2], [1], [0]]) / np.sqrt(1.04), atol=2e-3), "2 m over 10 m"
    stored = normals(mesh, bump(step("attribute", attribute="h")))
    assert np.allclose(stored, by_uv, atol=2e-3)


def test_a_bump_keeps_its_size_on_a_scaled_object() -> None:
    half = {"item": {"scale": 0.5, "rotation": [0, 90, 0]}}
    found = normals(square(40.0), bump(step("height", axis="x", origin="world"), step("multiply", by=0.5)), **half)
    assert np.allclose(found, np.array([[-0.5], [1], [0]]) / np.sqrt(1.25), atol=2e-3)


def test_no_bump_leaves_the_normal_alone() -> None:
    assert np.allclose(normals(square(20.0), bump(step("constant", value=3.0))), [[0], [1], [0]], atol=1e-6)
    assert np.allclose(normals(square(20.0), bump(step("formula", expression="0 / 0 * position.x"))), [[0], [1], [0]])


TILTED = np.array([np.sin(np.radians(30)), 0.0, np.cos(np.radians(30))])


def mapped(stored: np.ndarray, mesh: Mesh, **params: Any) -> np.ndarray:
    steps = [step("constant", value=[float(x) for x in stored]), step("normal map", **params)]
    return normals(mesh, layer("n", geometry_normal={"recipe": recipe(*steps)}))


def test_a_normal_map_tilts_along_the_uv_map() -> None:
    # glTF 2.0, 3.9.3: x runs along u, y along v, z off the surface; stored as (n + 1) / 2.
    flat = square(20.0)  # u along x, v along z
    assert np.allclose(mapped(np.array([0.5, 0.5, 1.0]), flat), [[0], [1], [0]], atol=1e-6)
    towards_u = mapped((TILTED + 1) / 2, flat)
    assert np.allclose(towards_u, [[TILTED[0]], [TILTED[2]], [0]], atol=1e-3)
    towards_v = mapped((TILTED[[1, 0, 2]] + 1) / 2, flat)
    assert np.allclose(towards_v, [[0], [TILTED[2]], [TILTED[0]]], atol=1e-3)
    down = mapped((TILTED[[1, 0, 2]] + 1) / 2, flat, green="down")
    assert np.allclose(down, [[0], [TILTED[2]], [-TILTED[0]]], atol=1e-3)


def test_a_map_turned_on_the_surface_turns_its_normals() -> None:
    corners = [[-9, 0, -9], [9, 0, -9], [9, 0, 9], [-9, 0, 9]]
    turned = make_mesh(corners, [[0, 2, 1], [0, 3, 2]], [[0, 1, 0]] * 4, [[0, 1], [0, 0], [1, 0], [1, 1]])
    # Here u runs along z and v against x.
    found = mapped((TILTED + 1) / 2, turned)
    assert np.allclose(found, [[0], [TILTED[2]], [TILTED[0]]], atol=1e-3)


def test_strength_scales_the_tilt() -> None:
    stored = np.float32([[0.75], [0.5], [1.0]])
    none = apply(step("normal map", strength=0), to=[0.9])
    assert none.tolist() == pytest.approx([0, 0, 1], abs=1e-6)
    for strength in (0.5, 2.0):
        found = run(step("attribute", attribute="x", read="colour"), step("normal map", strength=strength), data={"attribute:x": stored})  # fmt: skip
        assert found[0, 0] / found[2, 0] == pytest.approx(0.5 * strength, rel=1e-5)


def test_a_wrong_normal_counts_as_none() -> None:
    stored = np.float32([[np.nan, 0.5, np.inf], [0.5, 0.5, 0.5], [1, 0.5, 1]])
    found = run(step("attribute", attribute="x", read="colour"), step("normal map"), data={"attribute:x": stored})
    assert np.allclose(found, [[0], [0], [1]])


# -- masks that follow the relief --------------------------------------------------------------------------------


def seen_mask(relief: dict[str, Any], mask: dict[str, Any], mesh: Mesh | None = None, **item: Any) -> np.ndarray:
    """What a mask over a look's relief is: in the mask view, in the light that surfaces send out, and at a picked point."""
    shown = layer("shown", self_lit=value(1.0), base_color={"recipe": recipe(step("signal", signal="mask"))})
    made = shot(
        camera={"position": [0, 4, 0.0001], "target": [0, 0, 0], "focal_length": 60.0},
        signals=[{"name": "mask", "recipe": recipe(mask)}],
        objects=[{"name": "f", "geometry": {"file": "f"}, "look": "l", **item}],
        looks=[look("l", layer("relief", **relief), shown)],
        environment={"intensity": 0.0},
        bounces=0,
    )
    graph = FrameGraph(made, MadeFiles(f=mesh or square(20.0)))
    seen = graph.gbuffer(24, 24).batch(0).values(graph.plans.of_signal("mask"))["value"][0]
    sent = trace(graph.context(24, 24), np.arange(24 * 24, dtype=np.int32), 0).buffers[:, 1].sum(axis=0)
    # Samples lie elsewhere in their pixels.
    assert sent.mean() == pytest.approx(seen.mean(), abs=0.01), "light and mask view differ"
    picked = pick(graph.scene, graph.view(24, 24), 0.55, 0.45, False)
    assert picked is not None
    found = read_point(made, graph.scene, graph.view(24, 24), picked, graph.relief)
    assert found is not None and float(found.reading.layers[1].channels[1].value[0]) == pytest.approx(
        seen.mean(), abs=0.05
    )
    return np.asarray(seen)


RISING = recipe(step("height", axis="x"), step("multiply", by=0.5))
LEAN = np.degrees(np.arctan(0.5))


def leaning(lean: str) -> dict[str, Any]:
    """1 upright, 0 at 90°."""
    return step("slope", full=0, none=90, lean=lean)


def eased(lean: float) -> float:
    t = 1 - lean / 90
    return t * t * (3 - 2 * t)


@pytest.mark.parametrize("lean", ["mesh", "relief", "rest"])
def test_slope_follows_a_bump_by_choice(lean: str) -> None:
    found = seen_mask({"bump": {"recipe": RISING}}, leaning(lean))
    assert found == pytest.approx(np.full(24 * 24, eased(LEAN) if lean == "relief" else 1.0), abs=2e-3)


@pytest.mark.parametrize("lean", ["mesh", "relief", "rest"])
def test_slope_follows_a_displacement_by_choice(lean: str) -> None:
    moved = {"displacement": {"most": 10.0}}
    found = seen_mask({"displacement": {"recipe": RISING}}, leaning(lean), **moved)
    assert found == pytest.approx(np.full(24 * 24, 1.0 if lean == "rest" else eased(LEAN)), abs=2e-3)


def test_relief_finer_than_a_mesh_is_followed() -> None:
    # One face over 20 m: the mesh can have none of these waves, whose slope is 0.5 cos(5 x).
    waves = recipe(step("formula", expression="0.1 * sin(5 * position.x)"))
    moved = {"displacement": {"most": 1.0}}
    found = seen_mask({"displacement": {"recipe": waves}}, leaning("relief"), **moved)
    assert found.min() == pytest.approx(eased(LEAN), abs=0.02) and found.max() == pytest.approx(1.0, abs=0.02)


def test_view_angle_and_a_normal_map_follow_the_relief() -> None:
    # Tilted by 60°: seen from above it faces the eye by cos 60°.
    turned = {"geometry_normal": value([np.sin(np.radians(60)), 0.0, np.cos(np.radians(60))])}
    assert seen_mask(turned, step("view angle", lean="relief")).mean() == pytest.approx(0.5, abs=0.05)
    assert seen_mask(turned, step("view angle")).max() < 0.1


def test_relief_that_goes_by_its_own_lean_sees_the_surface_without_it() -> None:
    found = seen_mask({"bump": {"recipe": recipe(leaning("relief"))}}, leaning("relief"))
    assert found == pytest.approx(np.ones(24 * 24), abs=1e-3), "a height of 1 all over"


def test_light_that_follows_relief_is_found_anew_when_what_the_relief_measures_from_grows() -> None:
    """One store for both: the list of shining faces hangs on all that is read on the way to it."""
    raised = recipe(step("contact", to={"object": "stone"}, end=3.0, measure="distance"), step("multiply", by=2.0))
    lit = {"emission_luminance": {"recipe": recipe(leaning("relief"))}, "bump": {"recipe": raised}}
    store, files = DerivedStore(), MadeFiles(floor=square(4.0))

    def power(radius: float) -> float:
        made = shot(
            objects=[
                {"name": "floor", "geometry": {"file": "floor"}, "look": "lit"},
                {
                    "name": "stone",
                    "geometry": {"shape": "sphere", "radius": radius},
                    "look": "plain",
                    "position": [0, 0.5, 0],
                },
            ],
            looks=[look("lit", layer("l", **lit)), look("plain")],
        )
        graph = FrameGraph(made, files, store)
        return float(store.value(graph.mesh_lights_value).power)

    small, large = power(0.05), power(0.49)
    assert small != large
    assert power(0.05) == small
