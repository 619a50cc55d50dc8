"""What is seen from far away: patterns, pictures and masks keep their mean, whatever a sample covers (definition of a filter)."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, apply, layer, look, recipe, run, shot, square, step
from texallon.core.ops.filtered import NODES, Filtered, at_width
from texallon.core.ops.pyramid import make_pyramid
from texallon.core.ops.registry import ops
from texallon.core.render.render_frame import render_frame
from texallon.core.signal.run import mean_of_variants

COUNT = 30_000
WIDTHS = (0.01, 0.1, 0.4, 1.0, 30.0)
"""Footprints in cells."""

PATTERNS: dict[str, dict[str, Any]] = {
    "noise": step("noise", size=1.0),
    "noise, one octave of values": step("noise", size=1.0, octaves=1, basis="value"),
    "noise, spread": step("noise", size=1.0, spread="full"),
    "noise, even": step("noise", size=1.0, octaves=2, spread="even"),
    "billow": step("billow", size=1.0),
    "ridged": step("ridged", size=1.0, octaves=4),
    "hybrid": step("hybrid", size=1.0, octaves=3),
    "cellular": step("cellular", size=1.0, jitter=0.3),
    "cell edges": step("cellular", size=1.0, result="edge", metric="blocks"),
    "spots": step("spots", size=1.0),
    "few spots": step("spots", size=1.0, density=0.25, variation=0.2),
    "spots in depth": step("spots", size=1.0, result="depth", flat=False),
    "checker": step("checker", size=1.0),
    "bricks": step("bricks", width=2.0, height=1.0, joint=0.1, edge=0.05),
    "brick heights": step("bricks", width=2.0, height=1.0, joint=0.1, edge=0.3, result="height"),
    "stripes": step("stripes", spacing=1.0, profile="band", share=0.3),
    "waves": step("stripes", spacing=1.0),
    "rings": step("rings", spacing=1.0, profile="ridge"),
}


def mean_of(steps: list[dict[str, Any]], width: float, seed: int = 0) -> float:
    rng = np.random.default_rng(seed)
    position = (rng.random((3, COUNT)) * 200 - 100).astype(np.float32)
    return float(run(*steps, data={"position": position, "footprint": np.full(COUNT, width)}).mean())


def test_every_pattern_that_filters_is_here() -> None:
    filtering = {name for name, kind in ops().items() if issubclass(kind, Filtered)}
    assert filtering == {each["op"] for each in PATTERNS.values()}


@pytest.mark.parametrize("name", PATTERNS)
def test_the_mean_does_not_depend_on_the_footprint(name: str) -> None:
    sharp = mean_of([PATTERNS[name]], 0.0)
    spread = run(PATTERNS[name], data={"position": np.random.default_rng(1).random((3, 4000)) * 90}).std()
    for width in WIDTHS:
        # 2 % of the mean, and what chance makes of so many points.
        allowed = 0.02 * abs(sharp) + 4 * spread / np.sqrt(COUNT)
        assert mean_of([PATTERNS[name]], width) == pytest.approx(sharp, abs=allowed), width


STEPS = {
    "threshold": step("threshold", level=0.55),
    "levels": step("levels", count=4),
    "curve": step("curve", points=[[0, 0], [0.5, 0.1], [0.55, 0.9], [1, 1]]),
    "range": step("remap", from_start=0.5, from_end=0.6),
    "ramp": step("ramp", stops=[{"at": 0.3, "value": 0.0}, {"at": 0.4, "value": 1.0}, {"at": 0.6, "value": 0.2}]),
    "power": step("power", exponent=3.0),
}


@pytest.mark.parametrize("after", STEPS)
@pytest.mark.parametrize("name", ["noise", "noise, spread", "cellular", "spots", "checker", "ridged"])
def test_a_mask_far_away_keeps_its_share(name: str, after: str) -> None:
    """A threshold of faded noise is not all or nothing: of a wet ground far away the share that is wet stays wet."""
    steps = [PATTERNS[name], STEPS[after]]
    sharp = mean_of(steps, 0.0)
    for width in (0.02, 1.0, 30.0):
        assert mean_of(steps, width) == pytest.approx(sharp, rel=0.03, abs=0.012), width


def test_what_is_only_moved_and_scaled_after_it_stays_smooth() -> None:
    position = np.random.default_rng(2).random((3, 4000)) * 90
    far = {"position": position, "footprint": np.full(4000, 30.0)}
    out = run(PATTERNS["noise"], step("multiply", by=3.0), step("add", by=1.0), step("invert"), data=far)
    assert out.std() < 1e-5, "the mean, not draws of it"


def test_puddles_in_a_picture_cover_as_much_from_far_as_from_near() -> None:
    wet = recipe(step("noise", size=0.3, octaves=3), step("threshold", level=0.55))
    black = layer("wet", wet, base_color={"recipe": recipe(step("constant", value=[0.0, 0.0, 0.0]))})
    white = layer("dry", base_color={"recipe": recipe(step("constant", value=[1.0, 1.0, 1.0]))}, specular_weight={
        "recipe": recipe(step("constant", value=0.0))})  # fmt: skip

    def seen(height: float) -> float:
        made = shot(
            camera={"position": [0, height, 0.001], "target": [0, 0, 0], "focal_length": 35},
            environment={"colour": [1, 1, 1]},
            objects=[{"name": "f", "geometry": {"file": "f"}, "look": "l"}],
            looks=[look("l", white, black)],
        )
        return float(render_frame(made, MadeFiles(f=square(4000.0)), 32, 32, 8, 2).picture().mean())

    near = np.mean([seen(height) for height in (4.0, 5.0, 6.5)])
    assert seen(400.0) == pytest.approx(near, rel=0.03)


@pytest.mark.parametrize("shape", [(513, 513), (7, 5), (1, 9), (64, 33), (100, 3)])
def test_every_level_of_a_picture_of_any_size_keeps_its_mean(shape: tuple[int, int]) -> None:
    picture = np.zeros((*shape, 3), np.float32)
    picture[-1], picture[:, -1] = 1.0, 1.0
    picture[0, 0] = [0.2, 0.5, 0.7]
    pyramid = make_pyramid(picture)
    for start, width, height in pyramid.levels:
        level = pyramid.pixels[start : start + width * height]
        assert level.mean(axis=0) == pytest.approx(picture.mean(axis=(0, 1)), abs=1e-5)
    assert pyramid.levels[-1].tolist()[1:] == [1, 1]


@pytest.mark.parametrize("name", ["noise", "billow", "ridged", "hybrid"])
@pytest.mark.parametrize("fields", ["number", "colour"])
def test_spread_noise_fills_its_range(name: str, fields: str) -> None:
    position = (np.random.default_rng(3).random((3, 60_000)) * 300).astype(np.float32)
    full = run(step(name, size=1.0, octaves=5, spread="full", fields=fields), data={"position": position})
    for row in full:
        assert np.percentile(row, [1, 99]) == pytest.approx([0.0, 1.0], abs=0.04)
    even = run(step(name, size=1.0, octaves=5, spread="even", fields=fields), data={"position": position})
    for row in even:
        assert np.percentile(row, [10, 30, 50, 70, 90]) == pytest.approx([0.1, 0.3, 0.5, 0.7, 0.9], abs=0.03)


@pytest.mark.parametrize("name", ["ridged", "hybrid"])
def test_ranges_of_the_multifractals_end_where_they_are_used(name: str) -> None:
    for params in ({"offset": -1.0}, {"gain": 64.0}, {"dimension": 0.0}, {"lacunarity": 16.0}, {"lacunarity": 1.0}):
        out = run(step(name, **params), data={"position": np.random.default_rng(0).random((3, 500))})
        assert np.isfinite(out).all(), params


@pytest.mark.parametrize("kelvin", [500, 700, 1000, 1200, 2000, 4000, 6500, 15000, 40000])
def test_hot_colours_are_those_of_the_standard_observer(kelvin: int) -> None:
    # Planck's law and the CIE 1931 observer by colour-science, in linear Rec.709; what lies outside it is dropped.
    import colour

    shape = colour.SpectralShape(360, 830, 1)
    xyz = colour.sd_to_XYZ(colour.sd_blackbody(kelvin, shape), method="Integration")
    light = np.maximum(np.linalg.inv(colour.models.RGB_COLOURSPACE_sRGB.matrix_RGB_to_XYZ) @ xyz, 0)
    found = apply(step("black body"), to=np.full(1, kelvin)).ravel()
    assert found / found.max() == pytest.approx(light / light.max(), abs=0.004)


@pytest.mark.parametrize(
    ("variants", "mean"),
    [
        ([2.0, 4.0], 3.0),
        ([0.1, 0.1, 0.1], 0.1),
        ([np.inf, np.inf], np.inf),
        ([-np.inf, -np.inf], -np.inf),
        ([np.inf, 1.0], 1.5e38),
        ([1.0, np.inf], np.inf),
        ([np.inf, -np.inf], 0.0),
        ([np.nan, 1.0], np.nan),
        ([np.inf, np.nan], np.nan),
    ],
)
def test_the_mean_of_variants_is_a_number_where_they_are(variants: list[float], mean: float) -> None:
    each = np.array(variants, np.float32).reshape(1, -1, 1)
    out = np.empty((1, 1), np.float32)
    mean_of_variants(each, out)
    assert out[0, 0] == pytest.approx(np.float32(mean), rel=1e-6, nan_ok=True)


@pytest.mark.parametrize("width", [31.9, 32.0, 33.0, 1e3, 1e9, np.inf])
def test_a_width_beyond_the_table_takes_its_last_value_and_reads_no_further(width: float) -> None:
    # A value read beyond the table counts 0 times, which is no number where it is none: it made pictures differ now and then.
    memory = np.full(NODES.shape[0] + 64, np.nan, np.float32)
    memory[: NODES.shape[0]] = np.linspace(0, 1, NODES.shape[0])
    found = at_width(np.full(8, width, np.float32), memory[: NODES.shape[0]])
    assert found == pytest.approx(np.full(8, 1.0 if width >= 32 else 0.9999), abs=1e-3)
