"""What memory a picture of a shot needs, reckoned before anything of it is read: files are asked for their counts only.

The bytes for each were measured (`python -m bench.needs`), and are rounded up.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from texallon.core.document.array import MOST_COPIES, ParticleArray, copies_of
from texallon.core.document.displacement import Subdivision
from texallon.core.document.object import FileRef, Object
from texallon.core.document.shot import Shot
from texallon.core.document.simulation import Simulation
from texallon.core.geometry.bodies.sizes import body_size
from texallon.core.geometry.geometry import MeshSize
from texallon.core.geometry.subdivide import triangles_at
from texallon.core.render.files import Files

PER_TRIANGLE, PER_POINT, PER_OBJECT, PER_PIXEL = 110, 80, 10_000, 150
"""Bytes: a triangle with its share of the search structure, a point with normal, UV and an attribute, an object, a pixel of the film, whose sums
are held twice."""

PER_COPY = 700
"""Bytes for each copy of an object, and for each particle: its rows of the tables and of the tree, summed and rounded up, not measured."""

PER_SKIN = 150_000_000
"""Bytes for a skin around particles of a million faces; how large it gets is known only when it is made (estimated, not measured)."""

PER_PIXEL_OF_PASSES = 320
"""Bytes more where all passes are written."""

READING = 170
"""Bytes for each triangle of the largest file, while it is read."""

DIVIDING = 520
"""Bytes for each triangle of the finest object, while its faces are divided and displaced."""

PER_VOLUME, MOST_VOLUME_TABLES = 10_000_000, 100_000_000
"""Bytes of the table of one volume's bricks, as far as it is used, and of all: of many volumes each is stored less finely (estimated, not measured)."""

VOLUMES = 500_000_000
"""Bytes of the bricks of all volumes, and of what they are made from, that a picture does not do without (estimated, not measured)."""

BASE = 400_000_000
"""Bytes of the process itself: libraries, compiled kernels, the batches under work."""


class TooLargeError(ValueError):
    """A shot that needs more memory than it may have, with the numbers."""


@dataclass(frozen=True)
class Divided:
    """An object whose faces are divided: its name, its triangles before, and how."""

    name: str
    triangles: int
    subdivision: Subdivision

    def made(self, levels: int) -> MeshSize:
        """How large it is when it is divided so often.

        Parameters
        ----------
        levels : int
            From 0.
        """
        return divided_size(MeshSize(0, self.triangles), self.subdivision.model_copy(update={"levels": levels}))

    def bytes_at(self, levels: int) -> int:
        """What it needs then.

        Parameters
        ----------
        levels : int
            From 0.
        """
        made = self.made(levels)
        return (PER_TRIANGLE + DIVIDING) * made.triangles + PER_POINT * made.points


@dataclass(frozen=True)
class Needs:
    """Counts of what takes memory, and the bytes that they come to.

    `meshes` distinct files with `triangles` and `points` in all, `largest` the triangles of the largest; `objects` shown; `pixels`;
    `passes` whether all passes are written; `copies` and particles beside the objects; `skins` around particles; `divided` the objects whose faces are divided;
    `volumes` that bodies and the air are filled with.
    """

    meshes: int
    triangles: int
    points: int
    largest: int
    objects: int
    pixels: int
    passes: bool = False
    divided: tuple["Divided", ...] = ()
    copies: int = 0
    skins: int = 0
    volumes: int = 0

    @property
    def geometry_bytes(self) -> int:
        """For meshes and their search structures."""
        dividing = max((each.made(each.subdivision.levels).triangles for each in self.divided), default=0)
        kept = PER_TRIANGLE * self.triangles + PER_POINT * self.points
        return kept + max(READING * self.largest, DIVIDING * dividing)

    @property
    def object_bytes(self) -> int:
        """For objects, wherever their meshes come from."""
        return PER_OBJECT * self.objects + PER_COPY * self.copies + PER_SKIN * self.skins

    @property
    def pixel_bytes(self) -> int:
        """For the film."""
        return (PER_PIXEL + self.passes * PER_PIXEL_OF_PASSES) * self.pixels

    @property
    def volume_bytes(self) -> int:
        """For the bricks of volumes."""
        return min(PER_VOLUME * self.volumes, MOST_VOLUME_TABLES) + VOLUMES * (self.volumes > 0)

    @property
    def total(self) -> int:
        """All of it, with the process itself."""
        return BASE + self.geometry_bytes + self.object_bytes + self.pixel_bytes + self.volume_bytes


def held(objects: Sequence[Object]) -> list[Object]:
    """The objects whose geometry a picture holds: those that are shown, and those whose bodies their copies have.

    Parameters
    ----------
    objects : sequence of Object
        All of the shot.
    """
    bodies = {name for item in objects if item.visible and item.array is not None for name in item.bodies}
    return [item for item in objects if item.visible or item.name in bodies]


def volumes_of(shot: Shot) -> int:
    """How many volumes a shot has, copies not counted: bodies that wear a look of that domain or are filled with one, and the air.

    Parameters
    ----------
    shot : Shot
        A shot.
    """
    own = {look.name for look in shot.looks if look.domain == "volume"}
    filled = sum(item.visible and (item.look in own or item.filled_with is not None) for item in shot.objects)
    return filled + (shot.atmosphere is not None and shot.atmosphere.on)


def reckon(
    files: Files, shown: Iterable[Object], width: int, height: int, passes: bool = False, volumes: int = 0
) -> Needs:
    """Count what a picture needs; raises `FileNotFoundError` or `MeshError`.

    Parameters
    ----------
    files : Files
        Asked for the sizes of meshes; none is read.
    shown : iterable of Object
        As `held` gives them.
    width : int
        Pixels across.
    height : int
        Pixels down.
    passes : bool, optional
        Whether all passes are written.
    volumes : int, optional
        As `volumes_of` counts them.

    Returns
    -------
    Needs
        Each distinct mesh counted once.
    """
    distinct: dict[str, MeshSize] = {}
    divided: list[Divided] = []
    largest = 0
    objects = copies = skins = 0
    shown = list(shown)
    for item in shown:
        objects += 1
        made = item.geometry
        copies += _copies(files, shown, item) * max(_particles(files, item), 1) - 1
        skins += item.particles is not None and item.particles.skin is not None
        key = files.key(made) if isinstance(made, FileRef) else made.model_dump_json()
        if key not in distinct:
            distinct[key] = files.mesh_size(made) if isinstance(made, FileRef) else body_size(made)
            largest = max(largest, distinct[key].triangles)
        if item.subdivision is not None and item.subdivision.levels:
            # Each may be displaced in a way of its own.
            own = f"{key} {item.subdivision.model_dump_json()} {item.name if item.displacement else ''}"
            if own not in distinct:
                distinct[own] = divided_size(distinct[key], item.subdivision)
                divided.append(Divided(item.name, distinct[key].triangles, item.subdivision))
    sizes = list(distinct.values())
    return Needs(
        len(sizes),
        sum(size.triangles for size in sizes),
        sum(size.points for size in sizes),
        largest,
        objects,
        width * height,
        passes,
        tuple(divided),
        copies,
        skins,
        volumes,
    )


def _copies(files: Files, shown: Sequence[Object], item: Object) -> int:
    if not isinstance(item.array, ParticleArray):
        return copies_of(item.array)
    of_what = next((each for each in shown if each.name == item.array.object), None)
    return MOST_COPIES if of_what is None else max(_particles(files, of_what), 1)


def _particles(files: Files, item: Object) -> int:
    """How many particles are seen one by one; none of an object that has faces, or a skin."""
    if item.particles is not None and item.particles.skin is not None:
        return 0
    if isinstance(item.geometry, Simulation):
        size = body_size(item.geometry)
    elif isinstance(item.geometry, FileRef):
        size = files.mesh_size(item.geometry)
    else:
        return 0
    return 0 if size.triangles else size.points


def divided_size(size: MeshSize, subdivision: Subdivision) -> MeshSize:
    """How large a mesh is when it is divided as often as may be.

    Parameters
    ----------
    size : MeshSize
        Before.
    subdivision : Subdivision
        Of an object.
    """
    triangles = triangles_at(size.triangles, subdivision.scheme, subdivision.levels)
    return MeshSize(max(size.points, triangles * 6 // 10), triangles)


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
        (
            needs.object_bytes,
            f"{needs.objects:,} objects with {needs.copies:,} copies" if needs.copies else f"{needs.objects:,} objects",
        ),
        (needs.pixel_bytes, f"{needs.pixels:,} pixels"),
    ]
    if needs.volumes:
        parts.append((needs.volume_bytes, f"the bricks of {needs.volumes:,} volumes"))
    each = ", ".join(f"{size / 1e9:.1f} GB for {what}" for size, what in parts)
    finest = max(needs.divided, key=lambda item: item.bytes_at(item.subdivision.levels), default=None)
    if finest is not None:
        levels = finest.subdivision.levels
        rest = limit - needs.total + finest.bytes_at(levels)
        fits = next((fewer for fewer in range(levels - 1, -1, -1) if finest.bytes_at(fewer) <= rest), None)
        if fits is not None:
            raise TooLargeError(
                f"the shot needs about {needs.total / 1e9:.1f} GB of memory, and may have {limit / 1e9:.1f}: {each}. "
                f"“{finest.name}” is divided {levels} times, each of which makes four faces of one; with {fits} there is room"
            )
    raise TooLargeError(
        f"the shot needs about {needs.total / 1e9:.1f} GB of memory, and may have {limit / 1e9:.1f}: {each}. "
        "Hide objects, use meshes of fewer triangles, or a smaller picture"
    )
