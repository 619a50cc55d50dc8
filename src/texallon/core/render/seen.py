"""What the camera sees, as points: for showing one signal alone, and for measuring the values that steps take in.

Points, their data and the value of every step are kept, so that an edit runs only the steps downstream of it.
"""

from concurrent.futures import ThreadPoolExecutor
from threading import Lock

import numpy as np
import numpy.typing as npt

from texallon.core.geometry.rays import OPAQUE, Hits
from texallon.core.kernel import Array, Integers
from texallon.core.ops.points import Points
from texallon.core.render.camera import View, camera_rays
from texallon.core.render.materials import take_surface
from texallon.core.render.scene import SEEN, Scene, Surface, point_data, surface_at
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import ValueCache, evaluate

Positions = npt.NDArray[np.intp]


class SeenPoints:
    """The first surface behind every pixel of a view, grouped by look; `sample` picks the jitter within pixels.

    Points of opaque looks are also found behind water and glass, straight through: a mask on the bed of a pond is worth
    seeing. Points of clear looks (`clear`, positions in the document) are found where they come first.
    """

    def __init__(
        self, scene: Scene, view: View, seed: int, sample: int = 0, clear: frozenset[int] = frozenset()
    ) -> None:
        self.view = view
        self.clear = clear
        self._opaque = _FirstSurface(scene, view, seed, sample, OPAQUE)
        self._all = _FirstSurface(scene, view, seed, sample, SEEN) if clear else self._opaque
        self._groups: dict[int, Group] = {}

    def group(self, look: int) -> "Group":
        """The seen points whose surface wears a look (by position in the document)."""
        if look not in self._groups:
            self._groups[look] = (self._all if look in self.clear else self._opaque).group(look)
        return self._groups[look]


class _FirstSurface:
    """What rays of one mask meet first."""

    def __init__(self, scene: Scene, view: View, seed: int, sample: int, mask: int) -> None:
        self.scene = scene
        pixels = np.arange(view.width * view.height, dtype=np.int32)
        origin, direction = camera_rays(view, pixels, sample, seed)
        hits = scene.rays.nearest(origin, direction, np.zeros(len(pixels), np.float32), mask)
        met = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
        self._hits = hits.take(met)
        self._pixels = pixels[met]
        self._surface = surface_at(scene, self._hits)
        self._view = np.ascontiguousarray(-direction[:, met])
        self._footprint = (self._hits.distance * np.float32(view.pixel_angle))[None]

    def group(self, look: int) -> "Group":
        chosen = np.flatnonzero(self._surface.look == look)
        return Group(
            self.scene,
            self._pixels[chosen],
            self._hits.take(chosen),
            take_surface(self._surface, chosen),
            {
                "view": np.ascontiguousarray(self._view[:, chosen]),
                "footprint": np.ascontiguousarray(self._footprint[:, chosen]),
            },
        )


class Group:
    """Seen points of one look, with values of steps kept by content hash."""

    def __init__(self, scene: Scene, pixels: Integers, hits: Hits, surface: Surface, more: dict[str, Array]) -> None:
        self.pixels = pixels
        self._scene, self._hits, self._surface, self._more = scene, hits, surface, more
        self._data: dict[str, Array] = {}
        self._cache = ValueCache()
        self._lock = Lock()

    def values(self, plan: Plan, pool: ThreadPoolExecutor | None = None) -> dict[str, Array]:
        """The plan's outputs at these points, each `(width, n)`."""
        with self._lock:
            missing = plan.needs - self._data.keys()
            self._data |= point_data(self._scene, self._hits, self._surface, frozenset(missing), self._more)
        needed = {name: self._data[name] for name in plan.needs}
        return evaluate(plan, Points(len(self.pixels), needed, plan.frames), cache=self._cache, pool=pool)
