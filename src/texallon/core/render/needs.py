"""What memory a picture of a shot needs, reckoned before anything of it is read: files are asked for their counts only.

The bytes for each were measured (`python -m bench.needs`), and are rounded up.
"""

from collections.abc import Iterable
from dataclasses import dataclass

from texallon.core.document.body import Body
from texallon.core.document.object import FileRef, Object
from texallon.core.geometry.bodies.sizes import body_size
from texallon.core.geometry.geometry import MeshSize
from texallon.core.render.files import Files

PER_TRIANGLE, PER_POINT, PER_OBJECT, PER_PIXEL = 110, 80, 10_000, 100
"""Bytes: a triangle with its share of the search structure, a point with normal, UV and an attribute, an object, a pixel of the film."""

PER_PIXEL_OF_PASSES = 200
"""Bytes more where all passes are written."""

READING = 170
"""Bytes for each triangle of the largest file, while it is read."""

BASE = 400_000_000
"""Bytes of the process itself: libraries, compiled kernels, the batches under work."""


class TooLargeError(ValueError):
    """A shot that needs more memory than it may have, with the numbers."""


@dataclass(frozen=True)
class Needs:
    """Counts of what takes memory, and the bytes that they come to.

    `meshes` distinct files with `triangles` and `points` in all, `largest` the triangles of the largest; `objects` shown; `pixels`;
    `passes` whether all passes are written.
    """

    meshes: int
    triangles: int
    points: int
    largest: int
    objects: int
    pixels: int
    passes: bool = False

    @property
    def geometry_bytes(self) -> int:
        """For meshes and their search structures."""
        return PER_TRIANGLE * self.triangles + PER_POINT * self.points + READING * self.largest

    @property
    def object_bytes(self) -> int:
        """For objects, wherever their meshes come from."""
        return PER_OBJECT * self.objects

    @property
    def pixel_bytes(self) -> int:
        """For the film."""
        return (PER_PIXEL + self.passes * PER_PIXEL_OF_PASSES) * self.pixels

    @property
    def total(self) -> int:
        """All of it, with the process itself."""
        return BASE + self.geometry_bytes + self.object_bytes + self.pixel_bytes


def reckon(files: Files, shown: Iterable[Object], width: int, height: int, passes: bool = False) -> Needs:
    """Count what a picture needs; raises `FileNotFoundError` or `MeshError`.

    Parameters
    ----------
    files : Files
        Asked for the sizes of meshes; none is read.
    shown : iterable of Object
        The visible objects.
    width : int
        Pixels across.
    height : int
        Pixels down.
    passes : bool, optional
        Whether all passes are written.

    Returns
    -------
    Needs
        Each distinct mesh counted once.
    """
    distinct: dict[str, FileRef | Body] = {}
    objects = 0
    for item in shown:
        objects += 1
        made = item.geometry
        distinct.setdefault(files.key(made) if isinstance(made, FileRef) else made.model_dump_json(), made)
    sizes: list[MeshSize] = [
        files.mesh_size(each) if isinstance(each, FileRef) else body_size(each) for each in distinct.values()
    ]
    return Needs(
        len(sizes),
        sum(size.triangles for size in sizes),
        sum(size.points for size in sizes),
        max((size.triangles for size in sizes), default=0),
        objects,
        width * height,
        passes,
    )


def check_needs(needs: Needs, limit: int) -> None:
    """Refuse what needs more than it may have; raises `TooLargeError`.

    Parameters
    ----------
    needs : Needs
        What a picture needs.
    limit : int
        Bytes that it may have.
    """
    if needs.total <= limit:
        return
    parts = [
        (needs.geometry_bytes, f"{needs.meshes:,} meshes of {needs.triangles:,} triangles together"),
        (needs.object_bytes, f"{needs.objects:,} objects"),
        (needs.pixel_bytes, f"{needs.pixels:,} pixels"),
    ]
    each = ", ".join(f"{size / 1e9:.1f} GB for {what}" for size, what in parts)
    raise TooLargeError(
        f"the shot needs about {needs.total / 1e9:.1f} GB of memory, and may have {limit / 1e9:.1f}: {each}. "
        "Hide objects, use meshes of fewer triangles, or a smaller picture"
    )
