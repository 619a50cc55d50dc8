"""Patterns, geometry masks and colour steps, against reference libraries and closed forms."""

import colorsys

import colour
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial import cKDTree

from tests.builders import apply, run, step
from texallon.core.kernel import allocating
from texallon.core.ops.cellular import feature_point
from texallon.core.ops.lattice import gradient_noise, mixed

RNG = np.random.default_rng(7)
A = RNG.uniform(0, 1, 400).astype(np.float32)
B = 0.3
COLOURS = RNG.uniform(0, 1, (3, 500)).astype(np.float32)


@pytest.mark.parametrize(
    ("op", "expected"),
    [
        ("subtract", A - B),
        ("divide", A / B),
        ("minimum", np.minimum(A, B)),
        ("maximum", np.maximum(A, B)),
        ("screen", 1 - (1 - A) * (1 - B)),
        ("difference", np.abs(A - B)),
        ("overlay", np.where(A < 0.5, 2 * A * B, 1 - 2 * (1 - A) * (1 - B))),
    ],
)
def test_joining_ops_follow_the_published_definitions(op: str, expected: np.ndarray) -> None:
    # The MaterialX 1.39 specification, sections on math and blend nodes (formulas from memory).
    assert np.allclose(apply(step(op, by=B), to=A), expected, atol=1e-6)


def test_division_by_nothing_is_nothing() -> None:
    assert apply(step("divide", by=0), to=[1.0, -2.0, 0.0]).tolist() == [0, 0, 0]


def test_clamp_and_absolute() -> None:
    x = np.array([-2, -0.5, 0.2, 5, np.inf], np.float32)
    assert apply(step("clamp", low=-1, high=1), to=x).tolist() == pytest.approx([-1, -0.5, 0.2, 1, 1])
    assert apply(step("absolute"), to=x)[:4].tolist() == pytest.approx([2, 0.5, 0.2, 5])


@pytest.mark.parametrize("exponent", [-2.0, -1.0, 0.0, 0.5, 1.0, 2.0, 2.2, 3.0])
def test_power_of_positive_values_is_numpys(exponent: float) -> None:
    x = np.linspace(0.1, 3, 50, dtype=np.float32)
    assert np.allclose(apply(step("power", exponent=exponent), to=x), x**exponent, rtol=1e-5)


def test_power_is_safe_with_negative_bases() -> None:
    x = np.array([-2.0, -0.5, 0.0], np.float32)
    assert apply(step("power", exponent=2), to=x).tolist() == pytest.approx([4, 0.25, 0])
    assert apply(step("power", exponent=3), to=x).tolist() == pytest.approx([-8, -0.125, 0])
    assert apply(step("power", exponent=0.5), to=x).tolist() == [0, 0, 0]
    assert apply(step("power", exponent=-1), to=x).tolist() == pytest.approx([-0.5, -2, 0])


def test_an_even_power_undoes_an_inversion() -> None:
    # Common practice, no published source: an even exponent turns negative mask values positive.
    mask = np.array([0.2, 0.9], np.float32)
    below = apply(step("subtract", by=1), step("power", exponent=2), to=mask)
    assert np.allclose(below, (1 - mask) ** 2)


def test_bias_and_gain_hold_their_fixed_points() -> None:
    # Schlick 1994: bias(½) = amount; gain(¼) = amount/2, gain(½) = ½; the ends stay.
    for amount in (0.1, 0.5, 0.8):
        assert apply(step("bias", amount=amount), to=[0, 0.5, 1.0]).tolist() == pytest.approx([0, amount, 1], abs=1e-6)
        found = apply(step("gain", amount=amount), to=[0, 0.25, 0.5, 0.75, 1.0]).tolist()
        assert found == pytest.approx([0, amount / 2, 0.5, 1 - amount / 2, 1], abs=1e-6)
    x = np.linspace(0, 1, 40, dtype=np.float32)
    assert np.allclose(apply(step("bias"), step("gain"), to=x), x, atol=1e-6), "one half changes nothing"


def test_contrast_spreads_about_its_pivot() -> None:
    assert np.allclose(apply(step("contrast", amount=2, pivot=0.4), to=A), 0.4 + 2 * (A - 0.4), atol=1e-6)


def test_levels_are_flat_with_risers_of_the_width_asked_for() -> None:
    x = np.linspace(0, 0.9999, 10_001, dtype=np.float32)
    hard = apply(step("levels", count=5), to=x)
    assert np.unique(np.round(hard, 5)).tolist() == pytest.approx([0, 0.2, 0.4, 0.6, 0.8])
    soft = apply(step("levels", count=5, riser=0.25), to=x)
    moving = np.abs(np.diff(soft)) > 1e-7
    assert moving.mean() == pytest.approx(0.25, abs=0.01)
    assert np.abs(np.diff(soft)).max() < 0.01, "and nowhere a cliff"


def test_luminance_and_components() -> None:
    expected = 0.2126 * COLOURS[0] + 0.7152 * COLOURS[1] + 0.0722 * COLOURS[2]
    reading = step("attribute", attribute="x", read="colour")
    data = {"attribute:x": COLOURS}
    assert np.allclose(run(reading, step("luminance"), data=data)[0], expected, atol=1e-6)
    assert np.array_equal(run(reading, step("component", which="blue"), data=data)[0], COLOURS[2])
    assert np.array_equal(apply(step("luminance"), step("component", which="z"), to=A), A), "a number stays"


@pytest.mark.parametrize(
    ("turn", "saturation", "value"), [(0, 1, 1), (120, 1, 1), (-75, 0.5, 2.0), (400, 1.7, 0.3), (10, 0, 1)]
)
def test_hue_saturation_and_value_agree_with_colorsys(turn: float, saturation: float, value: float) -> None:
    # colorsys of the Python standard library as the reference.
    adjusted = run(
        step("attribute", attribute="x", read="colour"),
        step("hue saturation value", hue=turn, saturation=saturation, value=value),
        data={"attribute:x": COLOURS},
    )
    for i in range(0, 500, 7):
        h, s, v = colorsys.rgb_to_hsv(*COLOURS[:, i].astype(float))
        expected = colorsys.hsv_to_rgb((h + turn / 360) % 1, min(s * saturation, 1), v * value)
        assert np.allclose(adjusted[:, i], expected, atol=2e-5)


@pytest.mark.parametrize("kelvin", [1900, 2700, 4000, 5600, 6500, 10_000, 20_000])
def test_black_body_colours_agree_with_colour_science(kelvin: float) -> None:
    # Chromaticity of the blackbody spectrum under the CIE 1931 observer, by the colour-science library.
    r, g, b = apply(step("black body"), to=[float(kelvin)])
    assert 0.2126 * r + 0.7152 * g + 0.0722 * b == pytest.approx(1.0, abs=2e-3), "at a luminance of 1"
    spectrum = colour.sd_blackbody(kelvin, colour.SpectralShape(360, 830, 1))
    x, y = colour.XYZ_to_xy(colour.sd_to_XYZ(spectrum))
    ours = colour.XYZ_to_xy(
        colour.RGB_to_XYZ(np.array([r, g, b]), colour.RGB_COLOURSPACES["ITU-R BT.709"], apply_cctf_decoding=False)
    )
    if min(r, g, b) > 0.001:
        assert np.allclose(ours, [x, y], atol=0.006)
    else:
        assert ours[0] < x + 0.006, "outside Rec.709 its reddest colour is the nearest there is"


def test_hotter_is_bluer() -> None:
    glow = apply(step("black body"), to=np.linspace(1000, 20_000, 60, dtype=np.float32))
    ratio = glow[2] / glow[0]
    assert (np.diff(ratio) > -1e-6).all()
    assert np.isnan(apply(step("black body"), to=[np.nan, 5000.0])[0, 0])


# Geometry --------------------------------------------------------------------------------------------------------


def test_the_view_angle_on_a_sphere_is_its_closed_form() -> None:
    # On a sphere seen from afar, N·V = √(1 − r²) at distance r from the centre of its picture.
    r = np.linspace(0, 0.999, 200)
    normal = np.stack([r, np.zeros_like(r), np.sqrt(1 - r**2)]).astype(np.float32)
    view = np.tile([[0], [0], [1]], (1, 200)).astype(np.float32)
    data = {"normal": normal, "view": view}
    found = run(step("view angle", exponent=2), data=data)[0]
    assert np.allclose(found, (1 - np.sqrt(1 - r**2)) ** 2, atol=1e-5)
    assert np.allclose(run(step("view angle", exponent=2, inverse=True), data=data)[0], 1 - found, atol=1e-6)
    # Common practice, no published source: 0 facing the camera and 1 at the silhouette.
    assert found[0] == 0
    assert found[-1] > 0.9


def test_the_fresnel_measure_is_the_rule_for_glass_and_water() -> None:
    cosine = np.array([1.0, 0.5, 0.02])
    normal = np.stack([np.sqrt(1 - cosine**2), np.zeros(3), cosine]).astype(np.float32)
    view = np.tile([[0], [0], [1]], (1, 3)).astype(np.float32)
    found = run(step("view angle", measure="fresnel", index=1.5), data={"normal": normal, "view": view})[0]
    assert found[:2] == pytest.approx([0.04, 0.0892], abs=2e-4)  # Fresnel's equations at 0° and 60°
    assert found[2] > 0.85


def test_slope_is_full_and_none_at_its_angles() -> None:
    lean = np.radians([0, 20, 32.5, 45, 90, 180])
    normal = np.stack([np.sin(lean), np.cos(lean), np.zeros(6)]).astype(np.float32)
    found = run(step("slope", full=20, none=45), data={"normal": normal})[0]
    assert found.tolist() == pytest.approx([1, 1, 0.5, 0, 0, 0], abs=1e-4)
    hanging = run(step("slope", full=20, none=45, direction=[0, -2, 0]), data={"normal": normal})[0]
    assert hanging.tolist() == pytest.approx([0, 0, 0, 0, 0, 1], abs=1e-4)


@pytest.mark.parametrize("shape", ["linear", "radial", "spherical"])
def test_gradients_are_distances_over_their_length(shape: str) -> None:
    p = RNG.uniform(-2, 2, (3, 300)).astype(np.float32)
    expected = {
        "linear": p[1],
        "radial": np.hypot(p[0], p[2]),
        "spherical": np.linalg.norm(p, axis=0),
    }[shape] / 0.5
    assert np.allclose(run(step("gradient", shape=shape, length=0.5), data={"position": p})[0], expected, atol=1e-5)
    moved = run(
        step("gradient", shape=shape, length=0.5, origin={"locator": "l"}),
        data={"position": p + np.float32([[1], [2], [3]])},
        locators=[{"name": "l", "position": [1, 2, 3]}],
    )
    assert np.allclose(moved[0], expected, atol=1e-5)


def test_stripes_repeat_and_fill_their_share() -> None:
    x = np.linspace(-1, 1, 20_001)
    data = {"position": np.stack([x, np.zeros_like(x), np.zeros_like(x)])}
    wave = run(step("stripes", spacing=0.25), data=data)[0]
    assert np.allclose(wave, 0.5 + 0.5 * np.cos(2 * np.pi * x / 0.25), atol=1e-3)
    assert run(step("stripes", profile="band", share=0.3, spacing=0.25), data=data).mean() == pytest.approx(
        0.3, abs=0.01
    )
    ridge = run(step("stripes", profile="ridge", spacing=0.25), data=data)[0]
    assert (ridge.min(), ridge.max()) == pytest.approx((0, 1), abs=1e-3)


def test_a_checker_alternates_also_below_zero() -> None:
    centres = np.array([[-0.15, -0.05, 0.05, 0.15], [0.05] * 4, [0.05] * 4])
    assert run(step("checker", size=0.1), data={"position": centres})[0].tolist() == [1, 0, 1, 0]


# Cellular and ridged noise ---------------------------------------------------------------------------------------


@allocating
def feature_points(low: int, high: int, seed: int, jitter: float) -> np.ndarray:
    side = high - low
    out = np.empty((side**3, 3))
    for k in range(side**3):
        x, y, z = k % side + low, (k // side) % side + low, k // (side * side) + low
        px, py, pz, _ = feature_point(np.uint32(x), np.uint32(y), np.uint32(z), np.uint32(seed), np.float32(jitter))
        out[k, 0], out[k, 1], out[k, 2] = x + px, y + py, z + pz
    return out


@pytest.mark.parametrize(("metric", "norm"), [("straight", 2), ("blocks", 1), ("cubes", np.inf)])
@pytest.mark.parametrize("jitter", [0.5, 1.0])
def test_cell_distances_agree_with_a_k_d_tree(metric: str, norm: float, jitter: float) -> None:
    # SciPy's k-d tree over the same feature points. In 27 cubes the nearest is exact unless it lies over a cube away.
    p = RNG.uniform(-4, 4, (3, 5000)).astype(np.float32)
    tree = cKDTree(feature_points(-7, 8, 3, jitter))
    distance, _ = tree.query(p.T, k=2, p=norm)
    plain = {"size": 1.0, "seed": 3, "jitter": jitter, "metric": metric}
    first = run(step("cellular", **plain), data={"position": p})[0]
    second = run(step("cellular", result="second", **plain), data={"position": p})[0]
    edge = run(step("cellular", result="edge", **plain), data={"position": p})[0]
    near = distance[:, 0] < 1
    assert near.mean() > (0.75 if metric == "blocks" else 0.98)
    assert np.allclose(first[near], distance[near, 0], atol=1e-4)
    both = distance[:, 1] < 1
    assert np.allclose(second[both], distance[both, 1], atol=1e-4)
    assert (first <= second).all(), "F1 ≤ F2 (Worley 1996)"
    assert np.allclose(edge, second - first, atol=1e-5)


def test_cells_have_even_random_values_that_hold_throughout_a_cell() -> None:
    p = RNG.uniform(-40, 40, (3, 60_000)).astype(np.float32)
    values = run(step("cellular", size=1.0, result="cell"), data={"position": p})[0]
    assert values.mean() == pytest.approx(0.5, abs=0.01)
    assert np.histogram(values, bins=10, range=(0, 1))[0].min() > 4500
    near = run(step("cellular", size=1.0, result="cell"), data={"position": p + np.float32(1e-3)})[0]
    assert (near == values).mean() > 0.98


@allocating
def plain_ridged(
    p: np.ndarray, octaves: int, lacunarity: float, h: float, offset: float, gain: float, seed: int
) -> np.ndarray:
    """The published description, point by point (Ebert et al., RidgedMultifractal), in double precision."""
    out = np.zeros(p.shape[1])
    for i in range(p.shape[1]):
        x, y, z = p[0, i], p[1, i], p[2, i]
        weight, frequency = 1.0, 1.0
        for octave in range(octaves):
            own = mixed(np.uint32(seed + np.uint32(octave * 0x9E3779B9 + 0x1B873593)))
            kx, ky, kz = np.uint32(own | np.uint32(1)), mixed(own) | np.uint32(1), mixed(mixed(own)) | np.uint32(1)
            signal = offset - abs(gradient_noise(x * frequency, y * frequency, z * frequency, kx, ky, kz))
            signal = signal * signal * weight
            out[i] += signal * frequency ** (-h)
            weight = min(max(signal * gain, 0.0), 1.0)
            frequency *= lacunarity
    return out


@pytest.mark.parametrize(("h", "offset", "gain"), [(1.0, 1.0, 2.0), (0.25, 0.8, 3.0)])
def test_ridged_noise_agrees_with_its_published_description(h: float, offset: float, gain: float) -> None:
    p = RNG.uniform(-5, 5, (3, 3000)).astype(np.float32)
    ours = run(
        step("ridged", size=1.0, octaves=6, dimension=h, offset=offset, gain=gain, seed=5), data={"position": p}
    )[0]
    assert np.allclose(ours, plain_ridged(p, 6, 2.0, h, offset, gain, 5), atol=5e-4)


@given(
    st.sampled_from(
        ["power", "levels", "bias", "gain", "contrast", "clamp", "absolute", "black body", "hue saturation value"]
    ),
    st.lists(st.floats(-1e4, 1e4, width=32), min_size=1, max_size=16),
)
def test_finite_values_stay_finite(op: str, values: list[float]) -> None:
    assert np.isfinite(apply(step(op), to=np.array(values, np.float32))).all()


@pytest.mark.parametrize("op", ["cellular", "ridged", "stripes", "gradient"])
def test_places_that_are_no_number_give_none(op: str) -> None:
    odd = np.array([[np.nan, 0.3], [0.1, 0.2], [0.0, 0.1]], np.float32)
    found = run(step(op), data={"position": odd})[0]
    assert np.isnan(found[0])
    assert np.isfinite(found[1])


@given(a=st.floats(-50, 50), b=st.floats(-50, 50), soft=st.floats(0.01, 20))
def test_a_soft_join_rounds_by_a_quarter_at_most_and_only_near(a: float, b: float, soft: float) -> None:
    low = apply(step("minimum", by=b, soft=soft), to=np.array([a], np.float32))
    high = apply(step("maximum", by=b, soft=soft), to=np.array([a], np.float32))
    near = max(1 - abs(a - b) / soft, 0)
    assert low == pytest.approx(min(a, b) - near**2 * soft / 4, rel=1e-5, abs=1e-5)
    assert high == pytest.approx(max(a, b) + near**2 * soft / 4, rel=1e-5, abs=1e-5)
    assert low == pytest.approx(apply(step("minimum", by=a, soft=soft), to=np.array([b], np.float32)), abs=1e-5)


def test_a_soft_join_of_what_is_infinite_is_as_a_hard_one() -> None:
    for bad in (np.inf, -np.inf):
        assert apply(step("minimum", by=1.0, soft=0.5), to=np.array([bad], np.float32)) == min(bad, 1.0)
        assert apply(step("maximum", by=1.0, soft=0.5), to=np.array([bad], np.float32)) == max(bad, 1.0)
    assert np.isnan(apply(step("minimum", by=1.0, soft=0.5), to=np.array([np.nan], np.float32)))
