"""What a shot's objects consist of, and where that stands: divided, displaced, copied, or particles."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from texallon.core.derived import Cost, Derived, DerivedStore, Given, derived
from texallon.core.document.array import LineArray, OnOther, ParticleArray, SurfaceArray
from texallon.core.document.body import Tube
from texallon.core.document.carried_looks import touched_channels
from texallon.core.document.channels import DISPLACING
from texallon.core.document.displacement import Displacement, Subdivision
from texallon.core.document.object import Object
from texallon.core.document.particles import Particles as ParticlesSeen
from texallon.core.document.resolved import ResolvedShot
from texallon.core.geometry.changed_copies import changed_copies, placed_copies
from texallon.core.geometry.closest import PlacedSurface, placed_surface
from texallon.core.geometry.copies import (
    Copies,
    copies_of_body,
    line_copies,
    own_copies,
    particle_copies,
    points_of_copies,
    surface_copies,
    under_copies,
)
from texallon.core.geometry.displaced import FINEST, Bounds, displaced, look_heights
from texallon.core.geometry.geometry import Geometry
from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.core.geometry.mesh_points import Domain
from texallon.core.geometry.nearest_ball import PlacedBalls, placed_particles
from texallon.core.geometry.particles import Particles, ball, octahedron, particles_of
from texallon.core.geometry.picked_parts import picked_parts
from texallon.core.geometry.scatter import Scattered, scattered
from texallon.core.geometry.skin import skinned
from texallon.core.geometry.subdivide import subdivided
from texallon.core.geometry.values_on_mesh import MeshPlace, values_on_mesh
from texallon.core.kernel import Array, Integers
from texallon.core.ops.points import Matrix
from texallon.core.points import BakedPointData, find_point_data_kind
from texallon.core.points.distance import EVEN_HIDDEN
from texallon.core.points.distance import measured_from as of_kind
from texallon.core.render.camera.view import make_view
from texallon.core.render.scene.mesh_arrays import bake_mesh
from texallon.core.render.scene.scene import looks_of
from texallon.core.render.shot_plans import ShotPlans
from texallon.core.render.stored_files import StoredFiles
from texallon.core.render.surface.emission import emission_channels
from texallon.core.signal.placement import Matrix4
from texallon.core.signal.plan import Plan

OfMeasurable = Derived[PlacedSurface] | Derived[PlacedBalls]

MOST_PARTICLES = 5_000_000
"""Of one object and its copies."""

BakeOf = Callable[[BakedPointData], Derived[Array]]


@dataclass(frozen=True)
class Stand:
    """A mesh in every place where an object has it.

    Attributes
    ----------
    mesh : Derived of Mesh
        In its own space.
    matrices : Array
        `(k, 3, 4)` into the world.
    numbers : Integers
        `(k,)` among the instances of the object.
    attributes : mapping
        By name, `(k, 1…4)`.
    spheres : Derived of Particles, optional
        Where rays meet spheres instead, in their space.
    space : Array
        `(1, 3, 4)` from that into the world.
    worn_by : Object, optional
        Whose looks and boundaries hold in place of the object's own: another body's, under the object's name.
    """

    mesh: Derived[Mesh]
    matrices: Array
    numbers: Integers
    attributes: Mapping[str, Array] = field(default_factory=dict)
    spheres: Derived[Particles] | None = None
    space: Array = field(default_factory=lambda: np.eye(4, dtype=np.float32)[None, :3])
    worn_by: Object | None = None


@dataclass(frozen=True)
class _Laid:
    """The copies of an object in some space, which `space (4, 4)` takes into the world, each the object by `own (4, 4)`."""

    copies: Derived[Copies]
    space: Matrix4
    own: Matrix4
    points_in: Derived[Mesh] | None = None
    """What they are scattered on."""


class Shapes:
    """The geometry of one shot at one time.

    Parameters
    ----------
    shot : ResolvedShot
        Checked.
    files : StoredFiles
        Where meshes and pictures are read from.
    store : DerivedStore
        Where values are kept.
    plans : ShotPlans
        Of its looks and signals.
    """

    def __init__(self, shot: ResolvedShot, files: StoredFiles, store: DerivedStore, plans: ShotPlans) -> None:
        self.shot, self.files, self.store, self.plans = shot, files, store, plans
        self._named = {item.name: item for item in shot.objects}

    def source(self, item: Object) -> Derived[Mesh]:
        """What an object consists of before it is divided or displaced: particles within their skin, where they have one.

        Parameters
        ----------
        item : Object
            Of the shot.
        """
        made = self.files.object_value(item)
        if item.particles is None or item.particles.skin is None:
            return made
        if _has_faces(self.store.value(made)):
            raise MeshError(f"“{item.name}” has faces: a skin is put around particles")
        return skinned.of(self._particles(item, made), item.particles.skin.smooth, item.particles.skin.cell)

    def _particles(self, item: Object, points: Derived[Mesh]) -> Derived[Particles]:
        seen = item.particles or ParticlesSeen()
        return particles_of.of(points, seen.radius, seen.attribute, seen.times)

    def shaped(self, item: Object, matrix: Matrix) -> Derived[Mesh]:
        """An object's mesh as it is seen: divided, with the parts that signals pick, displaced.

        Parameters
        ----------
        item : Object
            Of the shot.
        matrix : Matrix
            `(3, 4)` into the world.
        """
        made, finer = self.source(item), item.subdivision
        if not _has_faces(self.store.value(made)):
            return made  # particles have no surface to be changed
        if finer is not None:
            levels = self._levels(finer, made, matrix)
            made = subdivided.of(made, finer.scheme, levels, finer.crease) if levels else made
        made = self.with_picked_parts(item, made, matrix)
        return made if item.displacement is None else self._displaced(item, item.displacement, made, matrix)

    def _levels(self, wanted: Subdivision, mesh: Derived[Mesh], matrix: Matrix) -> int:
        """How often faces are divided: no more than makes edges as short as is wanted in the picture, seen from where the camera stands."""
        if wanted.edge_pixels is None:
            return wanted.levels
        eye = np.linalg.inv(np.vstack([matrix, [0, 0, 0, 1]]).astype(np.float64)) @ [*self.shot.camera.position, 1.0]
        found = self.store.value(mesh)
        low, high = found.bounds
        away = float(np.linalg.norm(eye[:3] - np.clip(eye[:3], low, high)))
        # Of a picture of the shot's own size, whatever the stage's is; both lengths are in the object's own space.
        pixel = away * make_view(self.shot.camera, *self.shot.resolution).pixel_angle
        if pixel <= 0 or found.points_apart <= 0:  # the eye stands in it, or its faces have no size to go by
            return wanted.levels
        return min(max(int(np.ceil(np.log2(found.points_apart / (pixel * wanted.edge_pixels)))), 0), wanted.levels)

    def _displaced(self, item: Object, bounds: Displacement, mesh: Derived[Mesh], matrix: Matrix) -> Derived[Mesh]:
        names = self.store.value(mesh).part_names
        worn = {part.name: part.look for part in item.parts}
        heights, moves = [], False
        for number, look in enumerate(self.shot.looks):
            wearing = tuple(at for at, name in enumerate(names) if worn.get(name, item.look) == look.name)
            moving = DISPLACING & touched_channels(look, self.shot.carried_looks)
            if not wearing:
                continue
            if not moving:
                heights.append(look_heights.of(wearing, None, None))
                continue
            moves, plan = True, self.plans.of_look(number, moving)
            along, freely = (
                self._plan_on_mesh(plan, item, mesh, matrix, "vertex", name, FINEST) if name in moving else None
                for name in ("displacement", "displacement_vector")
            )
            heights.append(look_heights.of(wearing, along, freely))
        if not moves:
            return mesh
        held = Bounds(bounds.zero, bounds.most, bounds.outwards_only)
        crease = 180.0 if item.subdivision is None else item.subdivision.crease
        return displaced.of(mesh, tuple(heights), matrix[:, :3], held, crease)

    def with_picked_parts(self, item: Object, mesh: Derived[Mesh], matrix: Matrix) -> Derived[Mesh]:
        """An object's mesh with the parts that signals pick.

        Parameters
        ----------
        item : Object
            Of the shot.
        mesh : Derived of Mesh
            With the parts that its file or its pieces give.
        matrix : Matrix
            `(3, 4)` into the world.
        """
        picking = [(part.name, part.picked) for part in item.parts if part.picked is not None]
        if not picking:
            return mesh
        values = tuple(self.on_mesh(picked.signal, item, mesh, matrix, "face") for _, picked in picking)
        return picked_parts.of(mesh, tuple(n for n, _ in picking), values, tuple(p.above for _, p in picking))

    def on_mesh(self, signal: str, item: Object, mesh: Derived[Mesh], matrix: Matrix, domain: Domain) -> Derived[Array]:
        """A shared signal's values `(width, n)` at the vertices or faces of an object's mesh.

        Parameters
        ----------
        signal : str
            Its name.
        item : Object
            Of the shot.
        mesh : Derived of Mesh
            In the object's space.
        matrix : Matrix
            `(3, 4)` into the world.
        domain : str
            `vertex` or `face`.
        """
        return self._plan_on_mesh(self.plans.of_signal(signal), item, mesh, matrix, domain, "value")

    def _plan_on_mesh(
        self,
        plan: Plan,
        item: Object,
        mesh: Derived[Mesh],
        matrix: Matrix,
        domain: Domain,
        output: str,
        detail: float = 1.0,
        bake_of: BakeOf | None = None,
    ) -> Derived[Array]:
        # Where an object stands counts only for what reads that: else it may be moved, and others like it share what was found.
        needed = plan.required_data
        kinds = [kind for each in needed if (kind := find_point_data_kind(each)) is not None]
        if not needed & {"position", "normal", "view"} and not any(kind.of_others for kind in kinds):
            matrix = np.concatenate([matrix[:, :3], np.zeros((3, 1), np.float32)], axis=1)
        name = item.name if needed & {"object_id", "part_id", "instance_id"} else ""
        baked = [kind for name in sorted(plan.required_data) if (kind := _baked(name)) is not None]
        bakes = tuple(
            (kind.asked, bake_mesh.of(kind.asked, kind.version, mesh) if bake_of is None else bake_of(kind))
            for kind in baked
        )
        others = sorted({other for each in plan.required_data if (other := of_kind(each)) is not None})
        surfaces = tuple((each, self.measured(each)) for each in others)
        # The plan names each picture with its digest.
        given, files = Given(plan, plan.content_key), Given(self.files, "files")
        return values_on_mesh.of(given, output, mesh, MeshPlace(name, matrix, domain, detail), bakes, surfaces, files)

    def measured(self, name: str) -> tuple[OfMeasurable, ...]:
        """An object to measure from, as it is before anything that hangs on signals: else two could wait for each other.

        Parameters
        ----------
        name : str
            Its name, with `EVEN_HIDDEN` after it where it counts though it is hidden.
        """
        item = self._named.get(name.removesuffix(EVEN_HIDDEN))
        if item is None or not (item.visible or name.endswith(EVEN_HIDDEN)):
            return ()
        return tuple(measured_from(each) for each in self.stands_of(item, plain=True))

    # -- copies --------------------------------------------------------------------------------------------------

    def stands_of(self, item: Object, plain: bool = False) -> Iterator[Stand]:
        """What an object and its copies consist of, and where that stands.

        Parameters
        ----------
        item : Object
            Of the shot.
        plain : bool
            Leave out what hangs on signals: displacement, picked parts, what signals do to copies.

        Yields
        ------
        Stand
            One for each mesh.
        """
        laid = self._laid(item, plain)
        if item.array is not None and item.bodies:
            for number, name in enumerate((item.name, *item.bodies)):
                yield from self._of_body(item, self._named[name], copies_of_body.of(laid.copies, number), laid, plain)
            return
        placed = self.plans.places.object(item.name).astype(np.float32)[:3]
        mesh = self.source(item) if plain else self.shaped(item, placed)
        geometry = self.store.value(mesh)
        if not _has_faces(geometry):
            yield from self._balls(item, mesh, laid)
            return
        if item.array is not None:
            yield from self._copied(mesh, laid.copies, laid.space, laid.own)
            return
        for number, (of_piece, own) in enumerate(self._pieces(mesh)):
            inner = laid.own if own is None else laid.own @ own
            matrices = (laid.space @ inner)[None, :3].astype(np.float32)
            yield Stand(of_piece, matrices, np.array([number], np.int32))

    def _copied(
        self,
        mesh: Derived[Mesh],
        of_copies: Derived[Copies],
        space: Matrix4,
        own: Matrix4,
        worn_by: Object | None = None,
    ) -> Iterator[Stand]:
        """A body in every place where a copy has it."""
        copies, pieces = self.store.value(of_copies), self._pieces(mesh)
        for number, (of_piece, within) in enumerate(pieces):
            inner = own if within is None else own @ within
            matrices = self.store.value(placed_copies.of(of_copies, space, inner))
            yield Stand(of_piece, matrices, copies.numbers * len(pieces) + number, copies.attributes, worn_by=worn_by)

    def _of_body(
        self, item: Object, body: Object, copies: Derived[Copies], laid: _Laid, plain: bool
    ) -> Iterator[Stand]:
        """Those of an object's copies that have a body, which may be another object's: turned and sized as that is, but not moved."""
        placed = self.plans.places.object(body.name)
        mesh = self.source(body) if plain else self.shaped(body, placed.astype(np.float32)[:3])
        if not _has_faces(self.store.value(mesh)):
            raise MeshError(f"“{body.name}” has no faces: copies of “{item.name}” have bodies that do")
        own = laid.own
        if body is not item:
            own = placed.copy()
            own[:3, 3] = 0
            if not isinstance(item.array, OnOther):  # whose copies stand in the object's own space
                own[:3, :3] = np.linalg.inv(laid.space[:3, :3]) @ own[:3, :3]
        worn_by = None if body is item else body.model_copy(update={"name": item.name, "array": item.array})
        yield from self._copied(mesh, copies, laid.space, own, worn_by)

    def _pieces(self, mesh: Derived[Mesh]) -> list[tuple[Derived[Mesh], Matrix4 | None]]:
        geometry = self.store.value(mesh)
        return [
            (mesh if each.mesh is geometry else _mesh_itself.of(each.mesh), each.matrix) for each in geometry.pieces()
        ]

    def _balls(self, item: Object, points: Derived[Mesh], laid: _Laid) -> Iterator[Stand]:
        """Particles as spheres; as bodies with faces where they shine, so that lights can be asked for."""
        of_points = self._particles(item, points)
        particles = self.store.value(of_points)
        worn = looks_of(item)
        looks = [look for look in self.shot.looks if look.name in worn]
        shine = any(emission_channels(look, self.shot.carried_looks) for look in looks)
        copies = self.store.value(laid.copies)
        if len(copies.frames) * len(particles.radii) > MOST_PARTICLES:
            raise MeshError(
                f"“{item.name}” has {len(copies.frames):,} copies of {len(particles.radii):,} particles; at most {MOST_PARTICLES:,} are shown"
            )
        for frame, number in zip(copies.frames, copies.numbers, strict=True):
            space = (laid.space @ frame @ laid.own)[:3]
            matrices = np.ascontiguousarray(space[:, :3] @ particles.matrices.astype(np.float64), np.float32)
            matrices[:, :, 3] += space[:, 3].astype(np.float32)
            numbers = particles.numbers + int(number) * (int(particles.numbers.max(initial=0)) + 1)
            shown = (matrices, numbers.astype(np.int32), particles.attributes)
            if shine:
                yield Stand(ball.of(), *shown)
            else:
                yield Stand(octahedron.of(), *shown, of_points, space[None].astype(np.float32))

    def _laid(self, item: Object, plain: bool) -> _Laid:
        """Where the copies of an object stand, after what signals do to them."""
        made, bodies = self._as_laid(item, plain), 1 + len(item.bodies)
        if item.array is None or (bodies == 1 and (plain or not item.copies)):
            return made
        if plain:
            return _Laid(changed_copies.of(made.copies, (), (), bodies), made.space, made.own)
        points, matrix = points_of_copies.of(made.copies), made.space.astype(np.float32)[:3]

        def bake_of(kind: BakedPointData) -> Derived[Array]:
            if made.points_in is None or not isinstance(item.array, SurfaceArray):
                return _nothing_baked.of(points, kind.width)
            ground = self._named[item.array.object]
            laid = self._scattered(item.array, ground, made.points_in)
            return under_copies.of(bake_mesh.of(kind.asked, kind.version, made.points_in), made.points_in, laid)

        values = tuple(
            self._plan_on_mesh(
                self.plans.of_signal(each.signal), item, points, matrix, "vertex", "value", bake_of=bake_of
            )
            for each in item.copies
        )
        return _Laid(changed_copies.of(made.copies, tuple(item.copies), values, bodies), made.space, made.own)

    def _as_laid(self, item: Object, plain: bool) -> _Laid:
        placed, array = self.plans.places.object(item.name), item.array
        if not isinstance(array, OnOther):
            return _Laid(own_copies.of(array), placed, np.eye(4))
        other = self._named[array.object]
        space = self.plans.places.object(other.name)
        if isinstance(array, LineArray):
            assert isinstance(other.geometry, Tube)  # checked as the document was read
            return _Laid(line_copies.of(other.geometry, array), space, placed)
        if isinstance(array, ParticleArray):
            points = self.files.object_value(other)
            if _has_faces(self.store.value(points)):
                raise MeshError(
                    f"“{other.name}” has faces: “{item.name}” stands at particles, which are points without faces"
                )
            return _Laid(particle_copies.of(self._particles(other, points), array.sized), space, placed)
        matrix = space.astype(np.float32)[:3]
        ground = self.source(other) if plain else self.shaped(other, matrix)
        if not _has_faces(self.store.value(ground)):
            raise MeshError(f"“{other.name}” has no faces for “{item.name}” to stand on")
        laid = self._scattered(array, other, ground)
        return _Laid(surface_copies.of(ground, laid, matrix, array), space, placed, ground)

    def _scattered(self, array: SurfaceArray, other: Object, ground: Derived[Mesh]) -> Derived[Scattered]:
        linear = self.plans.places.object(other.name).astype(np.float32)[:3, :3]
        return scattered.of(ground, linear, array.apart, array.most, array.seed)


def measured_from(stand: Stand) -> OfMeasurable:
    """A surface to measure from, all its instances as one.

    Parameters
    ----------
    stand : Stand
        A mesh in every place where an object has it.
    """
    if stand.spheres is not None:
        return placed_particles.of(stand.spheres, stand.space[0])
    return placed_surface.of(stand.mesh, stand.matrices)


def _has_faces(geometry: Geometry) -> bool:
    return any(len(each.mesh.faces) for each in geometry.pieces())


def _baked(name: str) -> BakedPointData | None:
    kind = find_point_data_kind(name)
    return kind if isinstance(kind, BakedPointData) else None


@derived("mesh of a geometry", cost=Cost.INSTANT)
def _mesh_itself(mesh: Mesh) -> Mesh:
    return mesh


@derived("nothing baked", cost=Cost.INSTANT)
def _nothing_baked(points: Mesh, width: int) -> Array:
    return np.zeros((len(points.vertices), width), np.float32)
