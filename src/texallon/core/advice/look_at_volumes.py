"""What is filled: how large it is, how fine it can be stored, and whether its body is closed and the right way round."""

from dataclasses import dataclass

import numpy as np

from texallon.core.document.sampling import MOST_DETAIL
from texallon.core.document.shot import Shot
from texallon.core.geometry.rays import MeshRays
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.render.volume.grid import make_grid
from texallon.core.render.volume.tables import CLOSED
from texallon.core.render.volume.volumes import SAMPLES_ACROSS, Container

MOST_FACES = 200_000
"""Of a body whose edges are looked at."""


@dataclass(frozen=True)
class Filled:
    """One volume.

    Attributes
    ----------
    object : str
        What is filled; empty for the air.
    look : str
        What fills it.
    size : float
        Its longest side, metres.
    cell : float
        Metres that the finest cells are wide that it is looked up in, as this view sees it.
    finest : float
        Metres that they can be wide at most detail.
    open_edges : int
        Edges of its body that have not two faces.
    inverted : bool
        Whether its faces look inwards.
    """

    object: str
    look: str
    size: float
    cell: float
    finest: float
    open_edges: int = 0
    inverted: bool = False


def look_at_volumes(points: GBuffer, shot: Shot) -> tuple[Filled, ...]:
    """The volumes that a view may see.

    Parameters
    ----------
    points : GBuffer
        Of the view.
    shot : Shot
        What is seen.
    """
    if points.cuts is None:
        return ()
    detail = shot.sampling.volume_detail
    return tuple(_look_at(points, each, shot.looks[each.look].name, detail) for each in points.cuts.containers)


def _look_at(points: GBuffer, container: Container, look: str, detail: float) -> Filled:
    scale = np.linalg.norm(container.matrix[:, :3].astype(np.float64), axis=0)
    size = float(((container.high - container.low) * scale).max())
    corners = np.stack(np.meshgrid(*zip(container.low, container.high, strict=True), indexing="ij")).reshape(3, -1)
    world = container.matrix[:, :3] @ corners + container.matrix[:, 3:]
    near, far = world.min(axis=1), world.max(axis=1)
    eye = points.view.basis[0]
    away = float(np.linalg.norm(eye - np.clip(eye, near, far)))
    stored = make_grid(container.low, container.high, container.matrix).cell_world
    pixels = away * points.view.pixel_angle * points.detail * SAMPLES_ACROSS
    cell, finest = max(stored, pixels / detail), max(stored, pixels / MOST_DETAIL)
    if container.kind != CLOSED or container.structure is None or len(container.structure.faces) > MOST_FACES:
        return Filled(container.name, look, size, cell, finest)
    return Filled(container.name, look, size, cell, finest, *_closed(container.structure))


def _closed(body: MeshRays) -> tuple[int, bool]:
    """How many edges have not two faces, corners at one place taken for one; and whether the faces look inwards."""
    _, of_place = np.unique(np.round(body.vertices, 6), axis=0, return_inverse=True)
    faces = of_place.ravel()[body.faces]
    sides = np.sort(np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]), axis=1)
    real = sides[sides[:, 0] != sides[:, 1]]
    _, count = np.unique(real, axis=0, return_counts=True)
    a, b, c = (body.vertices[body.faces[:, corner]].astype(np.float64) for corner in range(3))
    return int((count % 2).sum()), bool((a * np.cross(b, c)).sum() < 0)
