"""One dependency graph: from a shot at a time to everything that a picture of it is made from.

Each method gives a derived value or puts some together; nothing is computed before it is wanted, and nothing twice.

    document ─ resolve(shot, frame) ─► resolved shot
       ├─ mesh ► search structure ► acceleration structure ► scene
       ├─ picture ► environment table ► lights
       ├─ plans of looks ► uniform rows ► materials, emission ► mesh lights
       └─ scene + materials + lights + view ► render context ► primary hits, film ► denoised picture
"""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from functools import cached_property

import numpy as np

from texallon.core.derived import Cost, Derived, DerivedStore, Given, checkpoint, content_key, derived
from texallon.core.document.array import GridArray, RingArray
from texallon.core.document.base import Vector
from texallon.core.document.carried_looks import CarriedLooks, touched_channels
from texallon.core.document.channels import DISPLACING, SHADED
from texallon.core.document.displacement import Displacement, Subdivision
from texallon.core.document.object import Object
from texallon.core.document.problem import Problem
from texallon.core.document.resolved import ResolvedShot
from texallon.core.geometry.array_places import array_places
from texallon.core.geometry.closest import PlacedSurface, placed_surface
from texallon.core.geometry.displaced import FINEST, Bounds, displaced, look_heights
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.mesh_points import Domain
from texallon.core.geometry.picked_parts import picked_parts
from texallon.core.geometry.rays import CLEAR, OPAQUE, MeshRays
from texallon.core.geometry.subdivide import subdivided
from texallon.core.geometry.values_on_mesh import MeshPlace, values_on_mesh
from texallon.core.kernel import Array
from texallon.core.ops.points import Matrix
from texallon.core.points import BakedPointData, find_point_data_kind
from texallon.core.render.camera.gbuffer import GBuffer, Sight
from texallon.core.render.camera.view import View, make_view
from texallon.core.render.files import Files
from texallon.core.render.light.environment import EnvironmentTable, environment_table, made_sky
from texallon.core.render.light.lights import Lights, lit_lights, make_lights
from texallon.core.render.light.mesh_lights import MeshLights, join_emitters, make_mesh_lights, shining_faces
from texallon.core.render.plans import (
    Aim,
    Placement,
    PlanReads,
    ScopeOfPlans,
    look_plan,
    plan_reads,
    recipe_problems,
    signal_plan,
    signal_reads,
)
from texallon.core.render.scene.acceleration import acceleration_structure, lamp_structure, search_structure
from texallon.core.render.scene.lamp_shapes import lamp_shapes
from texallon.core.render.scene.mesh_arrays import bake_mesh, join_meshes
from texallon.core.render.scene.scene import UNSEEN, Instance, Scene, assemble_scene, looks_of
from texallon.core.render.scene.traits import LookTraits, look_traits
from texallon.core.render.scene_data import HeldSceneData, StoredSceneData
from texallon.core.render.stored_files import StoredFiles
from texallon.core.render.surface.emission import Emission, emission_channels
from texallon.core.render.surface.materials import Materials, Relief
from texallon.core.render.surface.rows import LookRows, join_rows, split_uniform
from texallon.core.render.transport.context import RenderContext, frame_seed
from texallon.core.signal.placement import Matrix4, Places
from texallon.core.signal.plan import Plan


@derived("backdrop", cost=Cost.INSTANT)
def backdrop_picture(picture: Array | None, colour: Vector) -> Array:
    """What stands behind everything, `(h, w, 3)`: a picture, or one pixel of white, times a colour.

    Parameters
    ----------
    picture : Array, optional
        `(h, w, 3)`; white where there is none.
    colour : Vector
        Multiplies it.

    Returns
    -------
    Array
        `(h, w, 3)`.
    """
    shown = np.ones((1, 1, 3), np.float32) if picture is None else picture
    return np.ascontiguousarray(shown * np.array(colour, np.float32), np.float32)


class FrameGraph:
    """The derived values of one shot at one time.

    Parameters
    ----------
    shot : ResolvedShot
        Checked.
    files : Files
        Where its meshes and pictures are read from.
    store : DerivedStore, optional
        Where values are kept; one of its own unless given. Graphs of other times and of edited shots share what they have in common.
    pool : ThreadPoolExecutor, optional
        Threads for what is computed in pieces.
    """

    def __init__(
        self,
        shot: ResolvedShot,
        files: Files,
        store: DerivedStore | None = None,
        pool: ThreadPoolExecutor | None = None,
    ) -> None:
        self.shot = shot
        self.store = DerivedStore() if store is None else store
        self.files = StoredFiles(files, self.store)
        self.pool = pool

    # -- geometry ------------------------------------------------------------------------------------------------

    @cached_property
    def shown(self) -> tuple[Object, ...]:
        """The objects that are visible."""
        return tuple(item for item in self.shot.objects if item.visible)

    @cached_property
    def traits(self) -> tuple[LookTraits, ...]:
        """What rays must know of each look."""
        return tuple(look_traits(look, self.carried_looks) for look in self.shot.looks)

    @cached_property
    def groups(self) -> tuple[str, ...]:
        """The names of the light groups."""
        return tuple(group.name for group in self.shot.light_groups)

    @cached_property
    def _standing(self) -> tuple[tuple[Instance, ...], tuple[Derived[Mesh], ...]]:
        """The instances of the shown objects, and the distinct meshes; their geometry is read."""
        check = checkpoint()
        clear = {each.name for each in self.traits if each.clear}
        meshes: dict[str, Derived[Mesh]] = {}
        numbers: dict[str, int] = {}
        instances = []
        for item in self.shown:
            check()
            placed = self._places.object(item.name)
            source = self.shaped(item, placed.astype(np.float32)[:3])
            mask, item_key = CLEAR if looks_of(item) & clear else OPAQUE, content_key(item)
            for number, (of_piece, matrix) in enumerate(self._placed_pieces(source, placed, item.array)):
                meshes.setdefault(of_piece.content_key, of_piece)
                at = numbers.setdefault(of_piece.content_key, len(numbers))
                instances.append(Instance(item, at, matrix, mask, number, item_key))
        return tuple(instances), tuple(meshes.values())

    @cached_property
    def scene_value(self) -> Derived[Scene]:
        """The scene, not yet put together; the geometry of its objects is read."""
        instances, distinct = self._standing
        lamps = lamp_shapes(lit_lights(self.shot.lights))
        of_mesh = [search_structure.of(mesh) for mesh in distinct]
        structures: list[Derived[MeshRays]] = [of_mesh[each.mesh_number] for each in instances]
        structures += [lamp_structure.of(lamp) for lamp in lamps]
        matrices = [each.matrix for each in instances] + [np.eye(4, dtype=np.float32)[:3]] * len(lamps)
        masks = [each.mask for each in instances]
        masks += [OPAQUE if lamp.visible else UNSEEN for lamp in lamps]
        rays = acceleration_structure.of(
            tuple(structures), np.array(matrices, np.float32).reshape(-1, 3, 4), tuple(masks)
        )
        data = StoredSceneData(self.files, self.store, distinct, instances)
        return assemble_scene.of(
            instances, distinct, join_meshes.of(distinct), rays, lamps, self.traits, self.groups,
            Given(data, data.content_key),
        )  # fmt: skip

    def shaped(self, item: Object, matrix: Matrix) -> Derived[Mesh]:
        """An object's mesh as it is seen: divided, with the parts that signals pick, displaced.

        Parameters
        ----------
        item : Object
            Of the shot.
        matrix : Matrix
            `(3, 4)` into the world.
        """
        made, finer = self.files.object_value(item), item.subdivision
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
        pixel = away * self.view(*self.shot.resolution).pixel_angle
        if pixel <= 0 or found.points_apart <= 0:  # the eye stands in it, or its faces have no size to go by
            return wanted.levels
        return min(max(int(np.ceil(np.log2(found.points_apart / (pixel * wanted.edge_pixels)))), 0), wanted.levels)

    def _displaced(self, item: Object, bounds: Displacement, mesh: Derived[Mesh], matrix: Matrix) -> Derived[Mesh]:
        names = self.store.value(mesh).part_names
        worn = {part.name: part.look for part in item.parts}
        heights, moves = [], False
        for number, look in enumerate(self.shot.looks):
            wearing = tuple(at for at, name in enumerate(names) if worn.get(name, item.look) == look.name)
            moving = DISPLACING & touched_channels(look, self.carried_looks)
            if not wearing:
                continue
            if not moving:
                heights.append(look_heights.of(wearing, None, None))
                continue
            moves, plan = True, self.plan(number, moving)
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
        reads = self.store.value(signal_reads.of(self._names, signal))
        plan = self.store.value(signal_plan.of(self._scope_of(reads), signal))
        return self._plan_on_mesh(plan, item, mesh, matrix, domain, "value")

    def _plan_on_mesh(
        self,
        plan: Plan,
        item: Object,
        mesh: Derived[Mesh],
        matrix: Matrix,
        domain: Domain,
        output: str,
        detail: float = 1.0,
    ) -> Derived[Array]:
        # Where an object stands counts only for what reads that: else it may be moved, and others like it share what was found.
        needed = plan.required_data
        kinds = [kind for each in needed if (kind := find_point_data_kind(each)) is not None]
        if not needed & {"position", "normal", "view"} and not any(kind.of_others for kind in kinds):
            matrix = np.concatenate([matrix[:, :3], np.zeros((3, 1), np.float32)], axis=1)
        name = item.name if needed & {"object_id", "part_id", "instance_id"} else ""
        baked = [kind for name in sorted(plan.required_data) if (kind := _baked(name)) is not None]
        bakes = tuple((kind.asked, bake_mesh.of(kind.asked, kind.version, mesh)) for kind in baked)
        others = sorted({each.split(",", 2)[2] for each in plan.required_data if each.startswith("distance:")})
        surfaces = tuple((each, self._surface_of(each)) for each in others)
        # The plan names each picture with its digest.
        given, pictures = Given(plan, plan.content_key), Given(self.files.pyramid, "pictures")
        return values_on_mesh.of(
            given, output, mesh, MeshPlace(name, matrix, domain, detail), bakes, surfaces, pictures
        )

    def _surface_of(self, name: str) -> tuple[Derived[PlacedSurface], ...]:
        """A shown object to measure from, before parts are picked: those change nothing of its shape."""
        return tuple(
            placed_surface.of(piece, matrix)
            for item in self.shown
            if item.name == name
            for piece, matrix in self._placed_pieces(
                self.files.object_value(item), self._places.object(name), item.array
            )
        )

    def _placed_pieces(
        self, source: Derived[Mesh], placed: Matrix4, array: GridArray | RingArray | None
    ) -> Iterator[tuple[Derived[Mesh], Matrix]]:
        """The distinct meshes that an object and its copies are made of, each with its `(3, 4)` matrix into the world."""
        geometry = self.store.value(source)
        pieces = [
            (source if each.mesh is geometry else _given_mesh(each.mesh), each.matrix) for each in geometry.pieces()
        ]
        for copy in array_places(array):
            for of_piece, own in pieces:
                matrix = placed @ copy if own is None else placed @ copy @ own
                yield of_piece, matrix.astype(np.float32)[:3]

    @cached_property
    def scene(self) -> Scene:
        """The scene."""
        return self.store.value(self.scene_value)

    # -- looks ---------------------------------------------------------------------------------------------------

    @cached_property
    def carried_looks(self) -> CarriedLooks:
        """The looks that layers carry, by name."""
        return self.shot.carried_looks

    @cached_property
    def scope(self) -> ScopeOfPlans:
        """What plans depend on beside their look."""
        placements = tuple(
            Placement(item.name, item.follows, item.belongs_to, item.position, item.rotation, item.scale, item.stretch)
            for item in self.shot.objects
        )
        shot = self.shot
        aim = Aim(shot.camera.position, shot.camera.target)
        return ScopeOfPlans(
            tuple(shot.signals),
            tuple(shot.locators),
            placements,
            tuple(shot.object_groups),
            self.carried_looks,
            aim,
            shot.time,
        )

    @cached_property
    def _names(self) -> Given[ScopeOfPlans]:
        names = self.scope.of_names()
        return Given(names, content_key(names))

    @cached_property
    def _places(self) -> Places:
        return Places(self.shot)

    def _scope_of(self, reads: PlanReads) -> Given[ScopeOfPlans]:
        """The scope, keyed by what of it a plan reads."""
        places = {key: self._place(key) for key in reads.spaces}
        key = content_key((self._names, places, self.shot.time if reads.time else None))
        return Given(self.scope, key)

    def _place(self, key: str) -> object:
        kind, _, name = key.partition(":")
        if kind == "locator":
            return self._places.locator(name) if any(each.name == name for each in self.shot.locators) else None
        if kind == "object":
            return self._places.object(name) if any(each.name == name for each in self.shot.objects) else None
        return self.scope.camera

    def problems(self) -> tuple[Problem, ...]:
        """What is wrong with the shot's recipes; empty where all can be planned."""
        return self.store.value(recipe_problems.of(self._names, tuple(self.shot.looks)))

    def plan(self, number: int, channels: frozenset[str] | None = None) -> Plan:
        """The plan of a look by its position; for all channels that any layer touches, unless some are given.

        Parameters
        ----------
        number : int
            Position of the look.
        channels : frozenset of str, optional
            All that any layer touches, unless given.

        Raises
        ------
        DocumentError
            Where a recipe can't be planned.
        """
        look = self.shot.looks[number]
        reads = self.store.value(plan_reads.of(self._names, look, number, channels))
        return self.store.value(look_plan.of(self._scope_of(reads), look, number, channels))

    def _rows(self, plan: Plan | None) -> LookRows:
        return self.store.value(split_uniform.of(plan))

    @cached_property
    def emission(self) -> Emission:
        """The light that looks send out themselves."""
        plans: list[Plan | None] = []
        for number, look in enumerate(self.shot.looks):
            channels = emission_channels(look, self.carried_looks)
            plans.append(self.plan(number, channels) if channels else None)
        rows = join_rows([self._rows(plan) for plan in plans])
        return Emission(tuple(plans), rows, self.shot.camera.exposure)

    @cached_property
    def materials(self) -> Materials:
        """All looks at work."""
        plans, bumps, heights = [], [], []
        for number, look in enumerate(self.shot.looks):
            touched = touched_channels(look, self.carried_looks)
            plans.append(self.plan(number, touched & SHADED if touched - SHADED else None))
            bumps.append(self.plan(number, frozenset({"bump"})) if "bump" in touched else None)
            moved = DISPLACING & touched
            # Freely moved surfaces lean as their mesh does.
            heights.append(self.plan(number, moved) if moved == {"displacement"} else None)
        rows = join_rows([self._rows(plan) for plan in plans])
        relief = Relief(tuple(bumps), tuple(heights))
        return Materials(tuple(plans), relief, rows, self.emission, self.shot.camera.exposure)

    # -- light ---------------------------------------------------------------------------------------------------

    @cached_property
    def environment_value(self) -> Derived[EnvironmentTable]:
        """The environment's table: of a made sky, of a picture, or plain white."""
        environment = self.shot.environment
        picture: Derived[Array] | None = None
        if environment.sky is not None:
            picture = made_sky.of(environment.sky)
        elif environment.image is not None:
            picture = self.files.image_value(environment.image)
        return environment_table.of(picture, environment.colour, environment.intensity)

    @cached_property
    def lights_value(self) -> Derived[Lights]:
        """The environment and the lamps."""
        shot = self.shot
        return make_lights.of(
            self.environment_value, shot.environment, lit_lights(shot.lights), self.groups, shot.backdrop is not None,
            self.scene.radius,
        )  # fmt: skip

    @cached_property
    def mesh_lights_value(self) -> Derived[MeshLights]:
        """The surfaces that shine. Each instance is looked at by itself, so that what moves beside it changes nothing."""
        instances, meshes = self._standing
        emission, scene = self.emission, self.scene
        bright = {look.name for look, plan in zip(self.shot.looks, emission.plans, strict=True) if plan is not None}
        read = {name for plan in emission.plans if plan is not None for name in plan.required_data}
        kinds = [kind for name in read if (kind := find_point_data_kind(name)) is not None]
        about = self.scene_value if any(kind.of_others for kind in kinds) else None
        lit = [number for number, each in enumerate(instances) if looks_of(each.item) & bright]
        shining = []
        for number in lit:
            key = content_key((instances[number], meshes[instances[number].mesh_number], about))
            shining.append(shining_faces.of(Given(scene, key), number, emission))
        return make_mesh_lights.of(tuple(shining), tuple(lit), scene.objects)

    @cached_property
    def backdrop_value(self) -> Derived[Array] | None:
        """What stands behind everything; nothing where the surroundings do."""
        backdrop = self.shot.backdrop
        if backdrop is None:
            return None
        picture = None if backdrop.image is None else self.files.image_value(backdrop.image)
        return backdrop_picture.of(picture, backdrop.colour)

    # -- pictures ------------------------------------------------------------------------------------------------

    def view(self, width: int, height: int) -> View:
        """The camera's view for a picture of some pixels.

        Parameters
        ----------
        width : int
            Pixels across.
        height : int
            Pixels down.
        """
        return make_view(self.shot.camera, width, height)

    def context(
        self, width: int, height: int, write_aovs: bool = False, final: bool = True, steady: bool = False
    ) -> RenderContext:
        """Everything that a render of the shot needs.

        Parameters
        ----------
        width : int
            Pixels across.
        height : int
            Pixels down.
        write_aovs : bool
            Whether light is also kept by the way it came.
        final : bool
            Whether no light is held down.
        steady : bool
            Whether camera rays are the same at all frames, so that what they hit can be kept.

        Raises
        ------
        DocumentError, MeshError, FileNotFoundError
            Where a look can't be planned or a file can't be read.
        """
        shot, store = self.shot, self.store
        scene, materials = replace(self.scene, data=HeldSceneData(self.scene.data)), self.materials
        lights, mesh_lights = store.value(self.lights_value), store.value(self.mesh_lights_value)
        backdrop = None if self.backdrop_value is None else store.value(self.backdrop_value)
        given = (self.scene_value, materials, self.lights_value, self.mesh_lights_value, self.backdrop_value)
        return RenderContext(
            scene, materials, lights, join_emitters(lights, mesh_lights, scene), self.view(width, height), shot.bounces,
            shot.limits, frame_seed(shot.seed, shot.time.frame), write_aovs=write_aovs, final=final, backdrop=backdrop,
            view_seed=shot.seed if steady else None, given=content_key(given),
        )  # fmt: skip

    def gbuffer(self, width: int, height: int, sample: int = 0, detail: float = 1.0) -> GBuffer:
        """What the camera sees, as points, for a picture of some pixels.

        Parameters
        ----------
        width : int
            Pixels across.
        height : int
            Pixels down.
        sample : int, optional
            Of the jitter within pixels.
        detail : float, optional
            Scales the footprints of points.
        """
        clear = frozenset(number for number, each in enumerate(self.traits) if each.clear)
        sight = Sight(self.view(width, height).sharp, self.shot.seed, sample, clear, detail)
        return GBuffer(self.scene, sight, self.store, self.pool)


def _baked(name: str) -> BakedPointData | None:
    kind = find_point_data_kind(name)
    return kind if isinstance(kind, BakedPointData) else None


@derived("mesh of a geometry", cost=Cost.INSTANT)
def _mesh_itself(mesh: Mesh) -> Mesh:
    return mesh


def _given_mesh(mesh: Mesh) -> Derived[Mesh]:
    return _mesh_itself.of(mesh)


def make_scene(shot: ResolvedShot, files: Files) -> Scene:
    """A shot's scene, apart from any picture.

    Parameters
    ----------
    shot : ResolvedShot
        At its time.
    files : Files
        Where meshes and pictures are read from.

    Raises
    ------
    MeshError, FileNotFoundError
        Where its geometry can't be read.
    """
    return FrameGraph(shot, files).scene
