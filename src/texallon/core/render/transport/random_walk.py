"""The random walk of a path below a subsurface, until it comes out."""

import numpy as np

from texallon.core.geometry.embree import NO_HIT, intersect_one
from texallon.core.geometry.rays import Hits, RayScene, aim, keep_hit
from texallon.core.kernel import allocating
from texallon.core.random_numbers import uniform4
from texallon.core.render.transport.channel_chances import channel_chances
from texallon.core.render.transport.paths import IN_SUBSURFACE, Paths, Round
from texallon.core.shade.media.constant import sample_free_flight, transmittance
from texallon.core.shade.media.phase import sample_henyey_greenstein
from texallon.core.shade.media.subsurface import WALK_ALBEDO, WALK_ANISOTROPY, WALK_EXTINCTION

STEPS = 0x60000000
"""Random dimensions of walks, apart from those of scattering."""

MOST_STEPS = 4096
"""Scatterings after which a wandering path is given up: all but the whitest bodies let it out or take it long before."""


@allocating
def random_walk(scene: RayScene, mask: int, paths: Paths, now: Round, hits: Hits) -> None:
    """Let wandering paths wander until they meet a surface, which becomes their hit; what never does carries nothing on.

    Scattering is by `paths.walk`; each path follows one channel at a time and is weighted for all three (one-sample multiple
    importance sampling, Veach 1997).

    Parameters
    ----------
    scene : RayScene
        What the rays may meet.
    mask : int
        Which geometry the rays meet.
    paths : Paths
        Updated in place.
    now : Round
        Of bounces.
    hits : Hits
        Of the paths, filled where they come out.
    """
    sample, bounce, seed = now.sample, now.bounce, now.seed
    distance, instance = hits.distance, hits.instance
    store = np.empty(48, np.float32)
    address = store.ctypes.data
    first = ((-address) % 64) // 4
    ray = store[first : first + 24]
    bits = ray.view(np.uint32)
    at = ray.ctypes.data
    for i in range(distance.shape[0]):
        if (paths.flags[i] & IN_SUBSURFACE) == 0:
            continue
        w, own = paths.walk, paths.slot[i]
        x, y, z = paths.origin[0, i], paths.origin[1, i], paths.origin[2, i]
        dx, dy, dz = paths.direction[0, i], paths.direction[1, i], paths.direction[2, i]
        r, g, b = paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i]
        out = False
        step = 0
        while step < MOST_STEPS and r + g + b > 0.0:
            aim(ray, bits, i, mask, x, y, z, dx, dy, dz, np.float32(0), np.float32(np.inf))
            intersect_one(scene.handle, at, 0)
            d = np.inf if bits[18] == NO_HIT else ray[8]
            pick, u, nu, nv = uniform4(paths.pixel[i], sample, STEPS + (bounce << 13) + 2 * step, seed)
            p, q, s = channel_chances(r * w[WALK_ALBEDO, own], g * w[WALK_ALBEDO + 1, own], b * w[WALK_ALBEDO + 2, own])
            t = sample_free_flight(
                w[WALK_EXTINCTION, own], w[WALK_EXTINCTION + 1, own], w[WALK_EXTINCTION + 2, own], p, q, s, pick, u
            )
            if not t < d:
                if bits[18] == NO_HIT:  # an open body has let it go
                    break
                ka, kb, kc = (
                    transmittance(w[WALK_EXTINCTION, own], d),
                    transmittance(w[WALK_EXTINCTION + 1, own], d),
                    transmittance(w[WALK_EXTINCTION + 2, own], d),
                )
                chance = p * ka + q * kb + s * kc
                scale = 1.0 / chance if chance > 0.0 else 0.0
                r, g, b = r * ka * scale, g * kb * scale, b * kc * scale
                out = True
                break
            ka, kb, kc = (
                w[WALK_EXTINCTION, own] * transmittance(w[WALK_EXTINCTION, own], t),
                w[WALK_EXTINCTION + 1, own] * transmittance(w[WALK_EXTINCTION + 1, own], t),
                w[WALK_EXTINCTION + 2, own] * transmittance(w[WALK_EXTINCTION + 2, own], t),
            )
            chance = p * ka + q * kb + s * kc
            scale = 1.0 / chance if chance > 0.0 else 0.0
            before = max(r, g, b)
            r, g, b = (
                r * w[WALK_ALBEDO, own] * ka * scale,
                g * w[WALK_ALBEDO + 1, own] * kb * scale,
                b * w[WALK_ALBEDO + 2, own] * kc * scale,
            )
            x, y, z = x + t * dx, y + t * dy, z + t * dz
            dx, dy, dz = sample_henyey_greenstein(dx, dy, dz, w[WALK_ANISOTROPY, own], nu, nv)
            keep = min(max(r, g, b) / before, 1.0)
            survive, _, _, _ = uniform4(paths.pixel[i], sample, STEPS + (bounce << 13) + 2 * step + 1, seed)
            if not survive < keep:
                break
            r, g, b = r / keep, g / keep, b / keep
            step += 1
        if not out:
            paths.throughput[0, i] = paths.throughput[1, i] = paths.throughput[2, i] = np.float32(0)
            distance[i] = np.float32(np.inf)
            instance[i] = -1
            continue
        paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i] = r, g, b
        paths.origin[0, i], paths.origin[1, i], paths.origin[2, i] = x, y, z
        paths.direction[0, i], paths.direction[1, i], paths.direction[2, i] = dx, dy, dz
        keep_hit(scene, ray, bits, hits, i)
