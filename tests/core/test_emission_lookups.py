"""Lookups of a volume's own light: shared out over the samples of a pixel, and over bricks by what they are worth."""

from typing import Any

import numpy as np
import pytest

from tests.builders import recipe, step
from tests.core.test_volume_levels import context, rendered
from tests.core.test_volume_passing import INSIDE, OUTSIDE
from tests.volumes import box, seen, volume_look, volume_shot
from texallon.core.document.resolved import ResolvedShot
from texallon.core.kernel import Array
from texallon.core.render.transport.emission_lookups import spread_over
from texallon.core.render.volume.brick_field import Layout, bounds, rms_emission
from texallon.core.render.volume.quantities import EMISSION, GLOW, QUANTITIES, VALUES

EVEN = recipe(step("noise", size=0.8, octaves=1, spread="full", seed=8), step("remap", from_start=-0.2, to_end=2.0))
SPARKS = recipe(
    step("noise", size=0.2, octaves=5, spread="full", seed=8),
    step("remap", from_start=0.6, from_end=0.7, to_end=8.0),
)


def shining(light: dict[str, Any], **more: Any) -> ResolvedShot:
    """A box of a metre that shines and weakens a little, and turns nothing."""
    channels = {"density": 0.5, "scattering_color": [0, 0, 0], "absorption_color": [0.2, 0.3, 0.4]}
    return volume_shot(volume_look(**channels, volume_emission={"recipe": light}), objects=[box()], **more)


def error(picture: Array, true: Array) -> float:
    """Of a picture, relative to what is bright enough to be seen."""
    bright = true > 0.02 * true.max()
    return float(np.sqrt((((picture - true)[bright] / true[bright]) ** 2).mean()))


@pytest.mark.parametrize("light", [EVEN, SPARKS], ids=["even", "sparks"])
@pytest.mark.parametrize("where", [INSIDE, OUTSIDE], ids=["inside", "outside"])
def test_samples_share_out_the_lookups_of_a_pixel(where: dict[str, Any], light: dict[str, Any]) -> None:
    # Drawn by themselves, sixteen samples would have a quarter of the error of one.
    made = context(shining(light, **where))
    true = rendered(made, 512)
    one, sixteen = error(rendered(made, 1), true), error(rendered(made, 16), true)
    assert sixteen < one / 5


def test_few_lookups_see_an_even_light_nearly_without_noise() -> None:
    made = context(shining(EVEN, **OUTSIDE))
    assert error(rendered(made, 1), rendered(made, 512)) < 0.08


def test_places_that_follow_each_other_lie_far_apart() -> None:
    # The three-distance theorem: gaps of n multiples of an angle have at most three lengths (T. van Ravenstein, "The three gap theorem", 1988);
    # for the golden section none is above 1.9 or below 0.38 parts of n (the last figures worked out here).
    for count in (3, 8, 16, 100, 1000):
        places = np.sort([spread_over(0.3, number) for number in range(-5, count - 5)])
        assert places[0] >= 0 and places[-1] < 1
        gaps = np.diff(np.append(places, places[0] + 1))
        assert len(np.unique(gaps.round(9))) <= 3
        assert gaps.max() * count < 1.9 and gaps.min() * count > 0.38


def test_a_brick_is_worth_the_root_of_the_mean_square_of_its_light() -> None:
    row_of, constant = np.full(QUANTITIES, -1, np.int32), np.zeros(QUANTITIES, np.float32)
    row_of[EMISSION : EMISSION + 2] = 0, 1
    constant[EMISSION + 2] = 0.5
    layout = Layout(row_of, constant)
    values = np.random.default_rng(3).random((5, VALUES, 2), np.float32)
    values[4] = 0
    glow = rms_emission(layout, values)
    assert glow == pytest.approx(np.sqrt((values**2).mean(axis=1).sum(axis=1) + 0.25), rel=1e-5)
    assert rms_emission(layout, values * np.float32(1e30)) == pytest.approx(
        np.sqrt(((values * 1e30).astype(np.float64) ** 2).mean(axis=1).sum(axis=1) + 0.25), rel=1e-5
    )
    headers, empty = bounds(layout, values.min(axis=1), values.max(axis=1), glow)
    assert headers[:, GLOW] == pytest.approx(glow)
    assert not empty.any()
    dark = Layout(row_of, np.zeros(QUANTITIES, np.float32))
    assert bounds(dark, values.min(axis=1), values.max(axis=1), rms_emission(dark, values))[1].tolist() == [
        False
    ] * 4 + [True]


@pytest.mark.parametrize("absorbs", [0.0, 2.0])
@pytest.mark.parametrize("faint", [1.0, 0.01], ids=["alike", "hundredth"])
@pytest.mark.parametrize("thick", [0.02, 0.1])
def test_sheets_of_light_send_out_their_closed_integral(thick: float, faint: float, absorbs: float) -> None:
    # ∫ exp(−(s − a)² / w²) exp(−κ s) ds = √π w exp(−κ a + κ² w² / 4), textbook: a Gaussian's moment generating function. Two sheets, 0.7 and
    # 0.3 m behind the box's front; the nearer one may be so faint that few samples look into it.
    sheets = f"exp(-((position.z + 0.2) / {thick}) ** 2) + {faint} * exp(-((position.z - 0.2) / {thick}) ** 2)"
    made = volume_shot(
        volume_look(
            density=absorbs, scattering_color=[0, 0, 0], absorption_color=[1, 1, 1],
            volume_emission={"recipe": recipe(step("formula", expression=sheets))},
        ),
        objects=[box()], light=0.0,
    )  # fmt: skip
    both = np.exp(-absorbs * np.array([0.7, 0.3])) * [1.0, faint]
    true = np.sqrt(np.pi) * thick * np.exp(absorbs**2 * thick**2 / 4) * both.sum()
    assert seen(made, samples=128, size=16) == pytest.approx([true] * 3, rel=4e-3)


@pytest.mark.parametrize("strength", [1e-30, 1e-6, 0.5e9])
def test_light_may_be_as_faint_or_bright_as_its_channel_goes(strength: float) -> None:
    light = recipe(step("formula", expression=f"{strength!r} * (1 + position.z)"))
    made = volume_shot(volume_look(density=0.0, volume_emission={"recipe": light}), objects=[box()], light=0.0)
    assert seen(made, samples=64) == pytest.approx([strength] * 3, rel=0.01)
