"""What lies below a thing: how far it drops until it rests, and how the surface leans there."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from texallon.core.document.resolved import ResolvedShot
from texallon.core.geometry.rays import SceneRays
from texallon.core.render.files import Files
from texallon.core.render.graph import make_scene
from texallon.core.render.scene.scene import Scene

Floats = npt.NDArray[np.float64]

START = 1e-4
"""Metres above a point from which it is looked down, so that what it stands upon is met."""

MOST_POINTS = 200_000
"""Vertices of a thing, and of what lies below it, that are looked from; of more, evenly chosen ones."""


@dataclass(frozen=True)
class Rest:
    """`metres` to go down (negative: up, out of what it stands in) until it touches, and the surface's unit `normal` there."""

    metres: float
    normal: tuple[float, float, float]


def find_rest(shot: ResolvedShot, names: frozenset[str], files: Files, at: Floats | None = None) -> Rest | None:
    """Where objects come to rest that go straight down as one, or a point that has no body.

    From every vertex of theirs it is looked down for what lies below, and from every vertex of what lies below up to them: only where an
    edge crosses an edge may both pass unseen. What stands in something is lifted out of it: a vertex of theirs stands in it where, straight
    up from just within their own body, the other's surface comes before their own.

    Parameters
    ----------
    shot : ResolvedShot
        All that is shown counts, but lamps.
    names : frozenset of str
        The objects that go down; empty where a point does.
    files : Files
        Where meshes are read from.
    at : Array, optional
        `(3,)` the point, metres in the world.

    Returns
    -------
    Rest or None
        Nothing where nothing lies below.
    """
    others = [item for item in shot.objects if item.name not in names]
    own = [item for item in shot.objects if item.name in names]
    below = make_scene(shot.model_copy(update={"objects": others, "lights": []}), files)
    if not below.instances:
        return None
    if at is not None:
        point = np.asarray(at, np.float64).reshape(3, 1)
        (gap,) = _look(below.rays, point, -1.0)
        return Rest(float(gap), _normal(below.rays, point[:, 0])) if np.isfinite(gap) else None
    moving = make_scene(shot.model_copy(update={"objects": own, "lights": []}), files)
    if not moving.instances:
        return None
    mine = _points(moving)
    sunk = _sunk(mine, moving.rays, below.rays)
    if sunk.max(initial=0.0) > 0:
        deepest = int(np.argmax(sunk))
        place = mine[:, deepest] + [0.0, float(sunk[deepest]), 0.0]
        return Rest(-float(sunk[deepest]), _normal(below.rays, place))
    gaps = _look(below.rays, mine, -1.0)
    found = [(float(gaps.min()), mine[:, int(np.argmin(gaps))])]
    theirs = _points(below)
    low, high = mine.min(axis=1), mine.max(axis=1)
    under = (theirs[0] >= low[0]) & (theirs[0] <= high[0]) & (theirs[2] >= low[2]) & (theirs[2] <= high[2])
    theirs = theirs[:, under & (theirs[1] < high[1])]
    if theirs.shape[1]:
        up = _look(moving.rays, theirs, 1.0)
        found.append((float(up.min()), theirs[:, int(np.argmin(up))]))
    metres, place = min(found, key=lambda each: each[0])
    return Rest(metres, _normal(below.rays, place)) if np.isfinite(metres) else None


def _sunk(points: Floats, own: SceneRays, other: SceneRays) -> Floats:
    """How deep each vertex stands in something else, metres `(n,)`; 0 for those that don't."""
    middle = points.mean(axis=1, keepdims=True)
    within = points + (middle - points) * 1e-3
    to_other, to_own = _look(other, within, 1.0), _look(own, within, 1.0)
    deep = np.where((to_other < to_own) & np.isfinite(to_own), to_other + (within[1] - points[1]), 0.0)
    return np.where(deep > 2e-3, deep, 0.0)


def _look(rays: SceneRays, points: Floats, way: float) -> Floats:
    """Distances `(n,)` from points straight down (−1) or up (1), from a tenth of a millimetre on the other side; infinite where nothing is
    met."""
    origin = points.astype(np.float32).copy()
    origin[1] -= np.float32(way * START)
    direction = np.zeros_like(origin)
    direction[1] = way
    hits = rays.nearest(np.ascontiguousarray(origin), direction, np.zeros(origin.shape[1], np.float32))
    return np.where(hits.instance >= 0, hits.distance - START, np.inf).astype(np.float64)


def _normal(rays: SceneRays, place: Floats) -> tuple[float, float, float]:
    """How the surface below a place leans: from three looks a millimetre apart."""
    aside = np.array([[0.0, 1e-3, 0.0], [2e-3, 2e-3, 2e-3], [0.0, 0.0, 1e-3]])
    down = _look(rays, place.reshape(3, 1) + aside, -1.0)
    if not np.isfinite(down).all() or np.ptp(down) > 0.02:
        return (0.0, 1.0, 0.0)
    normal = np.array([(down[1] - down[0]) / 1e-3, 1.0, (down[2] - down[0]) / 1e-3])
    normal /= np.linalg.norm(normal)
    return float(normal[0]), float(normal[1]), float(normal[2])


def _points(scene: Scene) -> Floats:
    """Vertices `(3, n)` of everything that stands in a scene, in the world; of many, evenly chosen ones."""
    made = []
    for each in scene.instances:
        mesh = scene.distinct[each.mesh_number]
        step = max(len(mesh.vertices) * len(each) // MOST_POINTS, 1)
        vertices = mesh.vertices[:: min(step, max(len(mesh.vertices) // 8, 1))].astype(np.float64)
        matrices = each.matrices[:: max(len(vertices) * len(each) // MOST_POINTS, 1)].astype(np.float64)
        placed = vertices @ matrices[:, :, :3].transpose(0, 2, 1) + matrices[:, None, :, 3]
        made.append(placed.reshape(-1, 3).T)
    return np.concatenate(made, axis=1)
