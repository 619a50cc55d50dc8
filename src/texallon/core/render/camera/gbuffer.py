"""What the camera sees, as points: for showing one signal alone, and for measuring the values that steps take in.

Points, their data and the value of every step are kept, so that an edit runs only the steps downstream of it.
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from threading import Lock

import numpy as np

from texallon.core.columns import take_columns
from texallon.core.geometry.rays import OPAQUE, Hits
from texallon.core.kernel import Array, Integers
from texallon.core.render.camera.view import View, camera_rays
from texallon.core.render.scene.scene import SEEN, Scene, Surface, beyond, point_data, surface_at, take_surface
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import ValueCache, evaluate

PART = 16384
"""Rays traced between two looks at whether the picture is still wanted."""


MOST_SHELLS = 32
"""Clear surfaces that are looked through for one behind them."""

Traced = tuple[Array, Array, Hits, Surface, Integers]
"""View, footprint, hits, surface and pixels of points."""


class GBuffer:
    """The first surface behind every pixel of a view, grouped by look; `sample` picks the jitter within pixels.

    Looks are also found behind water, glass and what is cut out, straight through: a mask on the bed of a pond, or on what glows
    inside a pod, is worth seeing. Looks in `clear` (positions in the document) let others be seen behind them. `detail`
    scales the footprint of the points: below 1 they stand for those of a larger picture.
    """

    def __init__(
        self,
        scene: Scene,
        view: View,
        seed: int,
        sample: int = 0,
        clear: frozenset[int] = frozenset(),
        pool: ThreadPoolExecutor | None = None,
        check: Callable[[], None] = lambda: None,
        detail: float = 1.0,
    ) -> None:
        self.view = view.sharp
        self._detail = np.float32(detail)
        self._scene, self._seed, self._sample, self._clear = scene, seed, sample, clear
        self._pool, self._check = pool, check
        self._behind_clear: Traced | None = None
        self._through: dict[int, Traced] = {}
        self._batches: dict[int, GBufferBatch] = {}

    def batch(self, look: int) -> "GBufferBatch":
        """The seen points whose surface wears a look (by position in the document).

        Traced when first asked for, in parts, before each of which `check` is called (it may raise).
        """
        if look not in self._batches:
            view, footprint, hits, surface, pixels = self._traced(look)
            chosen = np.flatnonzero(surface.look == look)
            more = {
                "view": np.ascontiguousarray(view[:, chosen]),
                "footprint": np.ascontiguousarray(footprint[:, chosen]),
            }
            self._batches[look] = GBufferBatch(
                self._scene, pixels[chosen], hits.take(chosen), take_surface(surface, chosen), more
            )
        return self._batches[look]

    def _traced(self, look: int) -> "Traced":
        """Points among which those of a look are: opaque looks share theirs."""
        if look not in self._clear:
            if self._behind_clear is None:
                self._behind_clear = self._trace(self._first_opaque)
            return self._behind_clear
        if look not in self._through:
            self._through[look] = self._trace(lambda origin, direction: self._first_of(look, origin, direction))
        return self._through[look]

    def _first_opaque(self, origin: Array, direction: Array) -> Hits:
        if self._scene.has_mixed and self._clear:
            return self._first_of(None, origin, direction)
        return self._scene.rays.nearest(origin, direction, np.zeros(origin.shape[1], np.float32), OPAQUE)

    def _first_of(self, look: int | None, origin: Array, direction: Array) -> Hits:
        """The first hits that wear a look, or any opaque one, through other clear looks; nothing behind what is opaque."""
        scene = self._scene
        found = Hits.empty(origin.shape[1])
        found.instance[:] = -1
        near = np.zeros(origin.shape[1], np.float32)
        going = np.arange(origin.shape[1])
        clear = np.array(sorted(self._clear))
        for _ in range(MOST_SHELLS):
            self._check()
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
            found.distance[going[mine]], found.barycentric[:, going[mine]] = (
                hits.distance[mine],
                hits.barycentric[:, mine],
            )
            found.instance[going[mine]], found.face[going[mine]] = hits.instance[mine], hits.face[mine]
            near[going] = beyond(hits, surface)
            going = going[passed & ~wanted]
            if len(going) == 0:
                break
        return found

    def _trace(self, first: Callable[[Array, Array], Hits]) -> "Traced":
        scene, view = self._scene, self.view
        count = view.width * view.height

        def part(start: int) -> tuple[Array, Hits, Surface, Integers]:
            self._check()
            pixels = np.arange(start, min(start + PART, count), dtype=np.int32)
            origin, direction = camera_rays(view, pixels, self._sample, self._seed)
            hits = first(origin, direction)
            met = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
            kept = hits.take(met)
            return -direction[:, met], kept, surface_at(scene, kept), pixels[met]

        starts = range(0, count, PART)
        parts = list(map(part, starts) if self._pool is None else self._pool.map(part, starts))
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
        footprint = (joined.distance * np.float32(view.pixel_angle) * self._detail)[None]
        return np.concatenate(directions, axis=1), footprint, joined, surface, np.concatenate(pixels)


class GBufferBatch:
    """Seen points of one look, with values of steps kept by content hash."""

    def __init__(self, scene: Scene, pixels: Integers, hits: Hits, surface: Surface, more: dict[str, Array]) -> None:
        self.pixels = pixels
        self.instance = hits.instance
        self._scene, self._hits, self._surface, self._more = scene, hits, surface, more
        self._data: dict[str, Array] = {}
        self._cache = ValueCache()
        self._lock = Lock()

    def point(self, name: str) -> Array:
        """One kind of point data `(width, n)`."""
        with self._lock:
            if name not in self._data:
                found = point_data(self._scene, self._hits, self._surface, frozenset({name}), self._more)
                self._data |= found
        return self._data[name]

    def values(self, plan: Plan, pool: ThreadPoolExecutor | None = None) -> dict[str, Array]:
        """The plan's outputs at these points, each `(width, n)`."""
        with self._lock:
            missing = plan.required_data - self._data.keys()
            self._data |= point_data(self._scene, self._hits, self._surface, frozenset(missing), self._more)
        needed = {name: self._data[name] for name in plan.required_data}
        return evaluate(plan, plan.points(len(self.pixels), needed, self._scene.pictures), cache=self._cache, pool=pool)
