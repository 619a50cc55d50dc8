"""One dependency graph: from a shot at a time to everything that a picture of it is made from.

Each method gives a derived value or puts some together; nothing is computed before it is wanted, and nothing twice.

    document ─ resolve(shot, frame) ─► resolved shot
       ├─ mesh ► search structure ► acceleration structure ► scene
       ├─ picture ► environment table ► lights
       ├─ plans of looks ► uniform rows ► materials, emission ► mesh lights
       └─ scene + materials + lights + view ► render context ► primary hits, film ► denoised picture
"""

from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from functools import cached_property

import numpy as np

from texallon.core.derived import Cost, Derived, DerivedStore, Given, checkpoint, content_key, derived
from texallon.core.document.base import Vector
from texallon.core.document.carried_looks import CarriedLooks, touched_channels
from texallon.core.document.channels import DISPLACING, SHADED
from texallon.core.document.object import Object
from texallon.core.document.problem import Problem
from texallon.core.document.resolved import ResolvedShot, resolve
from texallon.core.document.shot import Shot
from texallon.core.geometry.mesh import Mesh
from texallon.core.geometry.mesh_points import Domain
from texallon.core.geometry.rays import CLEAR, OPAQUE
from texallon.core.kernel import Array
from texallon.core.ops.points import Matrix
from texallon.core.points import find_point_data_kind
from texallon.core.points.distance import EVEN_HIDDEN
from texallon.core.points.distance import measured_from as of_kind
from texallon.core.render.camera.gbuffer import GBuffer, Sight
from texallon.core.render.camera.view import View, make_view
from texallon.core.render.cut_volumes import CutVolumes
from texallon.core.render.files import Files
from texallon.core.render.floating import afloat
from texallon.core.render.light.environment import EnvironmentTable, environment_table, made_sky
from texallon.core.render.light.lights import Lights, lit_lights, make_lights
from texallon.core.render.light.mesh_lights import MeshLights, join_emitters, make_mesh_lights, shining_faces
from texallon.core.render.scene.acceleration import (
    acceleration_structure,
    lamp_structure,
    search_structure,
    sphere_structure,
)
from texallon.core.render.scene.lamp_shapes import lamp_shapes
from texallon.core.render.scene.mesh_arrays import join_meshes
from texallon.core.render.scene.scene import (
    UNSEEN,
    MeshInstances,
    Scene,
    assemble_scene,
    instance_numbers,
    looks_of,
)
from texallon.core.render.scene.traits import LookTraits, look_traits
from texallon.core.render.scene_data import HeldSceneData, StoredSceneData
from texallon.core.render.shapes import OfMeasurable, Shapes, Stand, measured_from
from texallon.core.render.shot_plans import ShotPlans
from texallon.core.render.shot_volumes import ShotVolumes, volume_looks
from texallon.core.render.stored_files import stored
from texallon.core.render.surface.emission import Emission, emission_channels
from texallon.core.render.surface.materials import Materials
from texallon.core.render.surface.relief import Relief, follows
from texallon.core.render.surface.rows import LookRows, join_rows, split_uniform
from texallon.core.render.transport.context import RenderContext, frame_seed
from texallon.core.render.volume.points_in_view import PointsInView
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
        self.store = DerivedStore() if store is None else store
        self.files = stored(files, self.store)
        self._resolved = shot
        self.pool = pool

    @cached_property
    def shot(self) -> ResolvedShot:
        """The shot, with what floats where the water has it."""
        return afloat(self._resolved, self.files, self.store)

    def at(self, shot: ResolvedShot) -> "FrameGraph":
        """The same of another time, or of an edited shot: what they have in common is computed once.

        Parameters
        ----------
        shot : ResolvedShot
            Checked.
        """
        return FrameGraph(shot, self.files, self.store, self.pool)

    def with_changes(self, changes: Mapping[str, Mapping[str, object]]) -> "FrameGraph":
        """The same shot at the same time, with objects that are otherwise.

        Parameters
        ----------
        changes : mapping
            Members of objects, by the objects' names.
        """
        objects = [item.model_copy(update=changes.get(item.name)) for item in self._resolved.objects]
        return self.at(self._resolved.model_copy(update={"objects": objects}))

    def _at_frame(self, document: Shot, frame: float) -> ResolvedShot:
        return afloat(resolve(document, frame), self.files, self.store)

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
    def _standing(self) -> tuple[tuple[MeshInstances, ...], tuple[Derived[Mesh], ...], tuple[Stand, ...]]:
        """The instances of the shown objects, the distinct meshes, and where each stands; their geometry is read."""
        check = checkpoint()
        clear = {each.name for each in self.traits if each.clear}
        without_surface = volume_looks(self.shot)
        meshes: list[Derived[Mesh]] = []
        numbers: dict[tuple[str, str], int] = {}
        instances, stands = [], []
        for item in self.shown:
            check()
            item_key = content_key(item)
            for each in self.shapes.stands_of(item):
                worn_by = item if each.worn_by is None else each.worn_by
                if not len(each.matrices) or worn_by.look in without_surface:
                    continue
                # What remembers differently is not the same mesh, though nothing of its shape is made twice.
                shape = (each.mesh.content_key, content_key(each.remembered) if each.remembered else "")
                at = numbers.setdefault(shape, len(numbers))
                if at == len(meshes):
                    meshes.append(each.mesh)
                is_round = each.spheres is not None
                names = self.store.value(instance_numbers.of(item.name, each.numbers))
                mask = CLEAR if looks_of(worn_by) & clear else OPAQUE
                key = item_key if each.worn_by is None else content_key(worn_by)
                given = (each.matrices, mask, each.numbers, names, each.attributes)
                instances.append(MeshInstances(worn_by, at, *given, is_round, key, tuple(each.remembered)))
                stands.append(each)
        return tuple(instances), tuple(meshes), tuple(stands)

    @cached_property
    def scene_value(self) -> Derived[Scene]:
        """The scene, not yet put together; the geometry of its objects is read."""
        instances, distinct, stands = self._standing
        lamps = lamp_shapes(lit_lights(self.shot.lights))
        of_objects = tuple(
            search_structure.of(each.mesh) if each.spheres is None else sphere_structure.of(each.spheres)
            for each in stands
        )
        here = np.eye(4, dtype=np.float32)[None, :3]
        matrices = (*[each.matrices if each.spheres is None else each.space for each in stands], *[here] * len(lamps))
        masks = (*[each.mask for each in instances], *[OPAQUE if lamp.visible else UNSEEN for lamp in lamps])
        structures = (*of_objects, *[lamp_structure.of(lamp) for lamp in lamps])
        rays = acceleration_structure.of(structures, matrices, masks)
        surfaces: dict[str, tuple[OfMeasurable, ...]] = {}
        for each, stand in zip(instances, stands, strict=True):
            surfaces[each.item.name] = (*surfaces.get(each.item.name, ()), measured_from(stand))
        for name in self._required_though_hidden:
            if name.removesuffix(EVEN_HIDDEN) not in surfaces:
                surfaces[name] = self.shapes.measured(name)
        remembered = {each.mesh_number: stand.remembered for each, stand in zip(instances, stands, strict=True)}
        data = StoredSceneData(self.files, self.store, distinct, surfaces, remembered)
        return assemble_scene.of(
            instances, distinct, join_meshes.of(distinct), rays, lamps, self.traits, self.groups,
            Given(data, data.content_key),
        )  # fmt: skip

    @cached_property
    def _required_though_hidden(self) -> tuple[str, ...]:
        """What looks and signals measure from whether it is shown or not, as `points.distance` names it."""
        if all(item.visible for item in self.shot.objects):
            return ()
        plans = [self.plans.of_look(number) for number in range(len(self.shot.looks))]
        plans += [self.plans.of_signal(each.name) for each in self.shot.signals]
        named = {name for plan in plans for kind in plan.required_data if (name := of_kind(kind)) is not None}
        return tuple(sorted(name for name in named if name.endswith(EVEN_HIDDEN)))

    @cached_property
    def shapes(self) -> Shapes:
        """What the shot's objects consist of, and where that stands."""
        return Shapes(self.shot, self.files, self.store, self.plans, self._at_frame)

    def on_mesh(self, signal: str, item: Object, mesh: Derived[Mesh], matrix: Matrix, domain: Domain) -> Derived[Array]:
        """As `Shapes.on_mesh`.

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
        return self.shapes.on_mesh(signal, item, mesh, matrix, domain)

    @cached_property
    def scene(self) -> Scene:
        """The scene."""
        return self.store.value(self.scene_value)

    @cached_property
    def filled(self) -> ShotVolumes:
        """What fills bodies and the air."""
        return ShotVolumes(self.shot, self.store, self.plans, self.shapes, HeldSceneData(self.scene.data), self.pool)

    # -- looks ---------------------------------------------------------------------------------------------------

    @cached_property
    def carried_looks(self) -> CarriedLooks:
        """The looks that layers carry, by name."""
        return self.shot.carried_looks

    @cached_property
    def plans(self) -> ShotPlans:
        """The plans of its looks and signals."""
        return ShotPlans(self.shot, self.store)

    def problems(self) -> tuple[Problem, ...]:
        """What is wrong with the shot's recipes; empty where all can be planned."""
        # Before anything floats: what is wrong with a recipe would end that.
        return ShotPlans(self._resolved, self.store).problems()

    def plan(self, number: int, channels: frozenset[str] | None = None) -> Plan:
        """As `ShotPlans.of_look`.

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
        return self.plans.of_look(number, channels)

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
        relief = self.relief if any(map(follows, plans)) else None
        return Emission(tuple(plans), rows, relief, self.shot.camera.exposure)

    @cached_property
    def relief(self) -> Relief:
        """What looks raise and sink on surfaces."""
        bumps, heights, maps = [], [], []
        for number, look in enumerate(self.shot.looks):
            touched = touched_channels(look, self.carried_looks)
            bumps.append(self.plan(number, frozenset({"bump"})) if "bump" in touched else None)
            moved = DISPLACING & touched
            # Freely moved surfaces lean as their mesh does.
            heights.append(self.plan(number, moved) if moved == {"displacement"} else None)
            mapped = frozenset({"geometry_normal"})
            maps.append(self.plan(number, mapped) if mapped <= touched else None)
        return Relief(tuple(bumps), tuple(heights), tuple(maps))

    @cached_property
    def materials(self) -> Materials:
        """All looks at work."""
        plans = []
        for number, look in enumerate(self.shot.looks):
            touched = touched_channels(look, self.carried_looks)
            plans.append(self.plan(number, touched & SHADED if touched - SHADED else None))
        rows = join_rows([self._rows(plan) for plan in plans])
        return Materials(tuple(plans), self.relief, rows, self.emission, self.shot.camera.exposure)

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
        instances, meshes, stands = self._standing
        emission, scene = self.emission, self.scene
        bright = {look.name for look, plan in zip(self.shot.looks, emission.plans, strict=True) if plan is not None}
        relief = [] if emission.relief is None else emission.relief.plans
        read = {name for plan in (*emission.plans, *relief) if plan is not None for name in plan.required_data}
        kinds = [kind for name in read if (kind := find_point_data_kind(name)) is not None]
        about = self.scene_value if any(kind.of_others for kind in kinds) else None
        lit = [number for number, each in enumerate(instances) if looks_of(each.item) & bright]
        shining = []
        for number in lit:
            mesh, remembered = meshes[instances[number].mesh_number], stands[number].remembered
            key = content_key((instances[number], mesh, about, remembered))
            shining.append(shining_faces.of(Given(scene, key), number, emission))
        starts = tuple(int(scene.starts[number]) for number in lit)
        return make_mesh_lights.of(tuple(shining), starts, scene.objects)

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
        volumes, view = self.filled.volumes, self.view(width, height)
        if volumes is not None:
            volumes = volumes.looked_up(shot.sampling.volume_detail)
        points = self.filled.points_in_view(view)
        self.filled.count_bytes()
        given = (
            self.scene_value, materials, self.lights_value, self.mesh_lights_value, self.backdrop_value,
            self.filled.field_values, points, shot.sampling.volume_detail,
        )  # fmt: skip
        return RenderContext(
            scene, materials, lights, join_emitters(lights, mesh_lights, scene, self.filled.lights, self.filled.lamp_reach(lights.lamps)), view, shot.bounces,
            shot.limits, frame_seed(shot.seed, shot.time.frame), write_aovs=write_aovs, final=final, backdrop=backdrop,
            view_seed=shot.seed if steady else None, given=content_key(given), volumes=volumes,
            points_seen=lambda: self.points_seen(view),
        )  # fmt: skip

    def points_seen(self, view: View) -> PointsInView | None:
        """What bright points of volumes add to the pixels of a view; nothing where there are none.

        Parameters
        ----------
        view : View
            The camera's, of a picture of any size.
        """
        points = self.filled.points_in_view(view)
        return None if points is None else self.store.value(points)

    def gbuffer(
        self, width: int, height: int, sample: int = 0, detail: float = 1.0, cut: float | None = 0.5
    ) -> GBuffer:
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
        cut : float or None, optional
            Where volumes are cut across the view, from near (0) to far (1); None: as deep as the camera sees.
        """
        clear = frozenset(number for number, each in enumerate(self.traits) if each.clear)
        sight = Sight(self.view(width, height).sharp, self.shot.seed, sample, clear, detail)
        cuts = CutVolumes(self.filled, cut) if volume_looks(self.shot) else None
        return GBuffer(self.scene, sight, self.store, self.pool, lambda: self.relief, cuts)


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
