"""What lies under one place of the picture, and finding the same surface point again after edits and camera moves."""

from dataclasses import dataclass

import numpy as np

from texallon.core.document.resolved import ResolvedShot
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.rays import OPAQUE, Hits
from texallon.core.kernel import Array
from texallon.core.render.camera.view import View
from texallon.core.render.scene.hit_points import ReliefOfLooks, point_data
from texallon.core.render.scene.scene import SEEN, Scene
from texallon.core.render.scene.surface import Surface, surface_at
from texallon.core.signal.reading import Reading, ReadingPlan
from texallon.core.signal.run import evaluate


@dataclass(frozen=True)
class Picked:
    """A surface point by object, face and place on the face, and which of the object's copies, so that it stays when the object or camera moves."""

    object: str
    face: int
    barycentric: tuple[float, float]
    copy: int = 0


def pick(scene: Scene, view: View, across: float, down: float, through: bool) -> Picked | None:
    """The first surface behind a place of the picture (0…1 from the top left); `through` looks past clear surfaces.

    Parameters
    ----------
    scene : Scene
        What stands where.
    view : View
        The camera's rays.
    across : float
        0…1 from the left.
    down : float
        0…1 from the top.
    through : bool
        Whether clear surfaces are looked past.
    """
    eye, right, up, forward = view.basis
    way = forward + (across * 2 - 1) * right + (1 - down * 2) * up
    origin = np.ascontiguousarray(eye[:, None], np.float32)
    direction = np.ascontiguousarray((way / np.linalg.norm(way))[:, None], np.float32)
    hits = scene.rays.nearest(origin, direction, np.zeros(1, np.float32), OPAQUE if through else SEEN)
    instance = int(hits.instance[0])
    if not 0 <= instance < scene.objects:
        return None
    name = scene.of_instance(instance).item.name
    place = (float(hits.barycentric[0, 0]), float(hits.barycentric[1, 0]))
    return Picked(name, int(hits.face[0]), place, _numbers(scene, name).index(instance))


def _numbers(scene: Scene, name: str) -> list[int]:
    """The numbers of an object's instances in a scene."""
    found: list[int] = []
    for each, start in zip(scene.instances, scene.starts[:-1].tolist(), strict=True):
        if each.item.name == name:
            found += range(start, start + len(each))
    return found


def find(scene: Scene, picked: Picked) -> Hits | None:
    """The picked point as a hit; nothing where its object is gone, hidden, or has fewer faces now.

    Parameters
    ----------
    scene : Scene
        What stands where.
    picked : Picked
        By object, face and place on it.
    """
    numbers = _numbers(scene, picked.object)
    if picked.copy >= len(numbers):
        return None
    instance = numbers[picked.copy]
    if picked.face >= len(scene.distinct[scene.of_instance(instance).mesh_number].faces):
        return None
    return Hits(
        np.zeros(1, np.float32),
        np.array([[picked.barycentric[0]], [picked.barycentric[1]]], np.float32),
        np.array([instance], np.int32),
        np.array([picked.face], np.int32),
    )


@dataclass(frozen=True)
class PointReading:
    """A reading with where it was taken: the object, its part (empty where it has but one), its look, the position in metres and the normal."""

    object: str
    part: str
    look: str
    position: Array
    normal: Array
    reading: Reading

    def nearer(self, other: "PointReading", view: View) -> bool:
        """Whether it lies nearer to the eye than another.

        Parameters
        ----------
        other : PointReading
            The other.
        view : View
            The camera's rays.
        """
        eye = view.basis[0]
        return float(((self.position - eye) ** 2).sum()) < float(((other.position - eye) ** 2).sum())


def read_point(
    shot: ResolvedShot, scene: Scene, view: View, picked: Picked, relief: ReliefOfLooks | None = None
) -> PointReading | None:
    """Every value at a picked point; nothing where the point is gone.

    Parameters
    ----------
    shot : ResolvedShot
        At its time.
    scene : Scene
        What stands where.
    view : View
        The camera's rays.
    picked : Picked
        By object, face and place on it.
    relief : ReliefOfLooks, optional
        What masks may follow.
    """
    hits = find(scene, picked)
    if hits is None:
        return None
    surface: Surface = surface_at(scene, hits)
    away = view.basis[0] - surface.position[:, 0]
    distance = float(np.linalg.norm(away))
    more = {
        "view": np.ascontiguousarray((away / max(distance, 1e-9))[:, None], np.float32),
        "footprint": np.full((1, 1), distance * view.pixel_angle, np.float32),
    }
    look = shot.looks[int(surface.look[0])]
    wanted = ReadingPlan(shot, look)
    plan = wanted.plan
    points = plan.points(1, point_data(scene, hits, surface, plan.required_data, more, relief), scene.data)
    values = evaluate(plan, points)
    reading = wanted.read(values, points)
    part = _part(scene.distinct[scene.of_instance(int(hits.instance[0])).mesh_number], int(hits.face[0]))
    return PointReading(picked.object, part, look.name, surface.position[:, 0], surface.normal[:, 0], reading)


def _part(mesh: Mesh, face: int) -> str:
    """The part that a face is of; empty where the mesh has but one."""
    if mesh.part_of_face is None or len(mesh.part_names) < 2:
        return ""
    return mesh.part_names[int(mesh.part_of_face[face])]
