"""Rays against a reference library's, and against geometry one can work out."""

import numpy as np
import pytest
import trimesh
from scipy.spatial.transform import Rotation

from texallon.core.geometry.mesh import MeshError, make_mesh, vertex_normals
from texallon.core.geometry.rays import CLEAR, OPAQUE, MeshRays, SceneRays

SAME_PLACE = np.eye(4, dtype=np.float32)[:3]


def random_rays(count: int, seed: int = 0) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    origin = rng.normal(size=(3, count))
    origin *= 3 / np.linalg.norm(origin, axis=0)
    direction = rng.uniform(-0.8, 0.8, (3, count)) - origin
    direction /= np.linalg.norm(direction, axis=0)
    return np.ascontiguousarray(origin, np.float32), np.ascontiguousarray(direction, np.float32)


def scene_of(mesh: trimesh.Trimesh, matrix: np.ndarray = SAME_PLACE, mask: int = OPAQUE) -> SceneRays:
    rays = MeshRays(np.asarray(mesh.vertices, np.float32), np.asarray(mesh.faces, np.int32))
    return SceneRays([(rays, matrix, mask)])


def by_hand(mesh: trimesh.Trimesh, origin: np.ndarray, direction: np.ndarray) -> np.ndarray:
    """Distances to the nearest face by testing every ray against every triangle (Möller & Trumbore 1997), float64."""
    corners = mesh.triangles[:, None, :, :]
    o, d = origin.T[None].astype(float), direction.T[None].astype(float)
    e1, e2 = corners[:, :, 1] - corners[:, :, 0], corners[:, :, 2] - corners[:, :, 0]
    p = np.cross(d, np.broadcast_to(e2, (len(e2), d.shape[1], 3)))
    det = (e1 * p).sum(-1)
    with np.errstate(divide="ignore", invalid="ignore"):
        t0 = o - corners[:, :, 0]
        u = (t0 * p).sum(-1) / det
        q = np.cross(t0, np.broadcast_to(e1, t0.shape))
        v = (d * q).sum(-1) / det
        t = (e2 * q).sum(-1) / det
    hit = (u >= 0) & (v >= 0) & (u + v <= 1) & (t > 1e-6)
    return np.where(hit, t, np.inf).min(axis=0)


def test_nearest_hits_agree_with_every_triangle_tried() -> None:
    mesh = trimesh.creation.torus(0.7, 0.25, major_sections=20, minor_sections=10)
    origin, direction = random_rays(3000)
    hits = scene_of(mesh).nearest(origin, direction, np.zeros(3000, np.float32))
    expected = by_hand(mesh, origin, direction)
    found = np.isfinite(expected)
    assert 0.2 < found.mean() < 0.9
    assert (np.isfinite(hits.distance) == found).mean() > 0.999, "only rays that graze an edge may differ"
    both = found & np.isfinite(hits.distance)
    assert np.allclose(hits.distance[both], expected[both], rtol=1e-4)


def test_hits_lie_where_their_face_and_place_say() -> None:
    mesh = trimesh.creation.icosphere(3)
    origin, direction = random_rays(500)
    hits = scene_of(mesh).nearest(origin, direction, np.zeros(500, np.float32))
    chosen = np.flatnonzero(hits.instance == 0)
    u, v = hits.barycentric[:, chosen]
    a, b, c = np.moveaxis(mesh.triangles[hits.face[chosen]], 1, 0)
    at = a * (1 - u - v)[:, None] + b * u[:, None] + c * v[:, None]
    along = (origin[:, chosen] + direction[:, chosen] * hits.distance[chosen]).T
    assert np.allclose(at, along, atol=1e-5)


def test_an_instance_is_hit_where_its_matrix_puts_it() -> None:
    mesh = trimesh.creation.box((1, 0.5, 2))
    turn = Rotation.from_euler("xyz", [20, 50, -30], degrees=True).as_matrix() * 0.8  # SciPy as the reference
    matrix = np.concatenate([turn, [[0.2], [-0.1], [0.3]]], axis=1).astype(np.float32)
    moved = mesh.copy()
    moved.apply_transform(np.vstack([matrix, [0, 0, 0, 1]]))
    origin, direction = random_rays(2000)
    near = np.zeros(2000, np.float32)
    a, b = scene_of(mesh, matrix).nearest(origin, direction, near), scene_of(moved).nearest(origin, direction, near)
    both = np.isfinite(a.distance) & np.isfinite(b.distance)
    assert both.mean() > 0.1
    assert (np.isfinite(a.distance) == np.isfinite(b.distance)).mean() > 0.999
    assert np.allclose(a.distance[both], b.distance[both], rtol=1e-4)


def test_shadows_agree_with_hits_and_stop_at_their_end() -> None:
    scene = scene_of(trimesh.creation.icosphere(3))
    origin, direction = random_rays(2000)
    near = np.zeros(2000, np.float32)
    hits = scene.nearest(origin, direction, near)
    far = np.full(2000, 100.0, np.float32)
    assert np.array_equal(scene.blocked(origin, direction, near, far) == 1, np.isfinite(hits.distance))
    short = np.where(np.isfinite(hits.distance), hits.distance * 0.99, 100).astype(np.float32)
    assert scene.blocked(origin, direction, near, short).sum() == 0


def test_masks_choose_what_a_ray_meets() -> None:
    scene = scene_of(trimesh.creation.icosphere(2), mask=CLEAR)
    origin, direction = random_rays(200)
    near, far = np.zeros(200, np.float32), np.full(200, 100, np.float32)
    assert scene.blocked(origin, direction, near, far, OPAQUE).sum() == 0
    assert scene.blocked(origin, direction, near, far, CLEAR).sum() > 50
    assert (scene.nearest(origin, direction, near, OPAQUE).instance == -1).all()


def test_rays_of_the_wrong_shape_are_refused() -> None:
    scene = scene_of(trimesh.creation.icosphere(1))
    origin, direction = random_rays(10)
    with pytest.raises(ValueError, match="rays need"):
        scene.nearest(origin, direction[:, :5], np.zeros(10, np.float32))
    with pytest.raises(ValueError, match="contiguous float32"):
        scene.nearest(origin.astype(float), direction, np.zeros(10, np.float32))


def test_an_empty_scene_is_hit_by_nothing() -> None:
    origin, direction = random_rays(10)
    assert (SceneRays([]).nearest(origin, direction, np.zeros(10, np.float32)).instance == -1).all()


def test_normals_of_a_sphere_point_outwards() -> None:
    mesh = trimesh.creation.icosphere(4)
    normals = vertex_normals(mesh.vertices.astype(np.float32), mesh.faces.astype(np.int32))
    assert (normals * mesh.vertices).sum(axis=1).min() > np.cos(np.radians(1))


@pytest.mark.parametrize(
    ("vertices", "faces", "words"),
    [
        ([[0, 0, 0]], np.zeros((0, 3)), "no faces"),
        (np.zeros((0, 3)), [[0, 0, 0]], "no points"),
        ([[0, 0, 0], [1, np.nan, 0], [0, 1, 0]], [[0, 1, 2]], "1 of 3 points are not finite"),
        ([[0, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 3]], "does not exist"),
    ],
)
def test_geometry_that_makes_no_sense_is_refused(vertices: object, faces: object, words: str) -> None:
    with pytest.raises(MeshError, match=words):
        make_mesh(vertices, faces)  # type: ignore[arg-type]
