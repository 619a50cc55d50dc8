"""Search structures for rays: one for each mesh, and one of their instances."""

from texallon.core.derived import Cost, derived
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.particles import Particles
from texallon.core.geometry.rays import MeshRays, Placed, SceneRays, SphereRays
from texallon.core.kernel import Array
from texallon.core.render.scene.lamp_shapes import LampShape, lamp_mesh


@derived("search structure")
def search_structure(mesh: Mesh) -> MeshRays:
    """The search structure of a mesh, in its own space.

    Parameters
    ----------
    mesh : Mesh
        In its own space.
    """
    return MeshRays(mesh.vertices, mesh.faces)


@derived("search structure of a lamp", cost=Cost.INSTANT)
def lamp_structure(shape: LampShape) -> MeshRays:
    """The search structure of what rays can meet of a lamp, in the world.

    Parameters
    ----------
    shape : LampShape
        What rays can meet of a lamp.
    """
    made = lamp_mesh(shape)
    assert made is not None
    return MeshRays(*made)


@derived("search structure of spheres")
def sphere_structure(particles: Particles) -> SphereRays:
    """The search structure of particles that are seen as spheres, in their object's space.

    Parameters
    ----------
    particles : Particles
        In their object's space.
    """
    return SphereRays(particles.positions, particles.radii)


@derived("acceleration structure")
def acceleration_structure(
    structures: tuple[MeshRays | SphereRays, ...], matrices: tuple[Array, ...], masks: tuple[int, ...]
) -> SceneRays:
    """Instances of search structures.

    Parameters
    ----------
    structures : tuple
        Of meshes, and of spheres.
    matrices : tuple of Array
        For each `(k, 3, 4)` into the world; of spheres one.
    masks : tuple of int
        Which rays meet the instances of each.
    """
    return SceneRays([Placed(*each) for each in zip(structures, matrices, masks, strict=True)])
