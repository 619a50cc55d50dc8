"""How deep into the volumes of a shot the camera sees: at each place of the picture, the depth behind and before which half of what is seen of them lies."""

import numpy as np
import numpy.typing as npt
from scipy import ndimage

from texallon.core.derived import derived
from texallon.core.kernel import Array
from texallon.core.render.camera.view import View
from texallon.core.render.volume.inside import inside
from texallon.core.render.volume.quantities import ABSORPTION, DENSITY, EMISSION, SCATTERING
from texallon.core.render.volume.volumes import Container, MediumSource

ACROSS, STEPS = 48, 40
"""Places of the picture at which depth is looked for along its longer side, and steps along the way at each."""

Doubles = npt.NDArray[np.float64]


@derived("depth seen in volumes")
def seen_depth(
    containers: tuple[Container, ...], sources: tuple[MediumSource, ...], view: View, near: float, far: float
) -> Array:
    """Metres along the view, `(h, w)` of a lattice over the picture; not a number where no volume is seen.

    What counts is what a volume sends out itself, and what it scatters or takes of a light of radiance 1 that comes from everywhere, each dimmed by what lies before it.

    Parameters
    ----------
    containers : tuple of Container
        What is filled.
    sources : tuple of MediumSource
        With what.
    view : View
        The camera's.
    near, far : float
        Metres along the view between which the volumes lie.
    """
    longer = max(view.width, view.height)
    w, h = (max(round(ACROSS * each / longer), 2) for each in (view.width, view.height))
    eye, right, up, forward = (each.astype(np.float64)[:, None] for each in view.basis)
    down, across = ((axis.ravel() + 0.5) / n for axis, n in zip(np.mgrid[0:h, 0:w], (h, w), strict=True))
    way = forward + (across * 2 - 1) * right + (1 - down * 2) * up
    way = way / (way * forward).sum(axis=0)
    length = np.linalg.norm(way, axis=0)
    edges = np.linspace(max(near, 0.0), far, STEPS + 1)
    depth = 0.5 * (edges[1:] + edges[:-1])
    place = (eye[:, :, None] + way[:, :, None] * depth).reshape(3, -1)
    step = float(edges[1] - edges[0])
    extinction, light = np.zeros(place.shape[1]), np.zeros(place.shape[1])
    for container, source in zip(containers, sources, strict=True):
        full = np.vstack([container.matrix, [0, 0, 0, 1]]).astype(np.float64)
        inverse = np.linalg.inv(full)[:3]
        own = (inverse[:, :3] @ place + inverse[:, 3:]).astype(np.float32)
        there = np.flatnonzero(inside(container, own))
        if not len(there):
            continue
        made = source.quantities(np.ascontiguousarray(own[:, there]), step).astype(np.float64)
        taken = made[DENSITY] * (made[SCATTERING : SCATTERING + 3] + made[ABSORPTION : ABSORPTION + 3]).mean(axis=0)
        extinction[there] += taken
        light[there] += taken + made[EMISSION : EMISSION + 3].mean(axis=0)
    found = _halfway(extinction.reshape(h * w, -1), light.reshape(h * w, -1), length[:, None] * step, edges)
    made_depth: Array = found.reshape(h, w).astype(np.float32)
    return made_depth


def _halfway(extinction: Doubles, light: Doubles, step: Doubles, edges: Doubles) -> Doubles:
    """Where half of the light of rays `(n, steps)` comes from nearer, between `edges (steps + 1,)`; not a number where there is none."""
    taken = extinction * step
    before = np.cumsum(taken, axis=1) - taken
    thin = np.where(taken > 1e-9, taken, 1.0)
    # Of a step that is even, light · ∫ exp(−σ t) dt.
    each = light * step * np.exp(-before) * np.where(taken > 1e-9, -np.expm1(-thin) / thin, 1.0)
    total = np.concatenate([np.zeros((len(each), 1)), np.cumsum(each, axis=1)], axis=1)
    half = 0.5 * total[:, -1:]
    last = np.clip((total < half).sum(axis=1), 1, each.shape[1])
    row = np.arange(len(each))
    low, high = total[row, last - 1], total[row, last]
    share = (half[:, 0] - low) / np.where(high > low, high - low, 1.0)
    depth = edges[last - 1] + share * (edges[last] - edges[last - 1])
    return np.where(half[:, 0] > 0, depth, np.nan)


def spread_over(depth: Array, view: View, otherwise: float) -> Array:
    """A depth for each pixel `(pixels,)`, between the places of the lattice.

    Parameters
    ----------
    depth : Array
        As from `seen_depth`.
    view : View
        The camera's.
    otherwise : float
        Metres where no volume is seen anywhere.
    """
    y, x = np.mgrid[0 : view.height, 0 : view.width]
    return _between(depth, (x.ravel() + 0.5) / view.width, (y.ravel() + 0.5) / view.height, otherwise)


def depth_at(depth: Array, across: float, down: float, otherwise: float) -> float:
    """The depth at one place of the picture.

    Parameters
    ----------
    depth : Array
        As from `seen_depth`.
    across, down : float
        0…1 from the left and from the top.
    otherwise : float
        Metres where no volume is seen anywhere.
    """
    return float(_between(depth, np.array([across]), np.array([down]), otherwise)[0])


def _between(depth: Array, across: Doubles, down: Doubles, otherwise: float) -> Array:
    missing = np.isnan(depth)
    if missing.all():
        return np.full(len(across), otherwise, np.float32)
    if missing.any():
        nearest = ndimage.distance_transform_edt(missing, return_distances=False, return_indices=True)
        depth = depth[tuple(nearest)]
    h, w = depth.shape
    at = np.stack([down * h - 0.5, across * w - 0.5])
    made: Array = ndimage.map_coordinates(depth, at, order=1, mode="nearest").astype(np.float32)
    return made
