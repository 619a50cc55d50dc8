"""Voxel grids in recipes and volumes: looked up as a reference library does, and the same picture from a bake as from the recipe."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
from scipy.ndimage import map_coordinates

from tests.builders import MadeFiles, recipe, run, step
from tests.volumes import NO_SCATTER, ball, box, seen, volume_look, volume_shot
from texallon.core.ops.voxel_grid import make_voxel_grid
from texallon.core.render.baked_volume import bake_volume
from texallon.core.render.graph import FrameGraph

RNG = np.random.default_rng(88)
FILE = {"file": "v.npz"}
TURNED = np.array([[2.0, 0.3, 0, 4], [0, 3.0, 0.2, 5], [-0.4, 0, 2.5, 3]])


def looked_up(values: np.ndarray, position: np.ndarray, footprint: float = 0.0, **params: Any) -> np.ndarray:
    grid = make_voxel_grid(values.astype(np.float32), params.pop("to_index", TURNED), params.pop("background", None))
    wide = np.full((1, position.shape[1]), footprint)
    data = {"position": position, "object_position": position, "footprint": wide, "object_footprint": wide}
    files = MadeFiles(**{"v.npz": {"density": grid}})
    return run(step("voxels", file=FILE, **params), data=data, files=files)


@pytest.mark.parametrize("beyond", [0.0, 0.7])
def test_values_between_voxels_are_those_of_a_reference_library(beyond: float) -> None:
    # scipy.ndimage.map_coordinates, order 1, what lies beyond the grid being constant.
    values = RNG.normal(size=(7, 9, 6, 1))
    position = RNG.uniform(-3, 3, (3, 4000))
    index = TURNED[:, :3] @ position + TURNED[:, 3:]
    wanted = map_coordinates(values[..., 0], index, order=1, mode="grid-constant", cval=beyond)
    found = looked_up(values, position, background=np.array([beyond]))[0]
    assert np.allclose(found, wanted, atol=2e-4)
    assert np.count_nonzero(np.abs(wanted - beyond) > 0.05) > 300


def test_a_wide_sample_takes_the_mean() -> None:
    values = RNG.uniform(0, 1, (32, 32, 32, 1))
    to_index = np.hstack([np.eye(3), np.full((3, 1), 15.5)])
    middle = np.zeros((3, 1))
    assert looked_up(values, middle, 16.0, to_index=to_index)[0, 0] == pytest.approx(values.mean(), abs=0.02)


def test_vectors_give_their_length_or_a_colour_and_numbers_grey() -> None:
    vectors = np.broadcast_to([2.0, 3.0, 6.0], (2, 2, 2, 3))
    at = np.zeros((3, 1))
    here = np.hstack([np.eye(3), np.full((3, 1), 0.5)])
    assert looked_up(vectors, at, to_index=here)[:, 0].tolist() == [7.0]
    assert looked_up(vectors, at, to_index=here, read_as="colour")[:, 0].tolist() == [2.0, 3.0, 6.0]
    assert looked_up(vectors[..., 1:2], at, to_index=here, read_as="colour")[:, 0].tolist() == [3.0, 3.0, 3.0]


def test_size_makes_it_larger_about_the_origin_of_its_place() -> None:
    values = RNG.normal(size=(5, 5, 5, 1))
    here = np.hstack([np.eye(3) * 4, np.full((3, 1), 2.0)])
    position = RNG.uniform(-0.5, 0.5, (3, 100))
    assert np.allclose(
        looked_up(values, position * 3, to_index=here, size=3.0), looked_up(values, position, to_index=here), atol=1e-5
    )


def test_a_place_that_is_none_gives_none() -> None:
    position = np.array([[np.nan, np.inf, 1e30], [0, 0, 0], [0, 0, 0]])
    found = looked_up(np.ones((2, 2, 2, 1)), position)[0]
    assert np.isnan(found[:2]).all()
    assert found[2] == 0


def grid_of(size: int, density: float) -> dict[str, Any]:
    """A metre about the origin of even density, whose outermost voxels reach its faces."""
    half = np.full((3, 1), (size - 1) / 2)
    to_index = np.hstack([np.eye(3) * (size - 1), half])
    return {"density": make_voxel_grid(np.full((size, size, size, 1), density, np.float32), to_index)}


@pytest.mark.parametrize("density", [0.2, 1.0, 4.0])
def test_a_grid_from_a_file_dims_light_by_the_law_of_beer_and_lambert(density: float) -> None:
    made = volume_shot(
        volume_look(
            density={"recipe": recipe(step("voxels", file=FILE, space="world"))},
            absorption_color=[1, 1, 1],
            **NO_SCATTER,
        ),
        objects=[box()],
    )
    files = MadeFiles(**{"v.npz": grid_of(33, density)})
    assert seen(made, files=files) == pytest.approx(np.exp(-density), rel=0.01)


def test_a_baked_volume_looks_as_what_it_was_baked_from(tmp_path: Path) -> None:
    noise = recipe(step("noise", size=0.3, octaves=2, spread="full", seed=4), step("remap", from_start=0.3, to_end=6.0))
    glow = recipe(step("height"), step("remap", from_start=-0.5, from_end=0.5))
    own = {"scattering_color": [0.5, 0.4, 0.2], "absorption_color": [0.1, 0.3, 0.5]}
    stands = {"position": [0, -0.35, 0], "rotation": [10.0, 30.0, 0.0]}
    first = volume_shot(
        volume_look(density={"recipe": noise}, volume_emission={"recipe": glow}, **own),
        objects=[ball(radius=0.4) | stands],
    )
    baked = bake_volume(FrameGraph(first, MadeFiles()), "ball", 96)
    assert set(baked.grids) == {"density", "emission", "scattering", "absorption"}
    full = np.vstack([baked.to_place, [0, 0, 0, 1]])
    grids = {
        name: make_voxel_grid(each if each.ndim == 4 else each[..., None], np.linalg.inv(full)[:3])
        for name, each in baked.grids.items()
    }

    def read(grid: str, read_as: str = "number") -> dict[str, Any]:
        return {"recipe": recipe(step("voxels", file=FILE, grid=grid, space="world", read_as=read_as))}

    second = volume_shot(
        volume_look(
            density=read("density"), volume_emission=1.0, volume_emission_color=read("emission", "colour"), **own
        ),
        objects=[box(size=1.2)],
    )
    camera = {"camera": {"position": [0, 0, 5], "target": [0, 0, 0], "focal_length": 120.0}}
    pictures = [
        seen(each.model_copy(update={"camera": type(each.camera).model_validate(camera["camera"])}), 24, 24, files)
        for each, files in ((first, MadeFiles()), (second, MadeFiles(**{"v.npz": grids})))
    ]
    assert pictures[1] == pytest.approx(pictures[0], rel=0.02)


@pytest.mark.parametrize(("name", "cells"), [("nobody", 8), ("box", 0), ("box", 513), ("box", 512)])
def test_what_can_t_be_baked_is_said(name: str, cells: int) -> None:
    graph = FrameGraph(volume_shot(volume_look(density=1.0), objects=[box()]), MadeFiles())
    with pytest.raises(ValueError, match=r"“nobody” is not filled|1 to 512 cells|512 cells would take 5.9 GB"):
        bake_volume(graph, name, cells)
