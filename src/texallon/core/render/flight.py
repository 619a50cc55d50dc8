"""Light on its way through bodies: absorbed and scattered between two surfaces, or wandering below one until it comes out."""

import numpy as np

from texallon.core.geometry.embree import NO_HIT, intersect_one
from texallon.core.geometry.rays import aim
from texallon.core.kernel import Array, Integers, Real, Whole, allocating, inlined
from texallon.core.render.arrive import power_weight
from texallon.core.render.ask import ENVIRONMENT, Asked, Sources, ask_light
from texallon.core.render.parts import turned
from texallon.core.render.paths import BENT, COVERED, FROM_CAMERA, LAST_THROUGH, LIGHTS_ONLY, WANDERING, Paths
from texallon.core.shade.base import SPREAD
from texallon.core.shade.medium import (
    EXTINCTION,
    FORWARD,
    SCATTERING,
    forward_density,
    free_flight,
    innermost,
    kept,
    turn,
)
from texallon.core.shade.random import uniform4

FLIGHT, STEPS = 0x40000000, 0x60000000
"""Random dimensions of flights and of wandering, apart from those of scattering."""

MOST_STEPS = 4096
"""Scatterings after which a wandering path is given up: all but the whitest bodies let it out or take it long before."""


@inlined
def _chances(r: Real, g: Real, b: Real) -> tuple[Real, Real, Real]:
    """Chances of following each channel, by what it carries."""
    total = r + g + b
    return (r / total, g / total, b / total) if total > 0.0 else (1.0 / 3.0, 1.0 / 3.0, 1.0 / 3.0)


MOST_EVENTS = 8
"""Scatterings of one path between two asks of a light: one of them, drawn evenly, asks for all."""

LONG, SURVIVE = 64, 0.9
"""After how many rounds of these a path in a white medium is ended with a chance, and the chance that it goes on."""


@allocating
def fly(
    scene: int,
    mask: int,
    paths: Paths,
    distance: Array,
    place: Array,
    instance: Integers,
    face: Integers,
    sample: Whole,
    bounce: Whole,
    seed: Whole,
    sources: Sources,
    asked: Asked,
    stayed: Integers,
) -> None:
    """Weaken paths by the bodies they are in, up to where they meet something at `distance (n,)`; or scatter them on the way.

    A scattered path is followed to the next surface, which becomes its hit, and one of its scatterings asks a light. Paths that scatter
    very often have `stayed` 1 and go on in the next round. No count ends them, only Russian roulette by what they carry.
    """
    picture, rows, columns, chances = sources.picture, sources.rows, sources.columns, sources.density
    rotation, lamps, chance, groups_of = sources.rotation, sources.lamps, sources.chance, sources.group
    group_of, cumulative, corners = sources.group_of, sources.cumulative, sources.corners
    per_area, shining, peak = sources.per_area, sources.instance, sources.peak
    m = paths.media
    store = np.empty(48, np.float32)
    first = ((-store.ctypes.data) % 64) // 4
    ray = store[first : first + 24]
    bits = ray.view(np.uint32)
    at = ray.ctypes.data
    for i in range(distance.shape[0]):
        stayed[i] = 0
        if (paths.flags[i] & WANDERING) != 0:
            continue
        body = paths.slot[i]
        row = innermost(m, body)
        if row < 0:
            continue
        a, b, c = m[row + EXTINCTION, body], m[row + EXTINCTION + 1, body], m[row + EXTINCTION + 2, body]
        sa, sb, sc = m[row + SCATTERING, body], m[row + SCATTERING + 1, body], m[row + SCATTERING + 2, body]
        d = distance[i]
        if sa + sb + sc <= 0.0:
            paths.throughput[0, i] *= kept(a, d)
            paths.throughput[1, i] *= kept(b, d)
            paths.throughput[2, i] *= kept(c, d)
            continue
        forward = m[row + FORWARD, body]
        r, g, w = paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i]
        x, y, z = paths.origin[0, i], paths.origin[1, i], paths.origin[2, i]
        dx, dy, dz = paths.direction[0, i], paths.direction[1, i], paths.direction[2, i]
        pixel = paths.pixel[i]
        event, way = 0, 0.0
        while True:
            pick, u, nu, nv = uniform4(pixel, sample, FLIGHT + (bounce << 5) + 2 * event, seed)
            p, q, s = _chances(r, g, w)
            t = free_flight(a, b, c, p, q, s, pick, u)
            if not t < d:
                ka, kb, kc = kept(a, d), kept(b, d), kept(c, d)
                likely = p * ka + q * kb + s * kc
                scale = 1.0 / likely if likely > 0.0 else 0.0
                r, g, w = r * ka * scale, g * kb * scale, w * kc * scale
                break
            ka, kb, kc = kept(a, t), kept(b, t), kept(c, t)
            likely = p * a * ka + q * b * kb + s * c * kc
            scale = 1.0 / likely if likely > 0.0 else 0.0
            r, g, w = r * sa * ka * scale, g * sb * kb * scale, w * sc * kc * scale
            x, y, z = x + t * dx, y + t * dy, z + t * dz
            way += t
            if (paths.flags[i] & LIGHTS_ONLY) != 0:
                r = g = w = 0.0
                break
            event += 1
            survive, choose, lu, lv = uniform4(pixel, sample, FLIGHT + (bounce << 5) + 2 * event - 1, seed)
            # One of the scatterings asks for all of them: each takes the place of the last with a chance of one in so many.
            if choose * event < 1.0:
                choose *= event
                wx, wy, wz, far, density, lr, lg, lb, bare, group, glow, gs, gt = ask_light(
                    picture, rows, columns, chances, rotation, lamps, chance, groups_of, group_of, cumulative, corners, per_area,
                    shining, x, y, z, choose, lu, lv, 0.0,
                )  # fmt: skip
                phase = forward_density(dx * wx + dy * wy + dz * wz, forward)
                asked.far[i] = far if density > 0.0 else 0.0
                if density > 0.0:
                    asked.origin[0, i], asked.origin[1, i], asked.origin[2, i] = x, y, z
                    asked.direction[0, i], asked.direction[1, i], asked.direction[2, i] = wx, wy, wz
                    asked.light[0, i] = r * phase * lr / density
                    asked.light[1, i] = g * phase * lg / density
                    asked.light[2, i] = w * phase * lb / density
                    asked.weight[i] = 1.0 if bare else power_weight(density, phase)
                    asked.group[i], asked.glow[i], asked.place[0, i], asked.place[1, i] = group, glow, gs, gt
                    asked.excess[i] = max(1.0 - peak / max(lr, lg, lb, 1e-30), 0.0) if glow == ENVIRONMENT else 1.0
            nx, ny, nz = turn(dx, dy, dz, forward, nu, nv)
            paths.density[i] = forward_density(dx * nx + dy * ny + dz * nz, forward)
            dx, dy, dz = nx, ny, nz
            keep = min(max(r, g, w), 1.0)
            if bounce >= LONG:
                keep *= SURVIVE
            if not survive < keep:
                r = g = w = 0.0
                break
            r, g, w = r / keep, g / keep, w / keep
            if event >= MOST_EVENTS:
                stayed[i] = 1
                break
            aim(ray, bits, i, mask, x, y, z, dx, dy, dz, np.float32(0), np.float32(np.inf))
            intersect_one(scene, at, 0)
            if bits[18] == NO_HIT:
                d = np.inf
                distance[i], instance[i], face[i] = np.float32(np.inf), -1, -1
            else:
                d = ray[8]
                distance[i], place[0, i], place[1, i], instance[i], face[i] = (
                    ray[8],
                    ray[15],
                    ray[16],
                    bits[19],
                    bits[17],
                )
        paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i] = r, g, w
        if event == 0:
            continue
        for ch in range(3):
            asked.light[ch, i] *= event
        asked.flags[i] = paths.flags[i]
        asked.further[i] = 1 if turned(paths.turns[i]) > 1 or event > 1 else 0
        paths.origin[0, i], paths.origin[1, i], paths.origin[2, i] = x, y, z
        paths.direction[0, i], paths.direction[1, i], paths.direction[2, i] = dx, dy, dz
        paths.behind[i] = np.float32(0)
        paths.width[i] += paths.spread[i] * np.float32(way)
        paths.flags[i] = SPREAD | (paths.flags[i] & ~(3 | LAST_THROUGH | BENT | FROM_CAMERA)) | COVERED
        # Scattering in a medium is not counted against limits; the first two tell direct light from indirect.
        if turned(paths.turns[i]) < 2:
            paths.turns[i] += 1 << 16


@allocating
def come_out(
    scene: int,
    mask: int,
    paths: Paths,
    sample: Whole,
    bounce: Whole,
    seed: Whole,
    distance: Array,
    place: Array,
    instance: Integers,
    face: Integers,
) -> None:
    """Let wandering paths wander until they meet a surface, which becomes their hit; what never does carries nothing on.

    Scattering is by `paths.walk`; each path follows one channel at a time and is weighted for all three (one-sample multiple
    importance sampling, Veach 1997).
    """
    store = np.empty(48, np.float32)
    address = store.ctypes.data
    first = ((-address) % 64) // 4
    ray = store[first : first + 24]
    bits = ray.view(np.uint32)
    at = ray.ctypes.data
    for i in range(distance.shape[0]):
        if (paths.flags[i] & WANDERING) == 0:
            continue
        w, own = paths.walk, paths.slot[i]
        x, y, z = paths.origin[0, i], paths.origin[1, i], paths.origin[2, i]
        dx, dy, dz = paths.direction[0, i], paths.direction[1, i], paths.direction[2, i]
        r, g, b = paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i]
        out = False
        step = 0
        while step < MOST_STEPS and r + g + b > 0.0:
            aim(ray, bits, i, mask, x, y, z, dx, dy, dz, np.float32(0), np.float32(np.inf))
            intersect_one(scene, at, 0)
            d = np.inf if bits[18] == NO_HIT else ray[8]
            pick, u, nu, nv = uniform4(paths.pixel[i], sample, STEPS + (bounce << 13) + 2 * step, seed)
            p, q, s = _chances(r * w[3, own], g * w[4, own], b * w[5, own])
            t = free_flight(w[0, own], w[1, own], w[2, own], p, q, s, pick, u)
            if not t < d:
                if bits[18] == NO_HIT:  # an open body has let it go
                    break
                ka, kb, kc = kept(w[0, own], d), kept(w[1, own], d), kept(w[2, own], d)
                chance = p * ka + q * kb + s * kc
                scale = 1.0 / chance if chance > 0.0 else 0.0
                r, g, b = r * ka * scale, g * kb * scale, b * kc * scale
                out = True
                break
            ka, kb, kc = w[0, own] * kept(w[0, own], t), w[1, own] * kept(w[1, own], t), w[2, own] * kept(w[2, own], t)
            chance = p * ka + q * kb + s * kc
            scale = 1.0 / chance if chance > 0.0 else 0.0
            before = max(r, g, b)
            r, g, b = r * w[3, own] * ka * scale, g * w[4, own] * kb * scale, b * w[5, own] * kc * scale
            x, y, z = x + t * dx, y + t * dy, z + t * dz
            dx, dy, dz = turn(dx, dy, dz, w[6, own], nu, nv)
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
        distance[i] = ray[8]
        place[0, i], place[1, i] = ray[15], ray[16]
        instance[i] = bits[19]
        face[i] = bits[17]
