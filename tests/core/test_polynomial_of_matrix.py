"""Sums of Chebyshev polynomials of a sparse matrix: against NumPy's of a dense one, in any order of points and on any number of threads."""

import os
from typing import Any

import numpy as np
import pytest
from numpy.polynomial.chebyshev import chebval
from scipy.sparse import csr_array, diags_array, kron, random_array

from texallon.core.motion import bands as bands_module
from texallon.core.motion import polynomial_of_matrix as module
from texallon.core.motion.bands import bands
from texallon.core.motion.polynomial_of_matrix import near_rows, sum_of_polynomials


def of_modes(matrix: csr_array, coefficients: np.ndarray, given: np.ndarray) -> np.ndarray:
    """By all modes of a symmetric matrix."""
    value, mode = np.linalg.eigh(matrix.toarray())
    weights = chebval(value, coefficients)  # (2, 4, p)
    return np.einsum("pm,kim,qm,qi->pk", mode, weights, mode, given)


def grid(across: int, down: int) -> csr_array:
    """Of a rectangle, its modes between −1 and 1."""

    def line(count: int) -> csr_array:
        return diags_array([np.full(count, 2.0), -np.ones(count - 1), -np.ones(count - 1)], offsets=[0, 1, -1])

    laplacian = kron(line(across), diags_array(np.ones(down))) + kron(diags_array(np.ones(across)), line(down))
    return csr_array(laplacian / 4 - diags_array(np.ones(across * down)))


def scattered(count: int, seed: int) -> csr_array:
    """Points with neighbours anywhere, and some with none."""
    made = random_array((count, count), density=3 / count, rng=np.random.default_rng(seed))
    both = csr_array(made + made.T)
    return csr_array(both / max(abs(both).sum(axis=1).max(), 1e-9))


@pytest.mark.parametrize("terms", [1, 2, 3, 8, 31])
@pytest.mark.parametrize(
    "matrix", [grid(7, 40), grid(1, 1), scattered(90, 0), scattered(200, 1), csr_array((5, 5))], ids=str
)
def test_it_is_what_all_modes_make_of_it(matrix: csr_array, terms: int) -> None:
    random = np.random.default_rng(terms)
    given = random.normal(size=(matrix.shape[0], 4))
    coefficients = random.normal(size=(terms, 2, 4))
    found = sum_of_polynomials(near_rows(matrix), coefficients, given)
    # The matrix is held in single precision.
    assert found == pytest.approx(of_modes(matrix, coefficients, given), abs=3e-6 * terms**2)


@pytest.mark.parametrize(("across", "down", "terms"), [(9, 900, 12), (40, 200, 5), (3, 2500, 40)])
def test_any_number_of_threads_makes_the_same_to_the_bit(
    monkeypatch: pytest.MonkeyPatch, across: int, down: int, terms: int
) -> None:
    random = np.random.default_rng(across)
    # In no order, as vertices of an imported mesh stand.
    order = random.permutation(across * down)
    matrix = near_rows(csr_array(grid(across, down)[order][:, order]))
    assert matrix.reach <= 2 * across, "neighbours are near again"
    given, coefficients = random.normal(size=(across * down, 4)), random.normal(size=(terms, 2, 4))
    made = []
    for threads in (1, 2, 3, 8):
        bands_used: list[int] = []
        monkeypatch.setattr(os, "sched_getaffinity", lambda _, threads=threads: list(range(threads)))
        monkeypatch.setattr(module, "bands", lambda count, least: bands(count, 50))
        original = module._sum_of_rows

        def counted(*arguments: Any, original: Any = original, used: list[int] = bands_used) -> None:
            used.append(1)
            original(*arguments)

        with monkeypatch.context() as within:
            within.setattr(module, "_sum_of_rows", counted)
            made.append(sum_of_polynomials(matrix, coefficients, given))
        assert len(bands_used) == threads
    for each in made[1:]:
        assert np.array_equal(each, made[0])


def test_one_point_more_or_less_than_a_tile_is_as_good() -> None:
    for count in (module.TILE - 1, module.TILE, module.TILE + 1, 2 * module.TILE):
        matrix = grid(1, count)
        random = np.random.default_rng(count)
        given, coefficients = random.normal(size=(count, 4)), random.normal(size=(6, 2, 4))
        # T₀ … T₅ by their recurrence, in double precision.
        terms = [given, matrix @ given]
        for _ in range(4):
            terms.append(2 * (matrix @ terms[-1]) - terms[-2])
        wanted = sum(term @ by.T for term, by in zip(terms, coefficients, strict=True))
        assert sum_of_polynomials(near_rows(matrix), coefficients, given) == pytest.approx(wanted, abs=1e-5)


@pytest.mark.parametrize(("count", "least", "threads"), [(10, 1, 4), (10, 6, 1), (7, 2, 3), (0, 1, 1), (5, 0, 4)])
def test_bands_are_all_rows_once(monkeypatch: pytest.MonkeyPatch, count: int, least: int, threads: int) -> None:
    monkeypatch.setattr(bands_module.os, "sched_getaffinity", lambda _: list(range(4)))
    seen: list[tuple[int, int]] = []
    with bands(count, least) as each:
        for _ in range(2):
            seen.clear()
            each(lambda first, end: seen.append((first, end)))
            assert len(seen) == threads
            assert sorted(row for first, end in seen for row in range(first, end)) == list(range(count))


def test_what_goes_wrong_in_a_band_is_heard_of() -> None:
    def work(first: int, end: int) -> None:
        raise RuntimeError("out of rows")

    with pytest.raises(RuntimeError, match="out of rows"), bands(100, 1) as each:
        each(work)
