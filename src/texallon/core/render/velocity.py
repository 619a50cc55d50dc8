"""How fast what the camera sees moves in the picture, in pixels a frame.

The difference of where the same point of a surface is seen half a frame later and half a frame earlier, whatever moves it: itself, what it
stands in, its own bending, or the camera. What lies behind everything is infinitely far, and moves as the camera turns.
"""

import numpy as np
import numpy.typing as npt

from texallon.core.document.resolved import resolve
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Integers
from texallon.core.render.graph import FrameGraph
from texallon.core.render.scene.scene import Scene
from texallon.core.render.scene.surface import positions_at
from texallon.core.render.shutter import held_still
from texallon.core.render.transport.primary import primary_hits

HALF = 0.5
"""Of a frame, before and after."""

Doubles = npt.NDArray[np.float64]


def velocity_pass(graph: FrameGraph, width: int, height: int) -> Array:
    """Pixels a frame to the right and downwards, of the first surface behind each pixel's sample.

    Points that are not there half a frame away (of geometry whose faces change, or of copies that come and go) move as the camera alone has it.

    Parameters
    ----------
    graph : FrameGraph
        Of the shot at a frame.
    width : int
        Pixels across.
    height : int
        Pixels down.

    Returns
    -------
    Array
        `(height, width, 2)`.
    """
    shot, scene = graph.shot, graph.scene
    pixels = np.arange(width * height, dtype=np.int32)
    origin, direction, hits = primary_hits(scene.rays, graph.view(width, height).sharp, shot.seed, 0, pixels)
    met = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
    lamps = np.flatnonzero(hits.instance >= scene.objects)
    of_objects = hits.take(met)
    seen = []
    for step in (-HALF, HALF):
        then = _graph_at(graph, step)
        view = then.view(width, height).sharp
        # What lies behind everything is in the same direction from wherever the eye is.
        away = direction.T.astype(np.float64)
        away[lamps] = (origin + direction * hits.distance)[:, lamps].T - view.basis[0]
        away[met] = _places_then(scene, then.scene, of_objects) - view.basis[0]
        seen.append(view.places(away)[0] * (width, height))
    # What passes the eye is nowhere in the picture.
    moved = np.nan_to_num((seen[1] - seen[0]) / (2 * HALF))
    return np.ascontiguousarray(moved.reshape(height, width, 2), np.float32)


def _places_then(scene: Scene, then: Scene, hits: Hits) -> Doubles:
    """Where hits on objects lie at another time, `(n, 3)`; those that have no partner there stay where they are."""
    if not len(hits.instance):
        return np.zeros((0, 3))
    places = positions_at(scene, hits).position.T.astype(np.float64)
    number = _same_instances(scene, then)[hits.instance]
    known = np.flatnonzero(number >= 0)
    if len(known):
        there = hits.take(known)._replace(instance=np.ascontiguousarray(number[known]))
        places[known] = positions_at(then, there).position.T
    return places


def _graph_at(graph: FrameGraph, step: float) -> FrameGraph:
    shot = graph.shot
    assert shot.document is not None, "a shot that was resolved knows its document"
    moved = held_still(resolve(shot.document, shot.time.frame + step), shot)
    return graph.at(moved)


def _same_instances(scene: Scene, then: Scene) -> Integers:
    """The number at another time of each instance, `(i,)`; −1 where it is not there, or its mesh has other faces."""
    found: dict[tuple[str, int, tuple[int, int]], int] = {}
    for start, each in zip(then.starts.tolist(), then.instances, strict=False):
        shape = _shape_of(then, each.mesh_number)
        found |= {(each.item.name, number, shape): start + place for place, number in enumerate(each.numbers.tolist())}
    numbers = np.full(scene.objects, -1, np.int32)
    for start, each in zip(scene.starts.tolist(), scene.instances, strict=False):
        shape = _shape_of(scene, each.mesh_number)
        for place, number in enumerate(each.numbers.tolist()):
            numbers[start + place] = found.get((each.item.name, number, shape), -1)
    return numbers


def _shape_of(scene: Scene, mesh_number: int) -> tuple[int, int]:
    mesh = scene.distinct[mesh_number]
    return len(mesh.vertices), len(mesh.faces)
