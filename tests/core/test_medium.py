"""What fills a body, and which of several nested bodies a path is in."""

from math import exp, log, pi

import numpy as np
import pytest
from scipy import integrate

from texallon.core.kernel import kernel
from texallon.core.shade.half_space import single_albedo
from texallon.core.shade.media.constant import sample_free_flight, transmittance
from texallon.core.shade.media.nesting import (
    BODY,
    EXTINCTION,
    FIELDS,
    INDEX,
    NESTED,
    SCATTERING,
    boundary,
    enter,
    innermost,
    leave,
    through_tint,
)
from texallon.core.shade.media.phase import henyey_greenstein_pdf, sample_henyey_greenstein
from texallon.core.shade.rows import MATERIAL, MATERIAL_ROWS


@kernel
def go_in(media: np.ndarray, body: int, priority: int, m: np.ndarray) -> None:
    enter(media, 0, body, priority, m, 0)


@kernel
def go_out(media: np.ndarray, body: int) -> None:
    leave(media, 0, body)


@kernel
def inside(media: np.ndarray) -> int:
    return innermost(media, 0)


@kernel
def meets(media: np.ndarray, body: int, priority: int, ior: float, entering: bool) -> tuple[bool, float]:
    counts, near, far = boundary(media, 0, body, priority, ior, entering)
    return counts, far / near


def nowhere() -> np.ndarray:
    return np.zeros((NESTED * FIELDS, 1), np.float32)


def glass(ior: float = 1.5, **channels: object) -> np.ndarray:
    m = np.zeros((MATERIAL, 1), np.float32)
    values = {"transmission_color": (1.0, 1.0, 1.0), "specular_ior": (ior,), **channels}
    for name, value in values.items():
        for number, each in enumerate(value):  # type: ignore[arg-type]
            m[MATERIAL_ROWS[name] + number, 0] = each
    return m


def test_the_highest_priority_fills_the_space_and_of_equals_the_last_entered() -> None:
    media = nowhere()
    assert inside(media) == -1
    go_in(media, 7, 0, glass(1.33))
    go_in(media, 8, 5, glass(1.5))
    go_in(media, 9, 0, glass(1.2))
    assert media[inside(media) + BODY, 0] == 8
    go_out(media, 8)
    assert media[inside(media) + BODY, 0] == 9, "entered after 7"
    go_out(media, 9)
    assert media[inside(media) + BODY, 0] == 7
    go_out(media, 7)
    assert inside(media) == -1 and not media.any()


def test_leaving_what_one_is_not_in_changes_nothing() -> None:
    media = nowhere()
    go_in(media, 3, 0, glass())
    before = media.copy()
    go_out(media, 4)
    assert np.array_equal(media, before)


def test_a_fifth_body_is_taken_for_empty_and_the_first_four_stay() -> None:
    media = nowhere()
    for body in range(1, NESTED + 2):
        go_in(media, body, body, glass(1 + body / 10))
    assert [int(media[slot * FIELDS + BODY, 0]) for slot in range(NESTED)] == [1, 2, 3, 4]
    go_out(media, NESTED + 1)
    assert media[inside(media) + BODY, 0] == NESTED


def test_water_in_a_glass_meets_glass_by_the_ratio_of_their_indices() -> None:
    # C. M. Schmidt and B. Budge, "Simple Nested Dielectrics", 2002, their example of a drink that overlaps its glass: within the
    # glass the drink's boundary does not count; where the glass ends the drink begins, at 1.33 over 1.5.
    media = nowhere()
    counts, ratio = meets(media, 1, 1, 1.5, True)
    assert counts and ratio == pytest.approx(1.5)
    go_in(media, 1, 1, glass(1.5))
    assert meets(media, 2, 0, 1.33, True)[0] is False
    go_in(media, 2, 0, glass(1.33))
    counts, ratio = meets(media, 1, 1, 1.5, False)
    assert counts and ratio == pytest.approx(1.33 / 1.5)
    go_out(media, 1)
    counts, ratio = meets(media, 2, 0, 1.33, False)
    assert counts and ratio == pytest.approx(1 / 1.33)


def test_the_tint_is_what_is_left_after_the_depth() -> None:
    # OpenPBR Surface 1.1, transmission: extinction −ln(colour) / depth, by Beer and Lambert's law.
    media = nowhere()
    go_in(media, 1, 0, glass(transmission_color=(0.5, 0.8, 1.0), transmission_depth=(0.2,)))
    extinction = media[EXTINCTION : EXTINCTION + 3, 0]
    assert extinction == pytest.approx([-log(0.5) / 0.2, -log(0.8) / 0.2, 0.0], rel=1e-5)
    assert [exp(-each * 0.2) for each in extinction] == pytest.approx([0.5, 0.8, 1.0], rel=1e-5)
    assert media[INDEX, 0] == pytest.approx(1.5)


def test_more_scattering_than_loss_adds_loss_to_all_channels_alike() -> None:
    # The same chapter: where the absorption of any channel would be negative, all are raised until none is.
    media = nowhere()
    go_in(
        media,
        1,
        0,
        glass(transmission_color=(0.9, 0.5, 0.2), transmission_depth=(1.0,), transmission_scatter=(0.6, 0.0, 0.0)),
    )
    lost = media[EXTINCTION : EXTINCTION + 3, 0] - media[SCATTERING : SCATTERING + 3, 0]
    assert lost.min() == pytest.approx(0.0, abs=1e-6)
    plain = np.array([-log(0.9) - 0.6, -log(0.5), -log(0.2)])
    assert lost == pytest.approx(plain - plain.min(), abs=1e-5)


@kernel
def tint_of(m: np.ndarray) -> float:
    return through_tint(m, 0, 0)


def test_a_boundary_tints_only_where_the_body_has_no_depth() -> None:
    colour = {"transmission_color": (0.25, 0.5, 0.75)}
    assert tint_of(glass(**colour)) == pytest.approx(0.25)
    assert tint_of(glass(**colour, transmission_depth=(0.1,))) == 1.0
    assert tint_of(glass(**colour, transmission_depth=(0.1,), geometry_thin_walled=(1.0,))) == pytest.approx(0.25)


@kernel
def density_of(cosine: float, g: float) -> float:
    return henyey_greenstein_pdf(cosine, g)


@pytest.mark.parametrize("g", [-0.8, -0.3, 0.0, 0.5, 0.9])
def test_the_phase_function_adds_up_to_one_and_its_mean_cosine_is_its_parameter(g: float) -> None:
    # L. G. Henyey and J. L. Greenstein, "Diffuse Radiation in the Galaxy", 1941: both hold by definition.
    total = integrate.quad(lambda z: 2 * pi * density_of(z, g), -1, 1)[0]
    mean = integrate.quad(lambda z: 2 * pi * z * density_of(z, g), -1, 1)[0]
    assert total == pytest.approx(1.0, abs=1e-6)
    assert mean == pytest.approx(g, abs=1e-6)


@kernel
def turned_many(g: float, u: np.ndarray, v: np.ndarray, out: np.ndarray) -> None:
    for i in range(u.shape[0]):
        out[0, i], out[1, i], out[2, i] = sample_henyey_greenstein(0.6, 0.0, -0.8, g, u[i], v[i])


@pytest.mark.parametrize("g", [-0.6, 0.0, 0.85])
def test_turns_are_drawn_about_the_way_light_was_going(g: float) -> None:
    rng = np.random.default_rng(5)
    out = np.empty((3, 200_000))
    turned_many(g, rng.random(200_000), rng.random(200_000), out)
    assert (out**2).sum(axis=0) == pytest.approx(1.0, abs=1e-6)
    # The mean of all directions points along the old one, and is as long as the mean cosine.
    assert out.mean(axis=1) == pytest.approx([0.6 * g, 0.0, -0.8 * g], abs=0.006)


@kernel
def flights(extinction: float, u: np.ndarray, out: np.ndarray) -> None:
    for i in range(u.shape[0]):
        out[i] = sample_free_flight(extinction, 1.0, 2.0, 1.0, 0.0, 0.0, 0.5, u[i])


def test_free_flights_have_the_mean_and_the_spread_of_their_law() -> None:
    # Beer and Lambert: an exponential distribution, its mean and its standard deviation both 1 / σ.
    out = np.empty(400_000)
    flights(4.0, np.random.default_rng(1).random(400_000), out)
    assert out.mean() == pytest.approx(0.25, rel=0.01)
    assert out.std() == pytest.approx(0.25, rel=0.01)
    assert (out > 0.5).mean() == pytest.approx(exp(-2.0), rel=0.02)


@kernel
def left_after(extinction: float, distance: float) -> float:
    return transmittance(extinction, distance)


def test_what_is_left_after_two_ways_is_the_product_of_what_each_leaves() -> None:
    assert left_after(3.0, 0.7) == pytest.approx(left_after(3.0, 0.2) * left_after(3.0, 0.5))
    assert left_after(0.0, 1e30) == 1.0, "nothing is lost in the open, however far"


@kernel
def albedo_of(colour: float, g: float) -> float:
    return single_albedo(colour, g)


@pytest.mark.parametrize("colour", [0.1, 0.3, 0.5, 0.8])
def test_a_deep_body_gives_back_its_colour_by_chandrasekhars_exact_solution(colour: float) -> None:
    # S. Chandrasekhar, *Radiative Transfer*, 1960: H(μ) = 1 + ½ ω μ H(μ) ∫ H(ν) / (μ + ν) dν; of light from all sides a half
    # space of even scattering gives back 1 − 2 √(1 − ω) ∫ H μ dμ. The formula used is van de Hulst's fit to it.
    omega = albedo_of(colour, 0.0)
    nodes, weights = np.polynomial.legendre.leggauss(48)
    mu, weight = (nodes + 1) / 2, weights / 2
    h = np.ones_like(mu)
    for _ in range(400):
        h = 1 / (np.sqrt(1 - omega) + 0.5 * omega * (weight * mu * h / (mu[:, None] + mu)).sum(axis=1))
    given_back = 1 - 2 * np.sqrt(1 - omega) * (weight * h * mu).sum()
    assert given_back == pytest.approx(colour, abs=0.004)
