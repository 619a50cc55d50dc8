"""Falloff shapes: their distances against meshes of the same solids, their borders, and how they are joined and filtered."""

from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from tests.builders import recipe, run, step
from texallon.core.ops.falloff import Falloff

RNG = np.random.default_rng(11)
PLACES = RNG.uniform(-1.2, 1.2, (3, 400)).astype(np.float32)
UPRIGHT = trimesh.transformations.rotation_matrix(-np.pi / 2, [1, 0, 0])


def upright(mesh: trimesh.Trimesh) -> trimesh.Trimesh:
    mesh.apply_transform(UPRIGHT)
    return mesh


def cone() -> trimesh.Trimesh:
    mesh = upright(trimesh.creation.cone(0.4, 1.2, sections=256))
    mesh.apply_translation([0, -0.6, 0])
    return mesh


SOLIDS: dict[str, tuple[dict[str, float], trimesh.Trimesh]] = {
    "sphere": ({"width": 1.0}, trimesh.creation.icosphere(5, 0.5)),
    "box": ({"width": 1.0, "height": 0.6, "depth": 1.4}, trimesh.creation.box([1.0, 0.6, 1.4])),
    "capsule": (
        {"width": 0.6, "height": 1.4},
        upright(trimesh.creation.capsule(0.8, 0.3, count=[128, 128])),
    ),
    "cylinder": ({"width": 0.8, "height": 1.0}, upright(trimesh.creation.cylinder(0.4, 1.0, sections=256))),
    "cone": ({"width": 0.8, "height": 1.2}, cone()),
    "torus": ({"width": 1.4, "ring": 0.4}, upright(trimesh.creation.torus(0.5, 0.2, 256, 128))),
}


@pytest.mark.parametrize("shape", SOLIDS)
def test_distances_are_those_to_a_mesh_of_the_same_solid(shape: str) -> None:
    """Held to trimesh: the nearest of half a million points on the solid's surface, and whether a place is inside of it."""
    measures, mesh = SOLIDS[shape]
    mesh.apply_translation(-mesh.bounds.mean(axis=0))
    surface, _ = trimesh.sample.sample_surface(mesh, 500_000, seed=1)
    apart, _ = cKDTree(surface).query(PLACES.T)
    signed = np.where(mesh.contains(PLACES.T.astype(np.float64)), -apart, apart)
    found = Falloff(shape=shape, **measures).distance(PLACES)
    # Samples lie some two millimetres apart, and the meshes' facets a little inside.
    assert found == pytest.approx(signed, abs=5e-3)


def test_a_plane_fills_what_is_below_it() -> None:
    assert np.array_equal(Falloff(shape="plane").distance(PLACES), PLACES[1])


@given(st.sampled_from(sorted(SOLIDS)), st.floats(0.2, 3), st.floats(0.2, 3), st.floats(0.2, 3), st.floats(0.05, 1))
def test_no_distance_grows_faster_than_the_way(shape: str, w: float, h: float, d: float, ring: float) -> None:
    """A distance is 1-Lipschitz (J. Hart 1996): what it says can always be walked without meeting the surface."""
    made = Falloff(shape=shape, width=w, height=h, depth=d, ring=ring)
    aside = PLACES + RNG.normal(0, 0.05, PLACES.shape).astype(np.float32)
    change = np.abs(made.distance(PLACES) - made.distance(aside))
    assert (change <= np.linalg.norm(aside - PLACES, axis=0) + 2e-6).all()


def field(places: Any, width: float = 0.0, *more: dict[str, Any], **params: Any) -> np.ndarray:
    data = {"position": places, "footprint": np.full(np.shape(places)[1], width)}
    return run(step("falloff", **params), *more, data=data)[0]


@pytest.mark.parametrize(("fades", "start"), [("outwards", 0.5), ("inwards", 0.3), ("both ways", 0.4)])
@pytest.mark.parametrize("profile", ["linear", "smooth", "smoother"])
def test_it_is_1_within_and_0_beyond_its_border(fades: str, start: float, profile: str) -> None:
    line = np.zeros((3, 1201))
    line[0] = np.linspace(0, 1.2, 1201)
    found = field(line, border=0.2, fades=fades, profile=profile)
    assert (found[line[0] < start - 1e-3] == 1).all() and (found[line[0] > start + 0.201] == 0).all()
    assert (np.diff(found) <= 1e-6).all()
    assert found[np.argmin(np.abs(line[0] - start - 0.1))] == pytest.approx(0.5, abs=2e-3)


def test_a_hard_border_is_a_step_and_a_wide_sample_softens_it_about_its_middle() -> None:
    line = np.zeros((3, 2001))
    line[0] = np.linspace(0.2, 0.8, 2001)
    hard = field(line, border=0.0)
    assert set(np.unique(hard)) <= {0.0, 0.5, 1.0}, "half only on the surface itself"
    for width in (0.05, 0.2):
        soft = field(line, width, border=0.0, profile="linear")
        assert soft.mean() == pytest.approx(hard.mean(), abs=1e-3)
        assert np.abs(np.diff(soft)).max() < 0.0004 / width


def test_it_is_measured_in_the_space_of_a_locator_and_joined_by_steps() -> None:
    locators = [
        {"name": "a", "position": [1, 0, 0], "rotation": [0, 0, 90], "scale": 2.0},
        {"name": "b", "position": [0, 0, 3]},
    ]
    places = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 3.0], [1.0, 1.9, 0.0], [-0.9, 0, 0]]).T
    data = {"position": places, "footprint": np.zeros(4)}
    tall = step("falloff", shape="box", origin={"locator": "a"}, width=0.2, height=2.0, depth=0.2, border=0.0)
    other = recipe(step("falloff", origin={"locator": "b"}, border=0.0))
    one = run(tall, data=data, locators=locators)[0]
    # A box 2 × 2 m tall, lying along −x: from −1 to 3.
    assert one.tolist() == [1, 0, 0, 1]
    both = run(tall, step("maximum", by=other), data=data, locators=locators)[0]
    assert both.tolist() == [1, 1, 0, 1]
    without = run(tall, step("subtract", by=other), data=data, locators=locators)[0]
    assert without.tolist() == [1, -1, 0, 1]
