"""Reading every value at one place in a volume: where its cut lies under a place of the picture."""

from dataclasses import dataclass

import numpy as np

from texallon.core.render.camera.pick import PointReading
from texallon.core.render.camera.view import View
from texallon.core.render.cut_volumes import depth_seen
from texallon.core.render.shot_volumes import ShotVolumes
from texallon.core.render.volume.inside import inside
from texallon.core.render.volume.seen_depth import depth_at
from texallon.core.render.volume.slices import cut_depth
from texallon.core.render.volume.volume_points import VolumeSpace
from texallon.core.signal.reading import ReadingPlan
from texallon.core.signal.run import evaluate

AIR = "air"
"""What the atmosphere is called, which is no object."""


@dataclass(frozen=True)
class PickedInVolume:
    """A place in a volume: the number of what is filled, and the place in its own space, so that it stays when the volume or the camera moves."""

    container: int
    own: tuple[float, float, float]


def pick_on_cut(
    filled: ShotVolumes, view: View, share: float | None, across: float, down: float
) -> PickedInVolume | None:
    """The place on the cut behind a place of the picture (0…1 from the top left); nothing where no volume is cut, or a surface lies nearer.

    Parameters
    ----------
    filled : ShotVolumes
        The volumes.
    view : View
        The camera's rays.
    share : float or None
        Where they are cut, 0 (near) … 1 (far); None: as deep as the camera sees.
    across : float
        0…1 from the left.
    down : float
        0…1 from the top.
    """
    containers = filled.containers
    if not containers:
        return None
    eye, right, up, forward = (each.astype(np.float64) for each in view.basis)
    way = forward + (across * 2 - 1) * right + (1 - down * 2) * up
    depth = cut_depth(containers, eye, forward, 0.5 if share is None else share)
    if share is None:
        depth = depth_at(filled.store.value(depth_seen(filled, view)), across, down, depth)
    place = eye + way * (depth / float(way @ forward))
    for number, each in enumerate(containers):
        full = np.vstack([each.matrix, [0, 0, 0, 1]]).astype(np.float64)
        own = np.ascontiguousarray((np.linalg.inv(full) @ [*place, 1.0])[:3, None], np.float32)
        if inside(each, own)[0]:
            return PickedInVolume(number, (float(own[0, 0]), float(own[1, 0]), float(own[2, 0])))
    return None


def read_in_volume(filled: ShotVolumes, view: View, picked: PickedInVolume) -> PointReading | None:
    """Every value at a place in a volume; nothing where that is gone.

    Parameters
    ----------
    filled : ShotVolumes
        The volumes.
    view : View
        The camera's rays.
    picked : PickedInVolume
        By what is filled, and the place there.
    """
    if picked.container >= len(filled.containers):
        return None
    container = filled.containers[picked.container]
    own = np.array(picked.own, np.float32)[:, None]
    world = container.matrix[:, :3].astype(np.float64) @ own[:, 0] + container.matrix[:, 3]
    away = view.basis[0].astype(np.float64) - world
    distance = float(np.linalg.norm(away))
    look = filled.shot.looks[container.look]
    wanted = ReadingPlan(filled.shot, look)
    plan = wanted.plan
    footprint = np.full((1, 1), distance * view.pixel_angle, np.float32)
    data = VolumeSpace(container.matrix, filled.data).point_data(plan.required_data, own, footprint)
    points = plan.points(1, data, filled.data)
    reading = wanted.read(evaluate(plan, points), points)
    towards = (away / max(distance, 1e-9)).astype(np.float32)
    return PointReading(container.name or AIR, "", look.name, world.astype(np.float32), towards, reading)
