"""What lies below a thing: how far it drops until it rests, and how the surface leans there."""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from texallon.core.document.resolved import ResolvedShot
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.rays import SceneRays
from texallon.core.render.files import Files
from texallon.core.render.graph import make_scene
from texallon.core.signal.placement import Places

Floats = npt.NDArray[np.float64]

MOST_POINTS = 200_000
"""Vertices of a thing, and of what lies below it, that are looked from; of more, evenly chosen ones."""


@dataclass(frozen=True)
class Rest:
    """`metres` to go down (negative: up, out of what it stands in) until it touches, and the surface's unit `normal` there."""

    metres: float
    normal: tuple[float, float, float]


def find_rest(shot: ResolvedShot, names: frozenset[str], files: Files, at: Floats | None = None) -> Rest | None:
    """Where objects come to rest that go straight down as one, or a point that has no body.

    From every vertex of theirs it is looked down from the height of their top for what lies below, and from every vertex of what lies below
    up to them: between mesh vertices of both neither can pass unseen but where an edge crosses an edge.

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
    if not below.shown:
        return None
    places = Places(shot)
    if at is not None:
        mine = np.asarray(at, np.float64).reshape(3, 1)
        moving = None
    else:
        moving = make_scene(shot.model_copy(update={"objects": own, "lights": []}), files)
        if not moving.shown:
            return None
        mine = _points(places, [(item.name, mesh) for item, mesh in zip(moving.shown, moving.meshes, strict=True)])
    top = float(mine[1].max()) + 1e-3
    found: list[tuple[float, Floats]] = []
    reach = _look(below.rays, mine, top, -1.0)
    met = np.isfinite(reach)
    if met.any():
        gaps = np.where(met, mine[1] - (top - reach), np.inf)
        least = int(np.argmin(gaps))
        found.append((float(gaps[least]), mine[:, least]))
    if moving is not None:
        theirs = _points(places, [(item.name, mesh) for item, mesh in zip(below.shown, below.meshes, strict=True)])
        low, high = mine.min(axis=1), mine.max(axis=1)
        under = (theirs[0] >= low[0]) & (theirs[0] <= high[0]) & (theirs[2] >= low[2]) & (theirs[2] <= high[2])
        theirs = theirs[:, under & (theirs[1] < top)]
        if theirs.shape[1]:
            ground = float(min(theirs[1].min(), low[1])) - 1e-3
            up = _look(moving.rays, theirs, ground, 1.0)
            gaps = np.where(np.isfinite(up), ground + up - theirs[1], np.inf)
            least = int(np.argmin(gaps))
            if np.isfinite(gaps[least]):
                found.append((float(gaps[least]), theirs[:, least]))
    if not found:
        return None
    metres, place = min(found, key=lambda each: each[0])
    return Rest(metres, _normal(below.rays, place, top))


def _look(rays: SceneRays, points: Floats, height: float, way: float) -> Floats:
    """Distances `(n,)` from a height straight down (−1) or up (1) at the points' places; infinite where nothing is met."""
    origin = points.astype(np.float32).copy()
    origin[1] = height
    direction = np.zeros_like(origin)
    direction[1] = way
    hits = rays.nearest(np.ascontiguousarray(origin), direction, np.zeros(origin.shape[1], np.float32))
    return np.where(hits.instance >= 0, hits.distance, np.inf).astype(np.float64)


def _normal(rays: SceneRays, place: Floats, top: float) -> tuple[float, float, float]:
    """How the surface below a place leans: from three looks a millimetre apart."""
    aside = np.array([[0.0, 1e-3, 0.0], [0.0, 0.0, 0.0], [0.0, 0.0, 1e-3]])
    down = _look(rays, place.reshape(3, 1) + aside, top, -1.0)
    if not np.isfinite(down).all() or np.ptp(down) > 0.02:
        return (0.0, 1.0, 0.0)
    normal = np.array([(down[1] - down[0]) / 1e-3, 1.0, (down[2] - down[0]) / 1e-3])
    normal /= np.linalg.norm(normal)
    return float(normal[0]), float(normal[1]), float(normal[2])


def _points(places: Places, things: list[tuple[str, Mesh]]) -> Floats:
    """Vertices `(3, n)` in the world."""
    made = []
    for name, mesh in things:
        vertices = mesh.vertices[:: max(len(mesh.vertices) // MOST_POINTS, 1)].astype(np.float64)
        matrix = places.object(name)
        made.append(matrix[:3, :3] @ vertices.T + matrix[:3, 3:])
    return np.concatenate(made, axis=1)
