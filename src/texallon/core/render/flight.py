"""Light on its way through bodies: absorbed and scattered between two surfaces, or wandering below one until it comes out."""

import numpy as np

from texallon.core.geometry.embree import NO_HIT, intersect_one
from texallon.core.geometry.rays import aim
from texallon.core.kernel import Array, Integers, Real, Whole, allocating, inlined, kernel
from texallon.core.render.arrive import power_weight
from texallon.core.render.ask import Asked, Sources, ask_light
from texallon.core.render.parts import turned
from texallon.core.render.paths import COVERED, LAST_THROUGH, LIGHTS_ONLY, WANDERING, Paths
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

FLIGHT, STEPS = 0x7FFE0000, 0x60000000
"""Random dimensions of flights and of wandering, apart from those of scattering."""

NEXT = 0x8000
"""Added to a flight's dimension for its next direction."""

MOST_STEPS = 4096
"""Scatterings after which a wandering path is given up: all but the whitest bodies let it out or take it long before."""


@inlined
def _chances(r: Real, g: Real, b: Real) -> tuple[Real, Real, Real]:
    """Chances of following each channel, by what it carries."""
    total = r + g + b
    return (r / total, g / total, b / total) if total > 0.0 else (1.0 / 3.0, 1.0 / 3.0, 1.0 / 3.0)


@kernel
def fly(
    paths: Paths,
    distance: Array,
    sample: Whole,
    bounce: Whole,
    limits: Integers,
    seed: Whole,
    offset: Real,
    sources: Sources,
    asked: Asked,
    stayed: Integers,
) -> None:
    """Weaken paths by the bodies they are in, up to where they meet something at `distance (n,)`; or scatter them on the way.

    Scattered paths have `stayed` 1, a new origin and direction, and a shadow ray; what they carry is updated in place.
    """
    picture, rows, columns, chances = sources.picture, sources.rows, sources.columns, sources.density
    rotation, lamps, chance, groups_of = sources.rotation, sources.lamps, sources.chance, sources.group
    group_of, cumulative, corners = sources.group_of, sources.cumulative, sources.corners
    per_area, shining = sources.per_area, sources.instance
    m = paths.media
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
        pick, u, _, _ = uniform4(paths.pixel[i], sample, FLIGHT + 2 * bounce, seed)
        p, q, s = _chances(paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i])
        t = free_flight(a, b, c, p, q, s, pick, u)
        if not t < d:
            ka, kb, kc = kept(a, d), kept(b, d), kept(c, d)
            likely = p * ka + q * kb + s * kc
            scale = 1.0 / likely if likely > 0.0 else 0.0
            paths.throughput[0, i] *= ka * scale
            paths.throughput[1, i] *= kb * scale
            paths.throughput[2, i] *= kc * scale
            continue
        stayed[i] = 1
        ka, kb, kc = kept(a, t), kept(b, t), kept(c, t)
        likely = p * a * ka + q * b * kb + s * c * kc
        scale = 1.0 / likely if likely > 0.0 else 0.0
        paths.throughput[0, i] *= sa * ka * scale
        paths.throughput[1, i] *= sb * kb * scale
        paths.throughput[2, i] *= sc * kc * scale
        dx, dy, dz = paths.direction[0, i], paths.direction[1, i], paths.direction[2, i]
        x, y, z = paths.origin[0, i] + t * dx, paths.origin[1, i] + t * dy, paths.origin[2, i] + t * dz
        paths.origin[0, i], paths.origin[1, i], paths.origin[2, i] = x, y, z
        paths.behind[i] = np.float32(0)
        paths.width[i] += paths.spread[i] * np.float32(t)
        over = ((paths.turns[i] >> 16) & 255) >= limits[2] or turned(paths.turns[i]) >= limits[4]
        if over or (paths.flags[i] & LIGHTS_ONLY) != 0:
            paths.throughput[0, i] = paths.throughput[1, i] = paths.throughput[2, i] = np.float32(0)
            continue
        forward = m[row + FORWARD, body]
        choose, lu, lv, _ = uniform4(paths.pixel[i], sample, FLIGHT + 2 * bounce + 1, seed)
        wx, wy, wz, far, density, lr, lg, lb, bare, group, glow, gs, gt = ask_light(
            picture, rows, columns, chances, rotation, lamps, chance, groups_of, group_of, cumulative, corners, per_area, shining,
            x, y, z, choose, lu, lv, offset,
        )  # fmt: skip
        phase = forward_density(dx * wx + dy * wy + dz * wz, forward)
        if density > 0.0:
            asked.origin[0, i], asked.origin[1, i], asked.origin[2, i] = x, y, z
            asked.direction[0, i], asked.direction[1, i], asked.direction[2, i] = wx, wy, wz
            asked.far[i] = far
            asked.light[0, i] = paths.throughput[0, i] * phase * lr / density
            asked.light[1, i] = paths.throughput[1, i] * phase * lg / density
            asked.light[2, i] = paths.throughput[2, i] * phase * lb / density
            asked.weight[i] = 1.0 if bare else power_weight(density, phase)
            asked.flags[i] = paths.flags[i]
            asked.further[i] = 1 if turned(paths.turns[i]) > 1 else 0
            asked.group[i], asked.glow[i], asked.place[0, i], asked.place[1, i] = group, glow, gs, gt
        nu, nv, survive, _ = uniform4(paths.pixel[i], sample, FLIGHT + 2 * bounce + NEXT, seed)
        wx, wy, wz = turn(dx, dy, dz, forward, nu, nv)
        paths.direction[0, i], paths.direction[1, i], paths.direction[2, i] = wx, wy, wz
        paths.density[i] = forward_density(dx * wx + dy * wy + dz * wz, forward)
        paths.flags[i] = SPREAD | (paths.flags[i] & ~(3 | LAST_THROUGH)) | COVERED
        paths.turns[i] += 1 << 16
        keep = min(max(paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i]), 1.0)
        scale = 1.0 / keep if survive < keep else 0.0
        for ch in range(3):
            paths.throughput[ch, i] *= scale


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
