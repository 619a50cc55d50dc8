"""Camera rays and what they hit first: kept per view and arrangement, so that another material costs no rays."""

from typing import NamedTuple

import numpy as np

from texallon.core.derived import derived
from texallon.core.geometry.rays import Hits, SceneRays
from texallon.core.kernel import Array, Integers
from texallon.core.render.camera.view import View, camera_rays
from texallon.core.render.scene.scene import SEEN


class PrimaryHits(NamedTuple):
    """Rays from the eye, `origin` and `direction (3, n)`, and their first hits."""

    origin: Array
    direction: Array
    hits: Hits


@derived("primary hits")
def primary_hits(rays: SceneRays, view: View, seed: int, sample: int, pixels: Integers) -> PrimaryHits:
    """The camera's rays through some pixels and what they hit.

    Parameters
    ----------
    rays : SceneRays
        The acceleration structure.
    view : View
        The camera's.
    seed, sample : int
        Of the jitter within pixels.
    pixels : Integers
        `(n,)` numbers, row by row from the top left.
    """
    origin, direction = camera_rays(view, pixels, sample, seed)
    return PrimaryHits(origin, direction, rays.nearest(origin, direction, np.zeros(len(pixels), np.float32), SEEN))
