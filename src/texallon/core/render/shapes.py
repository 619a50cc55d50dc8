"""What a shot's objects consist of, and where that stands: divided, displaced, copied, or particles."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from texallon.core.derived import Cost, Derived, DerivedStore, Given, content_key, derived
from texallon.core.document.array import LineArray, OnOther, ParticleArray, SurfaceArray
from texallon.core.document.body import Tube
from texallon.core.document.carried_looks import touched_channels
from texallon.core.document.channels import DISPLACING
from texallon.core.document.displacement import Displacement
from texallon.core.document.object import Object
from texallon.core.document.particles import Particles as ParticlesSeen
from texallon.core.document.remembered import remembered_names, signals_of
from texallon.core.document.resolved import ResolvedShot, resolve
from texallon.core.document.shot import Shot
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
    with_attributes,
)
from texallon.core.geometry.displaced import FINEST, Bounds, at_rest, displaced, look_heights
from texallon.core.geometry.divided_to_length import divided_to_length, division_to_length
from texallon.core.geometry.geometry import Geometry
from texallon.core.geometry.mesh import Mesh, MeshError
from texallon.core.geometry.mesh_points import Domain, point_widths
from texallon.core.geometry.nearest_ball import PlacedBalls, placed_particles
from texallon.core.geometry.particles import Particles, ball, octahedron, particles_of
from texallon.core.geometry.picked_parts import picked_parts
from texallon.core.geometry.scatter import Scattered, scattered
from texallon.core.geometry.skin import skinned
from texallon.core.geometry.subdivide import subdivided
from texallon.core.geometry.values_on_mesh import MeshPlace, values_on_mesh
from texallon.core.kernel import Array, Integers
from texallon.core.motion.point_graph import PointGraph, copies_graph, surface_graph
from texallon.core.ops.points import Matrix
from texallon.core.points import BakedPointData, attribute_name, find_point_data_kind, is_attribute
from texallon.core.points.distance import EVEN_HIDDEN
from texallon.core.points.distance import measured_from as of_kind
from texallon.core.render.camera.view import make_view
from texallon.core.render.remembered_attributes import Carried, RememberedAttributes, SignalAt, moving_key
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
    remembered : mapping
        By name, `(v, 1)` at the vertices of the mesh, apart from it: they change while it stays.
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
    remembered: Carried = field(default_factory=dict)
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


APART = 0x9E3779B1
"""Between the numbers of particles of one copy and the next: odd, so that they meet as seldom as can be."""


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
    at_frame : callable, optional
        Gives the shot at another frame.
    """

    def __init__(
        self,
        shot: ResolvedShot,
        files: StoredFiles,
        store: DerivedStore,
        plans: ShotPlans,
        at_frame: Callable[[Shot, float], ResolvedShot] = resolve,
    ) -> None:
        self.shot, self.files, self.store, self.plans = shot, files, store, plans
        self._resolve = at_frame
        self._named = {item.name: item for item in shot.objects}
        self._others: dict[float, Shapes] = {}
        self._carried: dict[tuple[str, str, int | None], Carried] = {}

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
        made = self.divided(item, matrix)
        if not _has_faces(self.store.value(made)):
            return made  # particles have no surface to be changed
        made = self.with_picked_parts(item, made, matrix)
        return made if item.displacement is None else self._displaced(item, item.displacement, made, matrix)

    def divided(self, item: Object, matrix: Matrix) -> Derived[Mesh]:
        """An object's mesh before anything that hangs on signals.

        Parameters
        ----------
        item : Object
            Of the shot.
        matrix : Matrix
            `(3, 4)` into the world.
        """
        made = self._subdivided(item, matrix)
        cells = [each.cell for each in item.remembers if each.of == "surface" and each.cell > 0]
        if not cells or not _has_faces(self.store.value(made)):
            return made
        # As it is at the first frame: what remembers has the same points in each.
        document = self.shot.document
        first = self if document is None else self._at_frame(document.frames.first)
        then = first._named.get(item.name, item)
        placed = first._place_of(then)
        scale = float(np.linalg.norm(placed[:, :3].astype(np.float64), axis=0).max())
        division = division_to_length.of(first._subdivided(then, placed), min(cells) / max(scale, 1e-12))
        return divided_to_length.of(made, division)

    def _subdivided(self, item: Object, matrix: Matrix) -> Derived[Mesh]:
        made, finer = self.source(item), item.subdivision
        if finer is None or not _has_faces(self.store.value(made)):
            return made
        levels = self.levels(item, matrix)
        return subdivided.of(made, finer.scheme, levels, finer.crease) if levels else made

    # -- what is remembered --------------------------------------------------------------------------------------

    def remembered(self, item: Object, upto: int | None = None) -> Carried:
        """What the points of an object's mesh remember at this time, as attributes.

        Parameters
        ----------
        item : Object
            Of the shot.
        upto : int, optional
            How many of its remembered attributes are wanted; all unless given.
        """
        return self._remembered_of(item, "surface", upto)

    def _remembered_of(self, item: Object, of: str, upto: int | None) -> Carried:
        if self.shot.document is None or not any(each.of == of for each in item.remembers[:upto]):
            return {}
        wanted = (item.name, of, upto)
        if wanted not in self._carried:
            self._carried[wanted] = self._find_remembered(self.shot.document, item, of, upto)
        return self._carried[wanted]

    def _find_remembered(self, document: Shot, item: Object, of: str, upto: int | None) -> Carried:
        first = self._at_frame(document.frames.first)
        if item.name not in first._named:
            return {}
        item = first._named[item.name]
        graph, read = first._surface_graph(item), self._surface_at(item.name)
        if of == "copies":
            graph, read = first._copies_graph(item), self._copies_at(item.name)
        if of == "copies" and isinstance(item.array, OnOther):
            moving = content_key(
                document
            )  # looks may move what they stand on, and the camera how finely that is divided
        else:
            names = {name for each in item.remembers for name in signals_of(each).values()}
            moving = moving_key(document, self.plans.read_camera(names))
        key = content_key((moving, item.name, graph))
        made = RememberedAttributes(document, self.store, graph, item.remembers, of)
        return made.at(self.shot.time.frame, read, key, upto)

    def _at_frame(self, frame: float) -> "Shapes":
        document = self.shot.document
        assert document is not None
        if frame == self.shot.time.frame:
            return self
        if frame not in self._others:
            shot = self._resolve(document, frame)
            plans = ShotPlans(shot, self.store)
            self._others = {frame: Shapes(shot, self.files, self.store, plans, self._resolve)}
        return self._others[frame]

    def _place_of(self, item: Object) -> Matrix:
        placed: Matrix = self.plans.places.object(item.name).astype(np.float32)[:3]
        return placed

    def _surface_graph(self, item: Object) -> Derived[PointGraph]:
        matrix = self._place_of(item)
        mesh = self.divided(item, matrix)
        if not isinstance(self.store.value(mesh), Mesh) or not _has_faces(self.store.value(mesh)):
            raise MeshError(
                f"“{item.name}” has no surface of its own that could remember: it consists of copies or particles"
            )
        return surface_graph.of(mesh, matrix)

    def _surface_at(self, name: str) -> SignalAt:
        def read(signal: str, frame: int, before: int) -> Array:
            there = self._at_frame(frame)
            item = there._named[name]
            matrix = there._place_of(item)
            plan, mesh = there.plans.of_signal(signal), there.divided(item, matrix)
            value = there._plan_on_mesh(plan, item, mesh, matrix, "vertex", "value", upto=before)
            return self.store.value(value)

        return read

    def at_places(self, signal: str, item: Object, places: Array) -> Derived[Array]:
        """A shared signal's values `(width, n)` at places in the world, upwards.

        Parameters
        ----------
        signal : str
            Its name.
        item : Object
            Of the shot, that asks.
        places : Array
            `(n, 3)` metres.
        """
        points = _points_at.of(places)
        here = np.eye(4, dtype=np.float32)[:3]

        def nothing(kind: BakedPointData) -> Derived[Array]:
            return _nothing_baked.of(points, kind.width)

        return self._plan_on_mesh(self.plans.of_signal(signal), item, points, here, "vertex", "value", bake_of=nothing)

    def _copies_graph(self, item: Object) -> Derived[PointGraph]:
        laid = self._as_laid(item, False)
        return copies_graph.of(_places_of.of(points_of_copies.of(laid.copies)), laid.space.astype(np.float32)[:3])

    def _copies_at(self, name: str) -> SignalAt:
        def read(signal: str, frame: int, before: int) -> Array:
            there = self._at_frame(frame)
            item = there._named[name]
            return self.store.value(there._on_copies(signal, item, there._remembering(item, before)))

        return read

    def _remembering(self, item: Object, upto: int | None = None) -> _Laid:
        """Where the copies of an object stand, with what they remember as attributes."""
        laid = self._as_laid(item, False)
        carried = self._remembered_of(item, "copies", upto) if item.array is not None else {}
        if not carried:
            return laid
        return replace(laid, copies=with_attributes.of(laid.copies, tuple(carried), tuple(carried.values())))

    def levels(self, item: Object, matrix: Matrix) -> int:
        """How often an object's faces are divided: no more than makes edges as short as is wanted in the picture, seen from where the camera stands.

        Parameters
        ----------
        item : Object
            Of the shot.
        matrix : Matrix
            `(3, 4)` into the world.
        """
        wanted, mesh = item.subdivision, self.source(item)
        if wanted is None:
            return 0
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
        linear = matrix[:, :3]
        return displaced.of(mesh, at_rest.of(mesh, linear), tuple(heights), linear, held, crease)

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
        upto: int | None = None,
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
        widths = None
        if "footprint" in needed:  # of the mesh before it remembers anything, which changes with time
            widths = point_widths.of(mesh, matrix[:, :3], domain)
        own = {name for each in item.remembers[:upto] if each.of == "surface" for name in remembered_names(each)}
        if bake_of is None and own & {attribute_name(each) for each in needed if is_attribute(each)}:
            carried = self.remembered(item, upto)
            mesh = remembering_mesh.of(mesh, tuple(carried), tuple(carried.values()))
        place = MeshPlace(name, matrix, domain, detail)
        return values_on_mesh.of(given, output, mesh, place, bakes, surfaces, files, widths)

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
        carried = {} if plain else self.remembered(item)
        geometry = self.store.value(mesh)
        if not _has_faces(geometry):
            yield from self._balls(item, mesh, laid)
            return
        if item.array is not None:
            for each in self._copied(mesh, laid.copies, laid.space, laid.own):
                yield replace(each, remembered=carried)
            return
        for number, (of_piece, own) in enumerate(self._pieces(mesh)):
            inner = laid.own if own is None else laid.own @ own
            matrices = (laid.space @ inner)[None, :3].astype(np.float32)
            yield Stand(of_piece, matrices, np.array([number], np.int32), remembered=carried)

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
        carried = {} if plain else self.remembered(body)
        for each in self._copied(mesh, copies, laid.space, own, worn_by):
            yield replace(each, remembered=carried)

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
            # The same ones at every time, however many particles there are then.
            numbers = (particles.numbers.astype(np.int64) + int(number) * APART) & 0x7FFFFFFF
            shown = (matrices, numbers.astype(np.int32), particles.attributes)
            if shine:
                yield Stand(ball.of(), *shown)
            else:
                yield Stand(octahedron.of(), *shown, spheres=of_points, space=space[None].astype(np.float32))

    def _laid(self, item: Object, plain: bool) -> _Laid:
        """Where the copies of an object stand, after what signals do to them."""
        made, bodies = self._as_laid(item, plain), 1 + len(item.bodies)
        if plain and item.array is not None and bodies > 1:
            return replace(made, copies=changed_copies.of(made.copies, (), (), bodies))
        if plain or item.array is None:
            return made
        made = self._remembering(item)
        if bodies == 1 and not item.copies:
            return made
        values = tuple(self._on_copies(each.signal, item, made) for each in item.copies)
        return replace(made, copies=changed_copies.of(made.copies, tuple(item.copies), values, bodies))

    def _on_copies(self, signal: str, item: Object, laid: _Laid) -> Derived[Array]:
        """A shared signal's values `(width, k)` where copies stand."""
        points, matrix = points_of_copies.of(laid.copies), laid.space.astype(np.float32)[:3]

        def bake_of(kind: BakedPointData) -> Derived[Array]:
            if laid.points_in is None or not isinstance(item.array, SurfaceArray):
                return _nothing_baked.of(points, kind.width)
            ground = self._named[item.array.object]
            scattered_on = self._scattered(item.array, ground, laid.points_in)
            return under_copies.of(bake_mesh.of(kind.asked, kind.version, laid.points_in), laid.points_in, scattered_on)

        plan = self.plans.of_signal(signal)
        return self._plan_on_mesh(plan, item, points, matrix, "vertex", "value", bake_of=bake_of)

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
        carried = {} if plain else self.remembered(other)
        on = remembering_mesh.of(ground, tuple(carried), tuple(carried.values())) if carried else ground
        return _Laid(surface_copies.of(on, laid, matrix, array), space, placed, ground)

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


@derived("points at places", cost=Cost.INSTANT)
def _points_at(places: Array) -> Mesh:
    up = np.zeros_like(places)
    up[:, 1] = 1
    return Mesh(np.ascontiguousarray(places), np.zeros((0, 3), np.int32), up)


@derived("places of points", cost=Cost.INSTANT)
def _places_of(points: Mesh) -> Array:
    return points.vertices


@derived("mesh that remembers", cost=Cost.INSTANT)
def remembering_mesh(mesh: Mesh, names: tuple[str, ...], values: tuple[Array, ...]) -> Mesh:
    """A mesh with more attributes; those whose count does not fit are left out.

    Parameters
    ----------
    mesh : Mesh
        With v vertices.
    names : tuple of str
        Of the attributes.
    values : tuple of Array
        `(v, 1)` each.
    """
    fitting = {name: each for name, each in zip(names, values, strict=True) if len(each) == len(mesh.vertices)}
    return replace(mesh, attributes={**mesh.attributes, **fitting})


@derived("nothing baked", cost=Cost.INSTANT)
def _nothing_baked(points: Mesh, width: int) -> Array:
    return np.zeros((len(points.vertices), width), np.float32)
