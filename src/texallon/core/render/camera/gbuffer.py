"""What the camera sees, as points: for showing one signal alone, and for measuring the values that steps take in.

Hits, point data and the value of every step are derived values, so that an edit runs only the steps downstream of it.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import NamedTuple, Protocol

import numpy as np

from texallon.core.columns import take_columns
from texallon.core.derived import Derived, DerivedStore, Given, checkpoint, content_key, derived
from texallon.core.geometry.rays import OPAQUE, Hits
from texallon.core.kernel import Array, Integers
from texallon.core.render.camera.view import View, camera_rays
from texallon.core.render.scene.hit_points import FOLLOWED, ReliefOfLooks, point_data
from texallon.core.render.scene.scene import SEEN, Scene
from texallon.core.render.scene.surface import Surface, beyond, surface_at, take_surface
from texallon.core.render.volume.volumes import Container
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import NodeValues, evaluate

CHUNK = 16384
"""Rays traced between two looks at whether the picture is still wanted."""

MOST_SHELLS = 32
"""Clear surfaces that are looked through for one behind them."""


class VisiblePoints(NamedTuple):
    """Points that the camera sees: `view (3, n)` towards the eye, `footprint (1, n)`, hits, surface and `pixels (n,)`."""

    view: Array
    footprint: Array
    hits: Hits
    surface: Surface
    pixels: Integers


@dataclass(frozen=True)
class Sight:
    """How points are looked for.

    Attributes
    ----------
    view : View
        Without a lens.
    seed, sample : int
        Of the jitter within pixels.
    clear : frozenset of int
        Looks (positions in the document) that let others be seen behind them.
    detail : float
        Scales the footprint of the points: below 1 they stand for those of a larger picture.
    """

    view: View
    seed: int
    sample: int = 0
    clear: frozenset[int] = frozenset()
    detail: float = 1.0


class BatchOfPoints(Protocol):
    """Points that a recipe is looked at on: seen surfaces, or a cut through volumes."""

    @property
    def content_key(self) -> str: ...

    @property
    def pixels(self) -> Integers: ...

    @property
    def instance(self) -> Integers: ...

    def point(self, name: str) -> Array:
        """One kind of point data `(width, n)`.

        Parameters
        ----------
        name : str
            Of the kind of point data.
        """

    def values(self, plan: Plan, pool: ThreadPoolExecutor | None = None) -> dict[str, Array]:
        """The plan's outputs at these points, each `(width, n)`.

        Parameters
        ----------
        plan : Plan
            What is wanted, and the steps that lead to it.
        pool : ThreadPoolExecutor, optional
            Threads that chunks are run by.
        """


class Cuts(Protocol):
    """Volumes that are cut open, for looks that no surface wears."""

    @property
    def content_key(self) -> str: ...

    @property
    def containers(self) -> tuple[Container, ...]: ...

    def fills(self, look: int) -> bool:
        """Whether a look is of the volume domain.

        Parameters
        ----------
        look : int
            Position in the document.
        """

    def batch(self, look: int, sight: Sight) -> BatchOfPoints:
        """Points of a cut.

        Parameters
        ----------
        look : int
            Position in the document.
        sight : Sight
            How points are looked for.
        """


class GBuffer:
    """The first surface behind every pixel of a view, in a batch for each look.

    Looks are also found behind water, glass and what is cut out, straight through: a mask on the bed of a pond, or on what glows
    inside a pod, is worth seeing.

    Parameters
    ----------
    scene : Scene
    sight : Sight
    store : DerivedStore, optional
        Where points and values are kept; one of its own unless given.
    pool : ThreadPoolExecutor, optional
        Rays are traced and plans are run by its threads.
    relief : callable, optional
        Gives what masks may follow, when one does.
    cuts : Cuts, optional
        Volumes that are cut open.
    """

    def __init__(
        self,
        scene: Scene,
        sight: Sight,
        store: DerivedStore | None = None,
        pool: ThreadPoolExecutor | None = None,
        relief: Callable[[], ReliefOfLooks] | None = None,
        cuts: Cuts | None = None,
    ) -> None:
        self.cuts = cuts
        self.detail = sight.detail
        self.view = sight.view
        self.scene = scene
        self.store = DerivedStore() if store is None else store
        self.pool = pool
        self.relief = relief
        self._sight = sight
        self._scene = Given(scene, scene.content_key)
        self._pool = Given(pool, "threads")
        self.content_key = content_key(("gbuffer", self._scene, sight, None if cuts is None else cuts.content_key))

    def is_traced(self, look: int) -> bool:
        """Whether the points of a look are there already, so that no ray is needed for them.

        Parameters
        ----------
        look : int
            Position in the document.
        """
        if self.cuts is not None and self.cuts.fills(look):
            return True
        return self.store.peek(self._points(look)) is not None

    def _points(self, look: int) -> Derived[VisiblePoints]:
        behind = look if look in self._sight.clear else None
        return visible_points.of(self._scene, self._sight, behind, self._pool)

    def batch(self, look: int) -> BatchOfPoints:
        """The seen points whose surface wears a look (by position in the document), traced when first asked for; of a look that fills volumes,
        points of a cut.

        Parameters
        ----------
        look : int
            Position in the document.

        Raises
        ------
        Interrupted
            When they are no longer wanted.
        """
        if self.cuts is not None and self.cuts.fills(look):
            return self.cuts.batch(look, self._sight)
        chosen = points_of_look.of(self._points(look), look)
        return GBufferBatch(self, chosen.content_key, self.store.value(chosen))


@derived("visible points")
def visible_points(scene: Scene, sight: Sight, look: int | None, pool: ThreadPoolExecutor | None) -> VisiblePoints:
    """The first points that wear a look, or any opaque one, through other clear looks; nothing behind what is opaque.

    Parameters
    ----------
    scene : Scene
        What stands where.
    sight : Sight
        How points are looked for.
    look : int, optional
        Position in the document.
    pool : ThreadPoolExecutor, optional
        Threads that rays are traced by.
    """

    def first_of(origin: Array, direction: Array) -> Hits:
        if look is None and not (scene.has_mixed and sight.clear):
            return scene.rays.nearest(origin, direction, np.zeros(origin.shape[1], np.float32), OPAQUE)
        return _first_through(scene, sight.clear, look, origin, direction, check)

    check = checkpoint()
    view = sight.view
    count = view.width * view.height

    def part(start: int) -> tuple[Array, Hits, Surface, Integers]:
        check()
        pixels = np.arange(start, min(start + CHUNK, count), dtype=np.int32)
        origin, direction = camera_rays(view, pixels, sight.sample, sight.seed)
        hits = first_of(origin, direction)
        met = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
        kept = hits.take(met)
        return -direction[:, met], kept, surface_at(scene, kept), pixels[met]

    starts = range(0, count, CHUNK)
    parts = list(map(part, starts) if pool is None else pool.map(part, starts))
    directions, hits, surfaces, pixels = zip(*parts, strict=True)
    joined = Hits(
        np.concatenate([each.distance for each in hits]),
        np.concatenate([each.barycentric for each in hits], axis=1),
        np.concatenate([each.instance for each in hits]),
        np.concatenate([each.face for each in hits]),
    )
    surface = Surface(
        np.concatenate([each.position for each in surfaces], axis=1),
        np.concatenate([each.normal for each in surfaces], axis=1),
        np.concatenate([each.flat for each in surfaces], axis=1),
        np.concatenate([each.look for each in surfaces]),
        np.concatenate([each.offset for each in surfaces]),
    )
    footprint = (joined.distance * np.float32(view.pixel_angle) * np.float32(sight.detail))[None]
    return VisiblePoints(np.concatenate(directions, axis=1), footprint, joined, surface, np.concatenate(pixels))


def _first_through(
    scene: Scene,
    clear_looks: frozenset[int],
    look: int | None,
    origin: Array,
    direction: Array,
    check: Callable[[], None],
) -> Hits:
    found = Hits.empty(origin.shape[1])
    found.instance[:] = -1
    near = np.zeros(origin.shape[1], np.float32)
    going = np.arange(origin.shape[1])
    clear = np.array(sorted(clear_looks))
    for _ in range(MOST_SHELLS):
        check()
        hits = scene.rays.nearest(take_columns(origin, going), take_columns(direction, going), near[going], SEEN)
        on = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
        if len(on) == 0:
            break
        hits, going = hits.take(on), going[on]
        surface = surface_at(scene, hits)
        worn = surface.look
        passed = np.isin(worn, clear)
        wanted = ~passed if look is None else worn == look
        mine = np.flatnonzero(wanted)
        found.distance[going[mine]], found.barycentric[:, going[mine]] = hits.distance[mine], hits.barycentric[:, mine]
        found.instance[going[mine]], found.face[going[mine]] = hits.instance[mine], hits.face[mine]
        near[going] = beyond(hits, surface)
        going = going[passed & ~wanted]
        if len(going) == 0:
            break
    return found


@derived("points of a look")
def points_of_look(points: VisiblePoints, look: int) -> VisiblePoints:
    """Those of some points whose surface wears a look.

    Parameters
    ----------
    points : VisiblePoints
        Visible ones, or their key.
    look : int
        Position in the document.
    """
    chosen = np.flatnonzero(points.surface.look == look)
    return VisiblePoints(
        np.ascontiguousarray(points.view[:, chosen]),
        np.ascontiguousarray(points.footprint[:, chosen]),
        points.hits.take(chosen),
        take_surface(points.surface, chosen),
        points.pixels[chosen],
    )


@derived("point data")
def data_of_points(scene: Scene, points: VisiblePoints, name: str, relief: ReliefOfLooks | None) -> Array:
    """One kind of point data `(width, n)` at visible points.

    Parameters
    ----------
    scene : Scene
        What stands where.
    points : VisiblePoints
        Visible ones, or their key.
    name : str
        Of the kind of point data.
    relief : ReliefOfLooks, optional
        Where the kind follows it.

    Returns
    -------
    Array
        `(width, n)`.
    """
    given = {"view": points.view, "footprint": points.footprint}
    return point_data(scene, points.hits, points.surface, frozenset({name}), given, relief)[name]


@derived("step values")
def step_values(points: str, node: str) -> Array:
    """The value of a plan's node at some points; it is computed together with others, by `evaluate`.

    Parameters
    ----------
    points : str
        Visible ones, or their key.
    node : str
        The node's key.
    """
    raise NotImplementedError


class GBufferBatch:
    """Seen points of one look; the values of steps at them are kept by content.

    Attributes
    ----------
    content_key : str
        The same for the same points.
    points : VisiblePoints
    pixels, instance : Integers
        `(n,)`.
    """

    def __init__(self, whole: GBuffer, key: str, points: VisiblePoints) -> None:
        self.content_key = key
        self.points = points
        self.pixels = points.pixels
        self.instance = points.hits.instance
        self._whole = whole

    def point(self, name: str) -> Array:
        """One kind of point data `(width, n)`.

        Parameters
        ----------
        name : str
            Of the kind of point data.

        Returns
        -------
        Array
            `(width, n)`.
        """
        whole = self._whole
        scene = Given(whole.scene, whole.scene.content_key)
        relief = whole.relief() if name == FOLLOWED and whole.relief is not None else None
        return whole.store.value(data_of_points.of(scene, Given(self.points, self.content_key), name, relief))

    def values(self, plan: Plan, pool: ThreadPoolExecutor | None = None) -> dict[str, Array]:
        """The plan's outputs at these points, each `(width, n)`.

        Parameters
        ----------
        plan : Plan
            What is wanted, and the steps that lead to it.
        pool : ThreadPoolExecutor, optional
            Threads that chunks are run by.
        """
        needed = {name: self.point(name) for name in plan.required_data}
        points = plan.points(len(self.pixels), needed, self._whole.scene.data)
        return evaluate(plan, points, cache=StepValues(self._whole.store, self.content_key), pool=pool)


class StepValues(NodeValues):
    """The store as `evaluate` wants it: values of nodes over one fixed set of points.

    Parameters
    ----------
    store : DerivedStore
        Where they are kept.
    points : str
        The points' key.
    """

    def __init__(self, store: DerivedStore, points: str) -> None:
        self._store, self._points = store, points

    def _value(self, node: str) -> Derived[Array]:
        return step_values.of(self._points, node)

    def get(self, key: str) -> Array | None:
        """What a step has given at these points, where the store still holds it.

        Parameters
        ----------
        key : str
            The step's content key.

        Returns
        -------
        Array, optional
            `(width, n)`.
        """
        return self._store.peek(self._value(key))

    def keeps(self, key: str) -> bool:
        """Every step's values are.

        Parameters
        ----------
        key : str
            The step's content key.
        """
        return True

    def put(self, key: str, value: Array) -> None:
        """Keep what a step gave at these points, as long as there is room.

        Parameters
        ----------
        key : str
            The step's content key.
        value : Array
            `(width, n)`.
        """
        self._store.put(self._value(key), value)
