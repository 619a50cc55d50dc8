"""Scattering against the Fresnel equations, the microfacet theory it implements, and the conservation of energy."""

from math import asin, atan, cos, pi, radians, sin, sqrt

import numpy as np
import pytest
from scipy import stats

from tests.surfaces import TABLE, followed, given_back, histogram, material, scatters
from texallon.core.kernel import allocating, kernel
from texallon.core.random_numbers import uniform4
from texallon.core.shade import albedo
from texallon.core.shade.base import TRANSMISSION
from texallon.core.shade.diffuse import eon
from texallon.core.shade.fresnel import fresnel_dielectric, fresnel_metal, weighted_ior
from texallon.core.shade.ggx import ggx_d, ggx_g1, ggx_sample, ggx_visible

ROUGHNESSES = [0.05, 0.1, 0.2, 0.35, 0.5, 0.75, 1.0]


# Fresnel ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("eta", "expected"), [(1.5, 0.04), (1.333, 0.020373), (2.417, 0.171969)])
def test_reflectance_at_normal_incidence(eta: float, expected: float) -> None:
    # ((n−1)/(n+1))², with handbook indices of crown glass, water and diamond (CRC Handbook; from memory).
    assert fresnel_dielectric(1.0, eta) == pytest.approx(expected, abs=2e-6)


def test_brewsters_angle_leaves_only_one_polarisation() -> None:
    # At tan θ = n the parallel part vanishes and the other is ((n²−1)/(n²+1))² (Brewster 1815).
    n = 1.5
    theta = atan(n)
    assert fresnel_dielectric(cos(theta), n) == pytest.approx(0.5 * ((n * n - 1) / (n * n + 1)) ** 2, rel=1e-6)


def test_reflectance_at_sixty_and_ninety_degrees() -> None:
    # Fresnel's equations worked by hand for n = 1.5: sin θt = 0.57735, cos θt = 0.81650.
    c, t = 0.5, sqrt(1 - (sqrt(0.75) / 1.5) ** 2)
    by_hand = 0.5 * (((c - 1.5 * t) / (c + 1.5 * t)) ** 2 + ((1.5 * c - t) / (1.5 * c + t)) ** 2)
    assert fresnel_dielectric(0.5, 1.5) == pytest.approx(by_hand, rel=1e-6)
    assert by_hand == pytest.approx(0.0892, abs=1e-4)
    assert fresnel_dielectric(0.0, 1.5) == pytest.approx(1.0)


def test_total_internal_reflection_begins_at_the_critical_angle() -> None:
    critical = asin(1 / 1.5)
    assert fresnel_dielectric(cos(critical + 0.001), 1 / 1.5) == 1.0
    assert fresnel_dielectric(cos(critical - 0.02), 1 / 1.5) < 0.75


def test_reflection_is_the_same_from_both_sides() -> None:
    # Stokes: the reflectance at θ from outside equals that at the refracted angle from inside.
    for degrees in (0, 20, 45, 70, 85):
        inside = asin(sin(radians(degrees)) / 1.5)
        outer = fresnel_dielectric(cos(radians(degrees)), 1.5)
        assert fresnel_dielectric(cos(inside), 1 / 1.5) == pytest.approx(outer, abs=1e-6)


def test_a_metal_reflects_its_colour_head_on_and_all_at_the_edge() -> None:
    # OpenPBR Surface 1.1: at cos θ = 1/7 the F82 model gives the tint times Schlick's value.
    for f0 in (0.56, 0.91, 0.99):
        assert fresnel_metal(1.0, f0, 0.7) == pytest.approx(f0)
        assert fresnel_metal(0.0, f0, 0.7) == pytest.approx(1.0)
        schlick = f0 + (1 - f0) * (6 / 7) ** 5
        assert fresnel_metal(1 / 7, f0, 0.7) == pytest.approx(0.7 * schlick, rel=1e-6)
        assert fresnel_metal(1 / 7, f0, 1.0) == pytest.approx(schlick, rel=1e-6)


@pytest.mark.parametrize("weight", [0.0, 0.25, 0.5, 1.0])
def test_specular_weight_scales_the_reflection_head_on(weight: float) -> None:
    # OpenPBR Surface 1.1, specular weight: F0 is scaled by it; 0 is a surface that does not reflect.
    assert fresnel_dielectric(1.0, weighted_ior(1.5, weight)) == pytest.approx(0.04 * weight, abs=1e-6)


# Microfacets -----------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("roughness", ROUGHNESSES)
def test_the_facets_cover_the_surface_once(roughness: float) -> None:
    # ∫ D(h) cos θ dω = 1 (Walter et al. 2007, eq. 4), by Gauss–Legendre in tan-stretched angle.
    alpha = roughness**2
    t, w = np.polynomial.legendre.leggauss(400)
    s = (t + 1) / 2
    tangent = alpha * s / (1 - s)
    z = 1 / np.sqrt(1 + tangent**2)
    jacobian = alpha / (1 - s) ** 2 * z**3 * tangent  # dω = 2π tan θ cos³θ d(tan θ)
    d = np.array([ggx_d(value, alpha) for value in z])
    assert (2 * pi * d * z * jacobian * w / 2).sum() == pytest.approx(1.0, abs=1e-4)


@pytest.mark.parametrize("roughness", ROUGHNESSES)
@pytest.mark.parametrize("mu", [0.1, 0.5, 0.9])
def test_visible_facets_project_to_what_is_seen(roughness: float, mu: float) -> None:
    # Heitz 2018: the density of visible normals integrates to 1, so the mean of G1·… over samples is exact.
    alpha = roughness**2
    total = mean_of_visible(mu, alpha, 200_000)
    assert total == pytest.approx(1.0, abs=0.02)


@kernel
def mean_of_visible(mu: float, alpha: float, count: int) -> float:
    """∫ of the visible-normal density over the hemisphere of normals, by even sampling in stretched slopes."""
    ox = sqrt(1 - mu * mu)
    total = 0.0
    for s in range(count):
        u, v, _, _ = uniform4(s, 0, 0, 5)
        ring = alpha * sqrt(u / (1 - u))
        hz = 1 / sqrt(1 + ring * ring)
        hx = ring * hz * cos(2 * pi * v)
        oh = ox * hx + mu * hz
        if oh > 0:
            total += ggx_visible(mu, hz, oh, alpha) / (ggx_d(hz, alpha) * hz)
    return total / count


@pytest.mark.parametrize("roughness", [0.2, 0.5, 1.0])
@pytest.mark.parametrize("mu", [0.15, 0.6, 0.95])
def test_sampled_normals_follow_their_density(roughness: float, mu: float) -> None:
    # Chi-square of 100,000 samples against the density, over 12 × 8 cells of the sphere of normals.
    alpha = roughness**2
    counts, expected = normal_histogram(mu, alpha, 100_000, 12, 8)
    used = expected.ravel() > 8
    observed, wanted = counts.ravel()[used], expected.ravel()[used]
    statistic = ((observed - wanted) ** 2 / wanted).sum()
    assert stats.chi2.sf(statistic, used.sum() - 1) > 1e-4
    assert wanted.sum() > 0.98 * 100_000


@allocating
def normal_histogram(mu: float, alpha: float, count: int, across: int, up: int) -> tuple[np.ndarray, np.ndarray]:
    """Samples and expectation over angle about the normal × s; tan²θ = α² t / (1 − t) and 1 − t = (1 − s)² even out the density."""
    counts, expected = np.zeros((across, up)), np.zeros((across, up))
    ox = sqrt(1 - mu * mu)
    for s in range(count):
        u, v, _, _ = uniform4(s, 1, 0, 9)
        hx, hy, hz = ggx_sample(ox, 0.0, mu, alpha, u, v)
        i = int((np.arctan2(hy, hx) / (2 * pi) + 0.5) * across) % across
        slope2 = (hx * hx + hy * hy) / (hz * hz)
        place = 1 - sqrt(alpha * alpha / (alpha * alpha + slope2))
        counts[i, min(int(place * up), up - 1)] += 1
    fine = 64
    for i in range(across * fine):
        for j in range(up * fine):
            phi = ((i + 0.5) / (across * fine) - 0.5) * 2 * pi
            rest = 1 - (j + 0.5) / (up * fine)
            t = 1 - rest * rest
            hz = 1 / sqrt(1 + alpha * alpha * t / (1 - t))
            ring = sqrt(1 - hz * hz)
            oh = ox * ring * cos(phi) + mu * hz
            if oh > 0:
                stretch = 0.5 * hz**3 * alpha * alpha / (1 - t) ** 2 * 2 * rest
                area = 2 * pi / (across * fine) / (up * fine) * stretch
                expected[i // fine, j // fine] += count * ggx_visible(mu, hz, oh, alpha) * area
    return counts, expected


def test_shadowing_leaves_a_smooth_surface_alone() -> None:
    assert ggx_g1(0.3, 1e-4) == pytest.approx(1.0, abs=1e-6)
    assert ggx_g1(0.02, 1.0) < 0.05


# The whole surface -----------------------------------------------------------------------------------------------


def test_the_shipped_table_is_what_its_code_computes() -> None:
    # With fewer samples, which is a matter of a few thousandths but for the most strongly brushed.
    away = np.abs(albedo.compute_table(16) - TABLE)
    assert away.mean() < 0.002
    assert np.quantile(away, 0.99) < 0.03


@pytest.mark.parametrize("roughness", ROUGHNESSES)
@pytest.mark.parametrize("mu", [0.1, 0.4, 0.8, 1.0])
def test_a_white_metal_loses_nothing(roughness: float, mu: float) -> None:
    # White furnace, with Kulla & Conty's compensation (SIGGRAPH 2017): within 1 % at every roughness.
    found = given_back(mu, 200_000, base_metalness=1, base_color=1, specular_roughness=roughness)
    assert found == pytest.approx(1.0, abs=0.01)


@pytest.mark.parametrize("roughness", ROUGHNESSES)
@pytest.mark.parametrize("mu", [0.1, 0.4, 0.8, 1.0])
def test_a_white_body_under_a_reflecting_skin_loses_nothing(roughness: float, mu: float) -> None:
    assert given_back(mu, 200_000, base_color=1, specular_roughness=roughness) == pytest.approx(1.0, abs=0.01)


@pytest.mark.parametrize("mu", [0.1, 0.5, 1.0])
@pytest.mark.parametrize("inside", [False, True])
def test_smooth_clear_bodies_lose_nothing(mu: float, inside: bool) -> None:
    found = given_back(mu, 20_000, inside, transmission_weight=1, specular_roughness=0.0, specular_ior=1.333)
    assert found == pytest.approx(1.0, abs=1e-3)


@pytest.mark.parametrize("ior", [1.05, 1.33, 1.5, 1.8, 2.5])
@pytest.mark.parametrize("roughness", [0.1, 0.3, 0.6, 1.0])
@pytest.mark.parametrize("inside", [False, True])
def test_rough_clear_boundaries_keep_their_light_from_both_sides(ior: float, roughness: float, inside: bool) -> None:
    # White furnace of one boundary, compensated after Turquin 2019.
    for mu in (0.05, 0.3, 0.7, 1.0):
        found = given_back(mu, 20_000, inside, transmission_weight=1, specular_roughness=roughness, specular_ior=ior)
        assert found == pytest.approx(1.0, abs=0.01)


@pytest.mark.parametrize("roughness", [0.0, 0.3, 0.8])
@pytest.mark.parametrize("inside", [False, True])
@pytest.mark.parametrize("clear", [0.2, 0.5, 0.9])
def test_opaque_and_clear_are_a_mix_that_keeps_its_light(roughness: float, inside: bool, clear: float) -> None:
    # OpenPBR Surface 1.1: the opaque and the translucent base are mixed, each whole in itself, from either side.
    for mu in (0.05, 0.4, 1.0):
        found = given_back(mu, 40_000, inside, transmission_weight=clear, base_color=1, specular_roughness=roughness)
        assert found == pytest.approx(1.0, abs=0.012)


@pytest.mark.parametrize(
    "channels", [{"base_metalness": 1.0}, {}, {"base_metalness": 0.4, "base_diffuse_roughness": 0.8}]
)
@pytest.mark.parametrize("roughness", [0.1, 0.4, 0.9])
def test_reflection_is_reciprocal(channels: dict[str, float], roughness: float) -> None:
    # Helmholtz: f(o, i) = f(i, o); the kernel gives f·cosθ.
    m = material(specular_roughness=roughness, **channels)
    rng = np.random.default_rng(6)
    for _ in range(50):
        a, b = rng.normal(size=(2, 3))
        a, b = a / np.linalg.norm(a), b / np.linalg.norm(b)
        a[2], b[2] = abs(a[2]) + 1e-3, abs(b[2]) + 1e-3
        a, b = a / np.linalg.norm(a), b / np.linalg.norm(b)
        there = scatters(m, a, b)[0] / b[2]
        back = scatters(m, b, a)[0] / a[2]
        assert there == pytest.approx(back, rel=1e-4)


SAMPLED = {
    "half metal": {"base_color": 0.5, "base_metalness": 0.3},
    "rough glass": {"transmission_weight": 1.0},
    "half clear": {"transmission_weight": 0.5, "base_color": 0.7},
    "rough pane": {"transmission_weight": 1.0, "geometry_thin_walled": 1.0},
    "paper": {"subsurface_weight": 1.0, "geometry_thin_walled": 1.0},
    "brushed glass": {"transmission_weight": 1.0, "specular_roughness_anisotropy": 0.6},
    "coat": {"coat_weight": 0.9, "coat_roughness": 0.35, "coat_roughness_anisotropy": 0.5, "coat_ior": 1.9},
    "oil on glass": {"transmission_weight": 1.0, "thin_film_weight": 1.0},
}


@pytest.mark.parametrize("roughness", [0.3, 0.6, 1.0])
@pytest.mark.parametrize("name", SAMPLED)
@pytest.mark.parametrize("inside", [False, True])
def test_sampled_directions_follow_their_density(roughness: float, name: str, inside: bool) -> None:
    m = material(inside, specular_roughness=roughness, **SAMPLED[name])
    found = histogram(m, 0.6, not inside, False, TABLE, 100_000, 10, 16)
    assert np.abs(found[0] - found[1]).max() < 0.006
    # What facets would send below the surface, or into themselves, is drawn again or lost, so sums agree closely.
    assert found[0].sum() == pytest.approx(found[1].sum(), abs=0.02)


def test_soft_reflections_of_smooth_water_follow_their_density() -> None:
    m = material(transmission_weight=1.0, specular_roughness=0.3, specular_ior=1.333)
    found = histogram(m, 0.3, True, True, TABLE, 100_000, 10, 16)
    assert np.abs(found[0] - found[1]).max() < 0.004
    assert found[0].sum() == pytest.approx(fresnel_dielectric(0.3, 1.333), abs=0.01), "as much as smooth water reflects"


def test_refraction_follows_snell() -> None:
    clear = material(transmission_weight=1, specular_roughness=0.0, specular_ior=1.333)
    for degrees in (10, 45, 80):
        o = (sin(radians(degrees)), 0.0, cos(radians(degrees)))
        kind, ix, _, iz = followed(clear, *o, True, 0.9999, 0.5, 0.5, TABLE)
        assert kind == TRANSMISSION
        assert -ix * 1.333 == pytest.approx(sin(radians(degrees)), rel=1e-5)
        assert iz < 0


def test_a_smooth_diffuse_body_is_lamberts() -> None:
    assert eon(0.7, 0.0, 0.4, 0.9, 0.5) == pytest.approx(0.7 / pi, rel=1e-6)


@pytest.mark.parametrize("roughness", [0.0, 0.3, 1.0])
def test_rough_diffuse_keeps_its_energy(roughness: float) -> None:
    # Portsmouth, Kutz & Hill 2025: a white EON surface reflects everything; their fit is good to a tenth of a percent.
    for mu in (0.05, 0.3, 0.9):
        assert diffuse_albedo(1.0, roughness, mu) == pytest.approx(1.0, abs=0.004)


@kernel
def diffuse_albedo(rho: float, roughness: float, mu: float) -> float:
    total = 0.0
    ring_o = sqrt(1 - mu * mu)
    steps = 400
    for i in range(steps):
        z = sqrt((i + 0.5) / steps)
        ring = sqrt(1 - z * z)
        for j in range(steps):
            between = ring * ring_o * cos(2 * pi * (j + 0.5) / steps) + z * mu
            total += eon(rho, roughness, z, mu, between) * pi
    return total / (steps * steps)


def test_wet_ground_is_darker_and_shinier() -> None:
    # Common practice, no published source: wetting darkens the body and strengthens the reflection.
    dry = material(base_color=0.4, specular_roughness=0.7, specular_weight=0.5)
    wet = material(base_color=0.4 * 0.4, specular_roughness=0.14, specular_weight=1.0)
    o, aside = (0.0, 0.0, 1.0), (sin(1.0), 0.0, cos(1.0))
    body = [scatters(m, o, aside)[0] for m in (dry, wet)]
    assert body[1] < 0.6 * body[0]
    mirror = (0.6, 0.0, 0.8), (-0.6, 0.0, 0.8)
    shine = [scatters(m, *mirror)[0] for m in (dry, wet)]
    assert shine[1] > 5 * shine[0]


def test_ground_that_does_not_reflect_has_no_highlight() -> None:
    # Common practice: ground under a water surface must not add its own sharp reflections, or it sparkles.
    wet = material(base_color=0.0, specular_roughness=0.14, specular_weight=0.0)
    assert scatters(wet, (0.6, 0.0, 0.8), (-0.6, 0.0, 0.8))[0] < 1e-6
