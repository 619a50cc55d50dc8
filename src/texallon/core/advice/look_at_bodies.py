"""How bodies meet: copies that are wider than they stand apart, and skins that reach into each other."""

from dataclasses import dataclass
from itertools import combinations

import numpy as np

from texallon.core.document.array import SurfaceArray
from texallon.core.render.scene.scene import MeshInstances, Scene

MOST_POINTS = 600
"""Of a skin, that are looked whether they lie in another."""


@dataclass(frozen=True)
class Crowd:
    """Copies of an object on a surface: how wide a middling one is, and how far they stand apart, metres."""

    object: str
    wide: float
    apart: float


@dataclass(frozen=True)
class Overlap:
    """Two objects with skins, and the share of the first's points that lie within the second."""

    one: str
    other: str
    share: float


@dataclass(frozen=True)
class Bodies:
    """What was noticed of how bodies meet."""

    crowds: tuple[Crowd, ...] = ()
    overlaps: tuple[Overlap, ...] = ()


def look_at_bodies(scene: Scene) -> Bodies:
    """How the bodies of a scene meet.

    Parameters
    ----------
    scene : Scene
        What stands where.
    """
    crowds = [
        Crowd(each.item.name, _width(scene, each), each.item.array.apart)
        for each in scene.instances
        if isinstance(each.item.array, SurfaceArray)
    ]
    skins = [each for each in scene.instances if each.item.particles is not None and each.item.particles.skin]
    pairs = [
        Overlap(one.item.name, other.item.name, share)
        for one, other in combinations(skins, 2)
        if one.item.name != other.item.name and (share := _within(scene, one, other)) > 0
    ]
    return Bodies(tuple(crowds), tuple(pairs))


def _width(scene: Scene, copies: MeshInstances) -> float:
    """Across a middling copy, along the surface."""
    low, high = scene.distinct[copies.mesh_number].bounds
    sizes = np.linalg.norm(copies.matrices[:, :, :3], axis=1)  # of each axis of each copy
    middling = np.median(sizes, axis=0) * (high - low)
    return float(max(middling[0], middling[2]))


def _within(scene: Scene, one: MeshInstances, other: MeshInstances) -> float:
    mesh = scene.distinct[one.mesh_number]
    some = mesh.vertices[:: max(len(mesh.vertices) // MOST_POINTS, 1)]
    matrix = one.matrices[0]
    places = np.ascontiguousarray((some @ matrix[:, :3].T + matrix[:, 3]).T, np.float32)
    for surface in scene.data.surface(other.item.name):
        return float((surface.distance(places, 1e3, "signed") < 0).mean())
    return 0.0
