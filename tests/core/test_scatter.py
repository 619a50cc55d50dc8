"""Points scattered over surfaces: their distance, how evenly they lie, and that they stay where the ground does."""

import numpy as np
import pytest
from scipy.spatial import KDTree, cKDTree

from tests.builders import ball
from texallon.core.geometry.mesh import Mesh, MeshError, make_mesh
from texallon.core.geometry.scatter import scattered

HERE = np.eye(3, dtype=np.float32)


def plane(cells: int = 1, size: float = 1.0) -> Mesh:
    x, z = (each.ravel() for each in np.meshgrid(*[np.linspace(0, size, cells + 1)] * 2, indexing="ij"))
    at = np.arange((cells + 1) ** 2).reshape(cells + 1, cells + 1)
    a, b, c, d = at[:-1, :-1].ravel(), at[:-1, 1:].ravel(), at[1:, 1:].ravel(), at[1:, :-1].ravel()
    return make_mesh(np.stack([x, 0 * x, z], axis=1), np.concatenate([np.stack([a, b, c], 1), np.stack([a, c, d], 1)]))


def places(mesh: Mesh, apart: float, most: int = 200_000, seed: int = 1) -> np.ndarray:
    found = scattered(mesh, HERE, apart, most, seed)
    return np.einsum("kc,kcx->kx", found.weights, mesh.vertices[mesh.faces[found.face]])


@pytest.mark.parametrize("mesh", [plane(), plane(17), ball(0.6, 40)], ids=["square", "grid", "ball"])
@pytest.mark.parametrize("apart", [0.02, 0.05])
def test_none_lies_nearer_to_another_than_the_distance_and_hardly_any_room_is_left(mesh: Mesh, apart: float) -> None:
    at = places(mesh, apart)
    nearest = cKDTree(at).query(at, 2)[0][:, 1]
    assert nearest.min() >= apart * (1 - 1e-5)
    # Disks laid by chance until none finds room cover 0.5471 of a plane: E. L. Hinrichsen, J. Feder, T. Jøssang, "Geometry of Random
    # Sequential Adsorption", Journal of Statistical Physics 44 (1986).
    corners = mesh.vertices[mesh.faces].astype(float)
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
    if not mesh.vertices[:, 1].any():  # at the border of a square they lie closer
        edge = 4 * apart
        at, area = at[((at[:, [0, 2]] > edge) & (at[:, [0, 2]] < 1 - edge)).all(axis=1)], (1 - 2 * edge) ** 2
    packed = len(at) * np.pi * (apart / 2) ** 2 / area
    assert 0.90 * 0.5471 < packed < 1.05 * 0.5471


def test_the_spectrum_has_no_low_frequencies_and_no_direction() -> None:
    """The mark of Poisson disks: energy is missing below 1/distance, and is near 1 far above it (R. Ulichney, "Dithering with Blue Noise",
    Proceedings of the IEEE 76, 1988)."""
    apart = 0.02
    at = places(plane(9), apart)[:, [0, 2]]
    # Whole waves over the square, by a window that falls to 0 at its border.
    window = np.prod(np.sin(np.pi * at), axis=1) ** 2

    def energy(frequency: float, way: np.ndarray) -> float:
        return float(abs((window * np.exp(2j * np.pi * frequency * (at @ way))).sum()) ** 2 / (window**2).sum())

    low, high, ways = [], [], []
    for angle in np.linspace(0, np.pi, 24, endpoint=False):
        way = np.array([np.cos(angle), np.sin(angle)])
        low.append(np.mean([energy(f, way) for f in np.linspace(0.2, 0.4, 9) / apart]))
        high.append(np.mean([energy(f, way) for f in np.linspace(2.5, 4, 40) / apart]))
        ways.append(np.mean([energy(f, way) for f in np.linspace(0.9, 1.3, 20) / apart]))
    assert np.mean(low) < 0.25
    assert np.mean(high) == pytest.approx(1.0, abs=0.15)
    assert np.std(ways) / np.mean(ways) < 0.5, "as strong whichever way one looks"


def test_it_repeats_and_another_seed_lays_others() -> None:
    one, same, other = places(plane(5), 0.1), places(plane(5), 0.1), places(plane(5), 0.1, seed=2)
    assert (one == same).all()
    assert KDTree(one).query(other)[0].max() > 0.01


def test_an_edit_elsewhere_leaves_points_where_they_are() -> None:
    ground = plane(20)
    moved = ground.vertices.copy()
    corner = (moved[:, 0] > 0.8) & (moved[:, 2] > 0.8)
    moved[corner, 1] += 0.3
    # Faces in another order, and fewer of them: as a remodelled file has it.
    faces = ground.faces[::-1][40:]
    edited = make_mesh(moved, faces)
    before, after = places(ground, 0.04), places(edited, 0.04)
    far = lambda at: at[(at[:, 0] < 0.5) & (at[:, 2] > 0.2)]  # noqa: E731
    kept = KDTree(after).query(far(before))[0] < 1e-6
    assert kept.mean() > 0.97 and len(far(before)) > 100


def test_a_stretched_ground_is_measured_in_metres() -> None:
    found = scattered(plane(4), np.diag([3, 1, 1]).astype(np.float32), 0.1, 100_000, 1)
    at = np.einsum("kc,kcx->kx", found.weights, plane(4).vertices[plane(4).faces[found.face]]) * [3, 1, 1]
    assert cKDTree(at).query(at, 2)[0][:, 1].min() >= 0.1 * (1 - 1e-5)
    assert 180 < len(at) < 300


def test_what_would_be_too_many_is_refused_with_the_distance_that_would_do() -> None:
    with pytest.raises(MeshError, match=r"0\.0\d+ m apart would do"):
        places(plane(1, 10.0), 1e-3)
    assert len(places(plane(), 0.02, most=77)) == 77
