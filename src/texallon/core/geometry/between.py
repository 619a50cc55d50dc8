"""What lies between two files of a sequence: points on their way from the one to the other."""

from dataclasses import replace

import numpy as np

from texallon.core.derived import Cost, derived
from texallon.core.geometry.mesh import Floats, Mesh
from texallon.core.geometry.particles import particle_ids

VELOCITIES = ("velocity", "v")
"""Names of attributes, metres a second, by which particles are followed from file to file where they carry no numbers of their own."""


@derived("mesh between files", cost=Cost.SLOW)
def mesh_between(before: Mesh, after: Mesh, share: float, seconds: float) -> Mesh:
    """A mesh, or particles, at a moment between two files.

    Meshes of the same faces change linearly, with their attributes. Particles go to where those of the same number are (`particle_ids`); without such, those of
    equally many points are taken to be in the same order; what has no partner moves at its `velocity`, else stands. Of meshes whose faces
    differ the nearer is taken as it is.

    Parameters
    ----------
    before : Mesh
        At the earlier frame.
    after : Mesh
        At the later frame.
    share : float
        Of the way, 0…1.
    seconds : float
        Between the files.

    Returns
    -------
    Mesh
        With the points of the nearer file.
    """
    near, far, way = (before, after, share) if share < 0.5 else (after, before, 1 - share)
    if len(near.faces):
        if near.vertices.shape != far.vertices.shape or not np.array_equal(near.faces, far.faces):
            return near
        normals = _mixed(near.normals, far.normals, way)
        length = np.linalg.norm(normals, axis=1, keepdims=True)
        both = {
            name: _mixed(values, far.attributes[name], way)
            if name in far.attributes and far.attributes[name].shape == values.shape
            else values
            for name, values in near.attributes.items()
        }
        return replace(
            near,
            vertices=_mixed(near.vertices, far.vertices, way),
            normals=np.where(length > 1e-6, normals / np.maximum(length, 1e-6), near.normals).astype(np.float32),
            attributes=both,
        )
    onward = seconds * way if share < 0.5 else -seconds * way
    return replace(near, vertices=_moved_particles(near, far, way, onward))


def _mixed(near: Floats, far: Floats, way: float) -> Floats:
    return np.ascontiguousarray(near + (far - near) * np.float32(way), np.float32)


def _moved_particles(near: Mesh, far: Mesh, way: float, seconds: float) -> Floats:
    moved = near.vertices.copy()
    velocity = next((near.attributes[name] for name in VELOCITIES if name in near.attributes), None)
    if velocity is not None and velocity.shape[1] == 3:
        moved += velocity * np.float32(seconds)
    ids, others = particle_ids(near), particle_ids(far)
    if ids is not None and others is not None:
        order = np.argsort(others, kind="stable")
        found = order[np.minimum(np.searchsorted(others, ids, sorter=order), len(others) - 1)]
        same = others[found] == ids
        moved[same] = _mixed(near.vertices[same], far.vertices[found[same]], way)
    elif velocity is None and len(far.vertices) == len(near.vertices):
        moved = _mixed(near.vertices, far.vertices, way)
    return np.ascontiguousarray(moved, np.float32)
