"""What lies round the eye: the clear bodies that it stands in, so that a path can begin inside them."""

from collections import Counter

import numpy as np

from texallon.core.geometry.rays import CLEAR
from texallon.core.kernel import Array, Int, kernel
from texallon.core.render.scene.scene import Scene
from texallon.core.render.scene.surface import beyond, surface_at
from texallon.core.render.surface.materials import Materials
from texallon.core.shade.media.nesting import FIELDS, NESTED, enter
from texallon.core.shade.rows import METALNESS, THIN_WALLED, TRANSMISSION_WEIGHT

PROBES = np.array(
    [[0.36, 0.48, 0.8], [-0.6, 0.64, -0.48], [0.28, -0.6, -0.7493], [-0.8, -0.36, 0.48], [0.64, 0.6, -0.48]]
)
"""Directions that lie along no axis: a body counts where most of them leave it once more than they enter it."""

MOST_SURFACES = 256
"""Boundaries that a probing ray is followed through."""


def media_at_point(scene: Scene, materials: Materials, point: Array) -> Array:
    """The media that a path carries which begins at a point.

    Parameters
    ----------
    scene : Scene
        What stands where.
    materials : Materials
        Looks at work.
    point : Array
        World position `(3,)`, metres.

    Returns
    -------
    Array
        `(NESTED * FIELDS, 1)` as in `shade.media.nesting`, the bodies whose boundary lies farthest entered first; no rows where the scene has no
        clear bodies.
    """
    if not scene.has_media:
        return np.zeros((0, 1), np.float32)
    media = np.zeros((NESTED * FIELDS, 1), np.float32)
    found: list[dict[int, tuple[float, Array]]] = []
    for probe in PROBES:
        found.append(_left_by(scene, materials, point, probe / np.linalg.norm(probe)))
    votes = Counter(instance for each in found for instance in each)
    inside = [instance for instance, count in votes.items() if 2 * count > len(PROBES)]
    exits = {k: [each[k] for each in found if k in each] for k in inside}
    for instance in sorted(inside, key=lambda k: -float(np.median([away for away, _ in exits[k]]))):
        column = min(exits[instance], key=lambda each: each[0])[1]
        enter_one(media, instance + 1, int(scene.priority[instance]), column)
    return media


def _left_by(scene: Scene, materials: Materials, point: Array, way: Array) -> dict[int, tuple[float, Array]]:
    """The bodies that a ray leaves more often than it enters them: how far off it first leaves, and the material there."""
    origin = np.ascontiguousarray(np.asarray(point, np.float32)[:, None])
    direction = np.ascontiguousarray(np.asarray(way, np.float32)[:, None])
    near, balance = np.zeros(1, np.float32), Counter[int]()
    exits: dict[int, tuple[float, Array]] = {}
    for _ in range(MOST_SURFACES):
        hits = scene.rays.nearest(origin, direction, near, CLEAR)
        instance = int(hits.instance[0])
        if not 0 <= instance < scene.objects:
            break
        surface = surface_at(scene, hits)
        more = {"view": -direction, "footprint": np.zeros((1, 1), np.float32)}
        column = materials.rows(scene, hits, surface, more, False)
        clear = column[TRANSMISSION_WEIGHT, 0] > 0 and column[METALNESS, 0] < 1 and column[THIN_WALLED, 0] < 0.5
        if clear:
            leaves = float((direction * surface.flat).sum()) > 0
            balance[instance] += 1 if leaves else -1
            if leaves and instance not in exits:
                exits[instance] = float(hits.distance[0]), column
        near = beyond(hits, surface)
    return {instance: exits[instance] for instance, count in balance.items() if count > 0 and instance in exits}


@kernel
def enter_one(media: Array, body: Int, priority: Int, m: Array) -> None:
    """Let one path enter a body.

    Parameters
    ----------
    media : Array
        `(NESTED × FIELDS, n)`, changed in place.
    body : int
        Number of the instance, from 1.
    priority : int
        Of the body.
    m : Array
        `(MATERIAL, n)` material rows.
    """
    enter(media, 0, body, priority, m, 0)
