"""Surfaces that shine as lights to be asked: which faces, and how likely each.

A face's chance follows its light at a few places times its area, with a small even share, as what a mask makes of the rest of a face
is not known. Scattered rays find whatever that misses, so no light is lost (multiple importance sampling).
"""

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from texallon.core.derived import derived
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Integers
from texallon.core.render.light.emitters import Emitters
from texallon.core.render.light.lights import Lights
from texallon.core.render.light.volume_lights import VolumeLights
from texallon.core.render.scene.scene import Scene
from texallon.core.render.scene.surface import surface_at
from texallon.core.render.surface.emission import Emission

Floats = npt.NDArray[np.float64]

EVEN = 0.05
"""Share of asking that goes to faces by area alone."""

MOST_WITH_CORNERS = 60_000
"""Faces up to which more than one place of each is looked at."""

MOST_ASKED = 2_000_000
"""Faces of one object's instances; of more none is asked, and their light is found by the rays that meet them."""

SAMPLE_POINTS = ((1 / 3, 1 / 3), (0.6, 0.2), (0.2, 0.6), (0.2, 0.2))


@dataclass(frozen=True)
class MeshLights:
    """`cumulative (f + 1,)` chances of faces, their corners in the world `(f, 9)`, chance per square metre `per_area (f,)`, instance
    `(f,)`; `first (i,)` where an instance's faces begin, −1 where it does not shine; `power` in watts, about."""

    cumulative: Array
    corners: Array
    per_area: Array
    instance: Integers
    first: Integers
    power: float


@dataclass(frozen=True)
class ShiningFaces:
    """The faces of all instances of one mesh of an object, those of each instance after those of the one before: `corners (f, 9)` in the
    world, `power (f,)` about, and `area (f,)`, 0 of those that can't shine."""

    corners: Array
    power: Floats
    area: Floats
    instances: int


@derived("shining faces")
def shining_faces(scene: Scene, number: int, emission: Emission) -> ShiningFaces | None:
    """The shining faces of an object's instances; nothing where it is dark, or has too many to ask each.

    Parameters
    ----------
    scene : Scene
        What stands where; of this nothing but the instances themselves is read, unless emission depends on what lies about them.
    number : int
        Of the mesh's instances, among those of the scene.
    emission : Emission
        The light that looks send out.
    """
    own = scene.instances[number]
    mesh, start = scene.distinct[own.mesh_number], int(scene.starts[number])
    shining = np.array([emission.emits(int(each)) for each in scene.geometry.look_of_part[start]])
    parts = np.zeros(len(mesh.faces), np.int32) if mesh.part_of_face is None else mesh.part_of_face
    # Spheres have no faces to ask: what they send out is found by the rays that meet them.
    if not shining[parts].any() or own.round or len(mesh.faces) * len(own) > MOST_ASKED:
        return None
    matrices = own.matrices.transpose(0, 2, 1)
    world = (mesh.vertices @ matrices[:, :3] + matrices[:, 3:]).astype(np.float32)[:, mesh.faces].reshape(-1, 3, 3)
    area = 0.5 * np.linalg.norm(np.cross(world[:, 1] - world[:, 0], world[:, 2] - world[:, 0]), axis=1)
    count = len(world)
    bright = np.zeros(count)
    points = SAMPLE_POINTS if count <= MOST_WITH_CORNERS else SAMPLE_POINTS[:1]
    faces = np.flatnonzero(shining[parts])
    on = (np.arange(len(own))[:, None] * len(mesh.faces) + faces).ravel()
    instance = np.repeat(np.arange(start, start + len(own), dtype=np.int32), len(faces))
    for u, v in points:
        barycentric = np.tile(np.array([[u], [v]], np.float32), (1, len(on)))
        face = np.tile(faces, len(own)).astype(np.int32)
        hits = Hits(np.ones(len(on), np.float32), barycentric, instance, face)
        surface = surface_at(scene, hits)
        width = np.sqrt(area[on] / len(points)).astype(np.float32)
        light = emission.radiance(scene, hits, surface, {"view": surface.normal.copy(), "footprint": width[None]})
        bright[on] += light.max(axis=0) / len(points)
    if not bright.any():
        return None
    can = np.tile(shining[parts], len(own))
    return ShiningFaces(world.reshape(count, 9), bright * area, np.where(can, area, 0), len(own))


@derived("mesh lights")
def make_mesh_lights(shining: tuple[ShiningFaces | None, ...], starts: tuple[int, ...], instances: int) -> MeshLights:
    """The shining faces of a scene.

    Parameters
    ----------
    shining : tuple of ShiningFaces
        Of some objects' instances.
    starts : tuple of int
        The number of the first instance of each, in order.
    instances : int
        How many there are in all.
    """
    first = np.full(max(instances, 1), -1, np.int32)
    lit = [(number, faces) for number, faces in zip(starts, shining, strict=True) if faces is not None]
    if not lit:
        none = np.zeros(0, np.float32)
        return MeshLights(
            np.zeros(1, np.float32), np.zeros((0, 9), np.float32), none, np.zeros(0, np.int32), first, 0.0
        )
    numbers = np.concatenate([np.arange(start, start + faces.instances) for start, faces in lit])
    counts = np.concatenate([np.full(faces.instances, len(faces.area) // faces.instances) for _, faces in lit])
    first[numbers] = np.cumsum(counts) - counts
    power, area = (np.concatenate([getattr(faces, what) for _, faces in lit]) for what in ("power", "area"))
    chance = (1 - EVEN) * power / power.sum() + EVEN * area / area.sum()
    cumulative = np.concatenate([[0], np.cumsum(chance)]) / chance.sum()
    rounded = cumulative.astype(np.float32)
    chance = np.diff(rounded.astype(np.float64))  # as it is drawn, after rounding
    per_area = np.divide(chance, area, out=np.zeros_like(chance), where=area > 0)
    return MeshLights(
        rounded,
        np.ascontiguousarray(np.concatenate([faces.corners for _, faces in lit]), np.float32),
        per_area.astype(np.float32),
        np.repeat(numbers, counts).astype(np.int32),
        first,
        float(power.sum() * np.pi),
    )


def join_emitters(
    lights: Lights, mesh_lights: MeshLights, scene: Scene, volumes: VolumeLights, reach: Array
) -> Emitters:
    """All light sources; surfaces and volumes that shine share in the asking by their power, and get at least an even part.

    Parameters
    ----------
    lights : Lights
        The environment and the lamps.
    mesh_lights : MeshLights
        Surfaces that shine.
    scene : Scene
        What stands where.
    volumes : VolumeLights
        Volumes that shine.
    reach : Array
        `(l,)` metres about each lamp: see `Emitters`.
    """
    chance = np.append(lights.chance, 0.0).astype(np.float64)
    count, others = int(np.count_nonzero(lights.chance)), lights.power
    if mesh_lights.power > 0:
        share = asked(mesh_lights.power, others, count)
        chance = np.append(lights.chance * (1 - share), share)
        count, others = count + 1, others + mesh_lights.power
    if volumes.power > 0:
        chance *= 1 - asked(volumes.power, others, count)
    return Emitters(
        lights.picture, lights.rows, lights.columns, lights.density, lights.rotation, lights.tilt, lights.background, lights.lamps,
        lights.areas, chance.astype(np.float32), lights.group, scene.group, mesh_lights.cumulative, mesh_lights.corners, mesh_lights.per_area,
        mesh_lights.first, mesh_lights.instance, lights.peak, volumes, reach,
    )  # fmt: skip


def asked(power: float, others: float, count: int) -> float:
    """The share of asking for light that goes to one more kind of light: by its power, and at least an even part.

    Parameters
    ----------
    power : float
        Of its own, watts, about.
    others : float
        Of all others.
    count : int
        Of the others.
    """
    return 1.0 if others <= 0 else 0.5 * power / (power + others) + 0.5 / (1 + count)
