"""Objects that float: where they lie at a frame, put over the placements of a resolved shot."""

from collections.abc import Callable

import numpy as np
import numpy.typing as npt
from scipy.spatial.transform import Rotation

from texallon.core.derived import Cost, Derived, DerivedStore, Given, content_key, derived
from texallon.core.document.floats import Floats
from texallon.core.document.object import Object
from texallon.core.document.resolved import ResolvedShot, resolve
from texallon.core.document.shot import Shot
from texallon.core.geometry.values_on_mesh import as_number
from texallon.core.motion.buoyancy import Hull, gather_floating, outline, plane_under
from texallon.core.motion.springs import between_frames
from texallon.core.motion.touches import Block, Span
from texallon.core.render.remembered_attributes import (
    frames_around,
    make_blocks,
    moving_key,
    spans_until,
    with_progress,
)
from texallon.core.render.shapes import Shapes
from texallon.core.render.shot_plans import ShotPlans
from texallon.core.render.stored_files import StoredFiles
from texallon.core.signal.placement import Places, written_out

Doubles = npt.NDArray[np.float64]
PlaneAt = Callable[[int], Doubles]

STEEPEST = 60.0
"""Degrees that a body is tilted at most."""


def afloat(shot: ResolvedShot, files: StoredFiles, store: DerivedStore) -> ResolvedShot:
    """A shot at a time whose floating objects lie as the water has them.

    Parameters
    ----------
    shot : ResolvedShot
        Checked.
    files : StoredFiles
        Where meshes are read from.
    store : DerivedStore
        Where values are kept.
    """
    document = shot.document
    floating = {item.name: item.floats for item in shot.objects if item.floats is not None}
    if document is None or not floating:
        return shot
    there = {item.name for item in document.objects}
    objects = [
        _lying(shot, item, _pose(document, shot.time.frame, item.name, floating[item.name], files, store))
        if item.name in floating and item.name in there
        else item
        for item in shot.objects
    ]
    return shot.model_copy(update={"objects": objects})


def _lying(shot: ResolvedShot, item: Object, pose: Doubles) -> Object:
    """An object raised and tilted in the world, about where it stands."""
    assert item.floats is not None
    places = Places(shot)
    parent, world = places.parent(item), places.object(item.name)
    most = np.tan(np.radians(STEEPEST))
    along_x, along_z = np.clip(pose[1:] * item.floats.tilts, -most, most)
    up = np.array([-along_x, 1.0, -along_z]) / np.sqrt(1 + along_x**2 + along_z**2)
    tilt, _ = Rotation.align_vectors([up], [[0.0, 1.0, 0.0]])
    moved = world.copy()
    moved[:3, :3] = tilt.as_matrix() @ world[:3, :3]
    moved[1, 3] += pose[0]
    placed = written_out(np.linalg.inv(parent) @ moved)
    return item.model_copy(update={name: placed[name] for name in ("position", "rotation")})


def _pose(document: Shot, frame: float, name: str, floats: Floats, files: StoredFiles, store: DerivedStore) -> Doubles:
    """Heave in metres and the slopes that it lies at, `(3,)`."""
    frames, water = document.frames, _Water(document, name, floats, files, store)
    around = frames_around(frames, frame)
    blocks: list[Derived[Block]] = []
    plane = Given(with_progress(water.plane, name, frames.first, around.last), water.key)
    for span in spans_until(frames, around.last):
        before = blocks[-1] if blocks else None
        blocks.append(_block.of(before, span, floats, water.hull, plane))
    make_blocks(store, blocks, blocks[around.block :])
    made = tuple(store.value(each) for each in blocks[around.block :])
    pose: Doubles = between_frames(made, around.within, frames.rate)[0]
    return pose


class _Water:
    """The water under an object, frame by frame, where that stands before the water moves it."""

    def __init__(self, document: Shot, name: str, floats: Floats, files: StoredFiles, store: DerivedStore) -> None:
        self._document, self._name, self._floats = document, name, floats
        self._files, self._store = files, store
        first = self._at(document.frames.first)
        item = next(each for each in first.shot.objects if each.name == name)
        world = first.plans.places.object(name)
        low, high = store.value(first.divided(item, world.astype(np.float32)[:3])).bounds
        size = np.linalg.norm(world[:3, :3], axis=0) * (np.asarray(high, np.float64) - np.asarray(low, np.float64))
        self.hull = Hull(*(max(float(each), 1e-4) for each in size))
        self._middle = (np.asarray(high, np.float64) + np.asarray(low, np.float64)) / 2
        moving = moving_key(document, first.plans.read_camera([floats.signal]))
        self.key = content_key((moving, name, floats.signal, self.hull))

    def _at(self, frame: int) -> Shapes:
        shot = resolve(self._document, frame)
        return Shapes(shot, self._files, self._store, ShotPlans(shot, self._store))

    def plane(self, frame: int) -> Doubles:
        """The water's mean plane under the body's outline in a frame.

        Parameters
        ----------
        frame : int
            Of the shot.
        """
        there = self._at(frame)
        item = next(each for each in there.shot.objects if each.name == self._name)
        world = there.plans.places.object(self._name)
        axes = world[:3, :3] / np.linalg.norm(world[:3, :3], axis=0)
        flat = outline(self.hull)
        about = flat[:, :1] * axes[:, 0] + flat[:, 1:] * axes[:, 2]
        middle = world[:3, :3] @ self._middle + world[:3, 3]
        places = np.stack([middle[0] + about[:, 0], np.full(len(flat), world[1, 3]), middle[2] + about[:, 2]], axis=1)
        heights = as_number(self._store.value(there.at_places(self._floats.signal, item, places.astype(np.float32))))
        return plane_under(about[:, [0, 2]], heights.astype(np.float64))


@derived("floating frames", cost=Cost.SLOW)
def _block(before: Block | None, span: Span, floats: Floats, hull: Hull, plane: PlaneAt) -> Block:
    return gather_floating(before, span, floats, hull, plane)
