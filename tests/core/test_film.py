"""Thin films against colour-science's transfer-matrix code, and their furnace."""

import numpy as np
import pytest
from colour.phenomena import thin_film_tmm

from tests.surfaces import given_back
from texallon.core.shade.fresnel import fresnel_dielectric
from texallon.core.shade.spectrum import RESPONSES, WAVELENGTHS
from texallon.core.shade.thin_film import thin_film_on_dielectric, thin_film_on_metal


def by_transfer_matrix(film: float, base: float, micrometres: float, degrees: float) -> np.ndarray:
    """Red, green and blue reflectance, from colour-science's spectral one."""
    reflectance, _ = thin_film_tmm(n=[1.0, film, base], t=micrometres * 1000, wavelength=WAVELENGTHS, theta=degrees)
    spectrum = np.asarray(reflectance).reshape(len(WAVELENGTHS), -1).mean(axis=1)
    return np.clip(spectrum @ RESPONSES, 0, 1)


@pytest.mark.parametrize("degrees", [0.0, 30.0, 60.0, 80.0])
@pytest.mark.parametrize(("film", "base"), [(1.33, 1.0), (1.47, 1.33), (2.4, 1.5), (1.38, 1.8)])
@pytest.mark.parametrize("micrometres", [0.0, 0.1, 0.3, 0.55, 1.0])
def test_a_film_reflects_as_the_transfer_matrix_says(
    film: float, base: float, micrometres: float, degrees: float
) -> None:
    # Soap in air, oil on water, an oxide on glass, a quarter-wave coating on flint.
    found = thin_film_on_dielectric(np.cos(np.radians(degrees)), base, film, micrometres)
    assert np.allclose(found, by_transfer_matrix(film, base, micrometres, degrees), atol=0.01)


def test_no_film_leaves_the_boundary() -> None:
    for cosine in (1.0, 0.5, 0.2):
        assert thin_film_on_dielectric(cosine, 1.5, 1.4, 0.0) == pytest.approx(
            (fresnel_dielectric(cosine, 1.5),) * 3, abs=1e-4
        )


def test_a_quarter_wave_film_takes_the_reflection_away() -> None:
    # Index √n and a quarter of the wave thick: no reflection there (Born and Wolf 7.6; magnesium fluoride on dense flint).
    quarter = 0.55 / 4 / 1.3416
    green = thin_film_on_dielectric(1.0, 1.8, 1.3416, quarter)[1]
    assert green < 0.1 * fresnel_dielectric(1.0, 1.8)


def test_thin_soap_is_black_and_thick_soap_loses_its_colours() -> None:
    # A soap film thinner than a wave reflects nothing (common practice: “black film”); of many waves it is nearly white.
    assert max(thin_film_on_dielectric(1.0, 1.0, 1.33, 0.004)) < 0.001
    thick = np.array(thin_film_on_dielectric(1.0, 1.0, 1.33, 2.5))
    middle = np.array(thin_film_on_dielectric(1.0, 1.0, 1.33, 0.28))
    assert np.ptp(thick) / thick.mean() < 0.5 * np.ptp(middle) / middle.mean()


def test_temper_colours_of_steel_run_from_straw_to_blue() -> None:
    # An oxide that grows on hot steel is straw first, then purple, then blue (common practice, no published source).
    steel = (0.56, 0.57, 0.58)

    def tempered(micrometres: float) -> np.ndarray:
        return np.array([thin_film_on_metal(1.0, steel[c], 1.0, c, 2.4, micrometres) for c in range(3)])

    straw, blue = tempered(0.045), tempered(0.072)
    assert straw[0] > straw[2] * 1.3
    assert blue[2] > blue[0] * 1.3


@pytest.mark.parametrize("roughness", [0.0, 0.3, 1.0])
@pytest.mark.parametrize("thickness", [0.1, 0.35, 0.8])
@pytest.mark.parametrize("below", ["ground", "glass", "wax", "paper"])
def test_a_film_on_a_white_body_keeps_its_light(roughness: float, thickness: float, below: str) -> None:
    # Furnace: a film takes nothing away (Born and Wolf: no absorption in it), whatever lies below.
    white = {
        "ground": {"base_color": (1.0, 1.0, 1.0)},
        "glass": {"transmission_weight": (1.0,)},
        "wax": {"subsurface_weight": (1.0,), "subsurface_color": (1.0, 1.0, 1.0)},
        "paper": {"subsurface_weight": (1.0,), "subsurface_color": (1.0, 1.0, 1.0), "geometry_thin_walled": (1.0,)},
    }[below]
    for mu in (0.1, 0.5, 1.0):
        found = given_back(
            mu, 40_000, thin_film_weight=(1.0,), thin_film_thickness=(thickness,), thin_film_ior=(1.8,),
            specular_roughness=(roughness,), **white,
        )  # fmt: skip
        assert found == pytest.approx([1.0] * 3, abs=0.015)
