"""Bricks of a volume that is alone are passed quickly, and give what they give beside others; three values of a cell are read at once."""

import itertools
from typing import Any

import numpy as np
import pytest
from scipy.interpolate import RegularGridInterpolator

from tests.builders import recipe, step
from tests.core.test_volume_levels import context, rendered
from tests.volumes import ball, box, volume_look, volume_shot
from texallon.core.document.resolved import ResolvedShot
from texallon.core.kernel import Array, kernel
from texallon.core.render.volume.between_corners import three_between
from texallon.core.render.volume.brick_field import BrickField, Layout
from texallon.core.render.volume.grid import make_grid
from texallon.core.render.volume.quantities import CORNERS, QUANTITIES, VALUES

INSIDE = {"camera": {"position": [0.1, 0.05, 0.3], "target": [0, 0, -1], "focal_length": 22.0}}
OUTSIDE = {"camera": {"position": [0.2, 0.1, 1.6], "target": [0, 0, 0], "focal_length": 28.0}}

BEHIND = box("other", "clear", 3.0, position=[0, -1.5, -4])


def glowing(*others: dict[str, Any], density: float = 1.0, glow: bool = True, **more: Any) -> ResolvedShot:
    """A cloud of noise in a box of a metre; and bodies that wear the look `clear`, which is nothing."""
    noise = recipe(
        step("noise", size=0.25, octaves=5, spread="full", seed=7), step("remap", from_start=0.45, to_end=8.0 * density)
    )
    shine = recipe(step("noise", size=0.2, octaves=4, spread="full", seed=8), step("remap", from_start=0.5, to_end=2.0))
    channels = {"density": {"recipe": noise}, "scattering_color": [0.6, 0.5, 0.4], "absorption_color": [0.2, 0.3, 0.4]}
    if glow:
        channels["volume_emission"] = {"recipe": shine}
    looks = [volume_look(**channels), volume_look("clear", density=0.0)]
    return volume_shot(*looks, objects=[box(), *others], **more)


@pytest.mark.parametrize("where", [INSIDE, OUTSIDE], ids=["inside", "outside"])
@pytest.mark.parametrize("density", [0.1, 1.0, 30.0])
def test_a_dark_volume_gives_the_same_alone_and_where_another_lies_behind_it(
    where: dict[str, Any], density: float
) -> None:
    # The other holds nothing, so the same random numbers meet the same bricks; but rays that cross two volumes take the way of many.
    alone, beside = (
        rendered(context(glowing(*more, density=density, glow=False, **where)), 2) for more in ((), (BEHIND,))
    )
    assert alone.std() > 0
    # Rounding turns a path here and there another way.
    near = np.isclose(alone, beside, rtol=1e-3, atol=1e-5).all(axis=2)
    assert near.mean() > 0.97
    assert alone.mean(axis=(0, 1)) == pytest.approx(beside.mean(axis=(0, 1)), rel=0.03)


@pytest.mark.parametrize("where", [INSIDE, OUTSIDE], ids=["inside", "outside"])
@pytest.mark.parametrize("density", [0.1, 1.0, 30.0])
def test_a_glowing_volume_gives_the_same_light_alone_and_where_another_lies_behind_it(
    where: dict[str, Any], density: float
) -> None:
    # Alone its bricks are looked into as often as they are worth it; beside another once in each.
    alone, beside = (rendered(context(glowing(*more, density=density, **where)), 64) for more in ((), (BEHIND,)))
    tiles = [picture.reshape(4, 8, 6, 8, 3).mean(axis=(1, 3)) for picture in (alone, beside)]
    assert tiles[0] == pytest.approx(tiles[1], rel=0.06, abs=0.01 * float(tiles[1].mean()))
    assert alone.mean(axis=(0, 1)) == pytest.approx(beside.mean(axis=(0, 1)), rel=0.01)


@pytest.mark.parametrize("strength", [0.5, 2.0])
@pytest.mark.parametrize("absorbs", [0.0, 0.004, 3.0], ids=["clear", "series", "exponential"])
def test_even_light_along_a_ray_is_the_closed_integral_whatever_is_passed(strength: float, absorbs: float) -> None:
    # ∫ L e^(−κ s) ds over the ball's middle: textbook radiative transfer. Bricks of what is even everywhere bound it exactly.
    made = volume_shot(
        volume_look(density=absorbs, scattering_color=[0, 0, 0], absorption_color=[1, 1, 1], volume_emission=strength),
        objects=[ball(radius=0.5)],
        light=0.0,
    )
    found = rendered(context(made, 16, 16), 64).mean(axis=(0, 1))
    wanted = strength * ((1 - np.exp(-absorbs)) / absorbs if absorbs else 1.0)
    # One random place of each brick is looked at: 16 384 of them, from which e⁻³ˢ deviates by 0.8 of its mean.
    assert found == pytest.approx(np.full(3, wanted), rel=4 * 0.8 / 128)


@kernel
def fill_between(address: int, rows: int, at: Array, out: Array) -> None:
    """Three values between the corners of the first cell."""
    line, layer = 2 * CORNERS * rows, 2 * CORNERS * CORNERS * rows
    for i in range(at.shape[1]):
        out[0, i], out[1, i], out[2, i] = three_between(address, 2 * rows, line, layer, at[0, i], at[1, i], at[2, i])


@pytest.mark.parametrize(("rows", "row"), [(3, 0), (4, 1), (7, 4)])
def test_three_values_at_once_are_what_the_reference_library_interpolates(rows: int, row: int) -> None:
    random = np.random.default_rng(5)
    values = random.integers(0, 65536, (CORNERS, CORNERS, CORNERS, rows), np.uint16)
    cell = random.integers(0, CORNERS - 1, 3)  # z, y, x
    at = np.concatenate(
        [random.uniform(0, 1, (3, 200)), list(zip(*itertools.product((0, 1), repeat=3), strict=True))], 1
    ).astype(np.float32)
    found = np.empty((3, at.shape[1]), np.float32)
    first = int(np.ravel_multi_index((*cell, row), values.shape))
    fill_between(values.ctypes.data + 2 * first, rows, at, found)
    axes = (np.arange(CORNERS),) * 3
    for k in range(3):
        wanted = RegularGridInterpolator(axes, values[..., row + k].astype(np.float64))(at[::-1].T + cell)
        assert found[k] == pytest.approx(wanted, rel=2e-6, abs=0.05)


def test_bricks_have_a_value_after_their_last_as_three_are_read_as_four() -> None:
    grid = make_grid(np.zeros(3, np.float32), np.ones(3, np.float32), np.eye(4, dtype=np.float32)[:3], 64)
    layout = Layout(np.arange(QUANTITIES, dtype=np.int32), np.zeros(QUANTITIES, np.float32))
    field = BrickField(grid, layout, lambda own, footprint, bricks: np.ones((QUANTITIES, own.shape[1]), np.float32))
    for _ in range(2):
        whole = field.values.base
        assert whole is not None and whole.size == field.values.size + 1
        assert field.values.shape[1:] == (VALUES, QUANTITIES)
        field._grow(2 * len(field.headers))
