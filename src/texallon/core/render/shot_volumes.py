"""The volumes of one shot at one time: which bodies are filled, with what, and the light that they send out."""

from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import cached_property

import numpy as np

from texallon.core.derived import Derived, DerivedStore, Given, content_key
from texallon.core.document.body import Box, Sphere
from texallon.core.document.carried_looks import touched_channels
from texallon.core.document.light_group import group_number
from texallon.core.document.object import Object
from texallon.core.document.resolved import ResolvedShot
from texallon.core.geometry.mesh import MeshError
from texallon.core.kernel import Array
from texallon.core.points import find_point_data_kind
from texallon.core.render.camera.view import View
from texallon.core.render.light.volume_lights import VolumeLights, make_volume_lights
from texallon.core.render.scene.acceleration import search_structure
from texallon.core.render.scene.scene import SceneData
from texallon.core.render.shapes import Shapes, Stand
from texallon.core.render.shot_plans import ShotPlans
from texallon.core.render.volume.brick_field import BrickField
from texallon.core.render.volume.bright_points import ListedPoints, PointSource, bright_points
from texallon.core.render.volume.field_of_source import brick_field, medium_plan, shining_volume
from texallon.core.render.volume.grid import FINEST
from texallon.core.render.volume.lamp_reach import extinction_about, reach_of_lamps
from texallon.core.render.volume.medium_values import OF_MEDIUM, OF_POINTS, MediumPlan
from texallon.core.render.volume.points_in_view import PointsInView, points_in_view
from texallon.core.render.volume.source_values import SourceValues, source_values
from texallon.core.render.volume.tables import BALL, BOX, CLOSED
from texallon.core.render.volume.volume_points import VolumeSpace
from texallon.core.render.volume.volumes import Container, MediumSource, Volumes, next_tick
from texallon.core.signal.plan import Plan

BRICKS, SOURCES = 0.4, 0.15
"""Parts of the store's budget that bricks of all volumes may take, and the values of sources that they are made from."""

MOST_SAVED = 200_000_000
"""Bytes of one volume's bricks that are kept on disk."""

MOST_ALIKE = 500
"""Bricks that an edited look is given at once, the coarsest of those that the look before it had in use: so many are there in time for a picture that follows a hand."""

MOST_VOLUMES = 256
"""In one shot, copies counted: each has bricks of its own."""


class ShotVolumes:
    """The volumes of one shot at one time.

    Parameters
    ----------
    shot : ResolvedShot
        Checked.
    store : DerivedStore
        Where values are kept.
    plans : ShotPlans
        Of its looks.
    shapes : Shapes
        What its objects consist of.
    data : SceneData
        What recipes measure from.
    pool : ThreadPoolExecutor, optional
        Threads that bricks are filled by.
    """

    def __init__(
        self,
        shot: ResolvedShot,
        store: DerivedStore,
        plans: ShotPlans,
        shapes: Shapes,
        data: SceneData,
        pool: ThreadPoolExecutor | None = None,
    ) -> None:
        self._pool = pool
        self.shot, self.store, self.plans, self.shapes, self.data = shot, store, plans, shapes, data
        self._numbers = {look.name: number for number, look in enumerate(shot.looks)}
        self._groups = tuple(group.name for group in shot.light_groups)

    @cached_property
    def containers(self) -> tuple[Container, ...]:
        """What is filled; the air last.

        Raises
        ------
        MeshError
            Where what is to be filled has no inside.
        """
        found: list[Container] = []
        own = volume_looks(self.shot)
        for item in self.shot.objects:
            name = item.filled_with if item.look not in own else item.look
            if name is None or not item.visible:
                continue
            for stand in self.shapes.stands_of(item):
                found += self._filled(item, name, stand)
                if len(found) > MOST_VOLUMES:
                    raise MeshError(f"with “{item.name}” there are more than {MOST_VOLUMES} volumes in the shot")
        return (*found, *self._air())

    def _filled(self, item: Object, look: str, stand: Stand) -> Iterator[Container]:
        if stand.spheres is not None:
            raise MeshError(f"“{item.name}” consists of particles, which have no inside to be filled: give them a skin")
        body = item.geometry
        plain = item.displacement is None and item.subdivision is None and item.filled_with is None
        kind, structure = CLOSED, None
        low, high = (np.asarray(each, np.float32) for each in self.store.value(stand.mesh).bounds)
        if plain and isinstance(body, Box) and body.rounding == 0:
            kind = BOX
        elif plain and isinstance(body, Sphere):
            kind = BALL
            low = np.array([-body.radius, 0, -body.radius], np.float32)
            high = np.array([body.radius, 2 * body.radius, body.radius], np.float32)
        if kind == CLOSED:
            structure = self.store.value(search_structure.of(stand.mesh))
        group = group_number(self._groups, item.group)
        for matrix in stand.matrices:
            yield Container(item.name, self._numbers[look], kind, matrix, low, high, group, structure)

    def _air(self) -> Iterator[Container]:
        air = self.shot.atmosphere
        if air is None or not air.on:
            return
        (x, z), reach = air.centre, air.reach
        low = np.array([x - reach, air.floor, z - reach], np.float32)
        high = np.array([x + reach, air.ceiling, z + reach], np.float32)
        yield Container("", self._numbers[air.look], BOX, np.eye(4, dtype=np.float32)[:3], low, high)

    def plan(self, look: int) -> Plan | None:
        """The plan of what a look's medium is like; nothing where no layer says anything.

        Parameters
        ----------
        look : int
            By position in the document.
        """
        wanted = touched_channels(self.shot.looks[look], self.shot.carried_looks) & OF_MEDIUM
        return self.plans.of_look(look, wanted) if wanted else None

    def source_value(self, container: Container) -> Given[MediumSource]:
        """What fills a container.

        Parameters
        ----------
        container : Container
            One of the shot's.
        """
        space = VolumeSpace(container.matrix, self.data)
        medium: Derived[MediumPlan] = medium_plan.of(self.plan(container.look))
        made = self.store.value(medium)
        about = self._about(made.varying)
        key = content_key((medium, container.matrix, about))
        values = self.store.value(self._values_of(container))
        return Given(MediumSource(made, space, self.data, values), key)

    def _share_of(self, part: float) -> int:
        """Bytes that one volume may have of a part of the store's budget; the number of volumes is rounded up, so that one more or less seldom changes it."""
        among: int = 1 << max(len(self.containers) - 1, 0).bit_length()
        return int(self.store.budget * part) // among

    def _values_of(self, container: Container) -> Derived[SourceValues]:
        return source_values.of(self._place_key(container), self._share_of(SOURCES))

    def _place_key(self, container: Container) -> str:
        return content_key((container.kind, container.low, container.high, container.matrix))

    def _place(self, container: Container) -> Given[Container]:
        key = content_key((container.kind, container.low, container.high, container.matrix, container.group))
        return Given(container, key)

    @cached_property
    def field_values(self) -> tuple[Derived[BrickField], ...]:
        """The bricks of each, not yet made."""
        # The table of bricks takes room whether bricks are used or not: of many volumes each is stored less finely.
        many = len(self.containers)
        finest = FINEST if many <= 4 else FINEST // 2 if many <= 32 else FINEST // 4
        return tuple(
            brick_field.of(self.source_value(each), self._place(each), finest, self._share_of(BRICKS))
            for each in self.containers
        )

    @cached_property
    def volumes(self) -> Volumes | None:
        """All of them, with their bricks; nothing where nothing is filled."""
        if not self.containers:
            return None
        fields = tuple(self._field(each) for each in self.field_values)
        # Where volumes shine is looked at meanwhile: both take as long after an edit.
        lights = None if self._pool is None else self._pool.submit(lambda: self.lights)
        for container, field in zip(self.containers, fields, strict=True):
            values = self.store.value(self._values_of(container))
            tick = next_tick()
            alike = values.begin_picture(field, tick)
            # Coarser levels come later in the table.
            field.fill_alike(np.sort(alike)[-MOST_ALIKE:], tick, self._pool)
        if lights is not None:
            lights.result()
        return Volumes(self.containers, fields, content_key(self.field_values))

    def _field(self, wanted: Derived[BrickField]) -> BrickField:
        """A field, with what runs before have evaluated of it."""
        disk = self.store.disk
        if disk is None or self.store.known(wanted):
            return self.store.value(wanted)
        field = self.store.value(wanted)
        saved = disk.load(wanted.content_key)
        if saved is not None:
            field.restore(saved)
        return field

    def keep_on_disk(self) -> None:
        """Keep what has been evaluated for runs to come, where there is a disk to keep it on."""
        disk = self.store.disk
        if disk is None or not self.containers:
            return
        for wanted in self.field_values:
            field = self.store.peek(wanted)
            if field is not None and field.unsaved:
                disk.keep(wanted.content_key, field.save(MOST_SAVED))

    @cached_property
    def lights(self) -> VolumeLights:
        """Those that shine."""
        shining = []
        for number, each in enumerate(self.containers):
            place = self._place(each)
            shining.append(shining_volume.of(self.source_value(each), self._points[number], place))
        return make_volume_lights(tuple(self.store.value(each) for each in shining))

    def lamp_reach(self, lamps: Array) -> Array:
        """Metres about each lamp in which rays through volumes ask it at places of their own, `(l,)`; 0 where there are no volumes.

        Parameters
        ----------
        lamps : Array
            `(l, LAMP)` the table of lamps.
        """
        if not len(lamps) or not self.containers:
            return np.zeros(len(lamps), np.float32)
        about = [extinction_about.of(self.source_value(each), self._place(each), lamps) for each in self.containers]
        return reach_of_lamps(lamps, np.sum([self.store.value(each) for each in about], axis=0))

    @cached_property
    def _points(self) -> tuple[Derived[ListedPoints] | None, ...]:
        """The bright points of each, not yet listed."""
        return tuple(self._points_of(each) for each in self.containers)

    def _points_of(self, container: Container) -> Derived[ListedPoints] | None:
        look = self.shot.looks[container.look]
        touched = touched_channels(look, self.shot.carried_looks) & OF_POINTS
        if look.points is None or "point_emission" not in touched:
            return None
        plan = self.plans.of_look(container.look, touched)
        source = PointSource(plan, VolumeSpace(container.matrix, self.data), self.data)
        key = content_key((plan, container.matrix, self._about(plan)))
        return bright_points.of(Given(source, key), self._place(container), look.points)

    def _about(self, plan: Plan | None) -> str | None:
        """What tells the things apart that a plan measures from, where it measures from any."""
        read = frozenset[str]() if plan is None else plan.required_data
        kinds = [kind for name in read if (kind := find_point_data_kind(name)) is not None]
        return self.data.content_key if any(kind.of_others for kind in kinds) else None

    def points_in_view(self, view: View) -> Derived[PointsInView] | None:
        """What bright points add to the pixels of a view; nothing where there are none.

        Parameters
        ----------
        view : View
            The camera's.
        """
        pairs = [(each, self.containers[k].group) for k, each in enumerate(self._points) if each is not None]
        return (
            points_in_view.of(tuple(each for each, _ in pairs), tuple(group for _, group in pairs), view)
            if pairs
            else None
        )

    def count_bytes(self) -> None:
        """Count what bricks take by now against the budget of what is kept."""
        for each in self.field_values:
            self.store.refresh(each)
        for container in self.containers:
            self.store.refresh(self._values_of(container))


def volume_looks(shot: ResolvedShot) -> frozenset[str]:
    """The names of the looks of the volume domain.

    Parameters
    ----------
    shot : ResolvedShot
        Checked.
    """
    return frozenset(look.name for look in shot.looks if look.domain == "volume")
