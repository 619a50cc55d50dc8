"""Light on its way through bodies: absorbed and scattered between two surfaces."""

import numpy as np

from texallon.core.geometry.embree import intersect_one
from texallon.core.geometry.rays import Hits, RayScene, aim, keep_hit
from texallon.core.kernel import Integers, allocating
from texallon.core.random_numbers import uniform4
from texallon.core.render.light.emitters import Emitters, sample_light
from texallon.core.render.transport.channel_chances import channel_chances
from texallon.core.render.transport.emitter_hits import power_weight
from texallon.core.render.transport.light_aovs import total_bounces
from texallon.core.render.transport.paths import (
    EMITTERS_ONLY,
    FROM_CAMERA,
    IN_SUBSURFACE,
    LAST_TRANSMITTED,
    NEE_DONE,
    REFRACTED,
    Paths,
    Round,
)
from texallon.core.render.transport.shadow_rays import ShadowRays, put_light
from texallon.core.shade.base import NON_SPECULAR
from texallon.core.shade.media.constant import sample_free_flight, transmittance
from texallon.core.shade.media.nesting import EXTINCTION, FORWARD, SCATTERING, innermost
from texallon.core.shade.media.phase import henyey_greenstein_pdf, sample_henyey_greenstein

FLIGHT = 0x40000000
"""Random dimensions of free flights, apart from those of scattering."""

MOST_EVENTS = 8
"""Scatterings of one path between two asks of a light: one of them, drawn evenly, asks for all."""

LONG, SURVIVE = 64, 0.9
"""After how many rounds of these a path in a white medium is ended with a chance, and the chance that it goes on."""


@allocating
def traverse_medium(
    scene: RayScene,
    mask: int,
    paths: Paths,
    now: Round,
    hits: Hits,
    emitters: Emitters,
    shadow: ShadowRays,
    unfinished: Integers,
) -> None:
    """Weaken paths by the bodies they are in, up to where they meet something at `distance (n,)`; or scatter them on the way.

    A scattered path is followed to the next surface, which becomes its hit, and one of its scatterings asks a light. Paths that scatter
    very often have `unfinished` 1 and go on in the next round. No count ends them, only Russian roulette by what they carry.

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
        Where the paths meet something; of those that were scattered, where they meet something then.
    emitters : Emitters
        All light sources.
    shadow : ShadowRays
        Filled with what scatterings ask of light.
    unfinished : Integers
        `(n,)` 1 for paths that go on in the next round, filled.
    """
    sample, bounce, seed = now.sample, now.bounce, now.seed
    distance = hits.distance
    m = paths.media
    store = np.empty(48, np.float32)
    first = ((-store.ctypes.data) % 64) // 4
    ray = store[first : first + 24]
    bits = ray.view(np.uint32)
    at = ray.ctypes.data
    for i in range(distance.shape[0]):
        unfinished[i] = 0
        if (paths.flags[i] & IN_SUBSURFACE) != 0:
            continue
        body = paths.slot[i]
        row = innermost(m, body)
        if row < 0:
            continue
        a, b, c = m[row + EXTINCTION, body], m[row + EXTINCTION + 1, body], m[row + EXTINCTION + 2, body]
        sa, sb, sc = m[row + SCATTERING, body], m[row + SCATTERING + 1, body], m[row + SCATTERING + 2, body]
        d = distance[i]
        if sa + sb + sc <= 0.0:
            paths.throughput[0, i] *= transmittance(a, d)
            paths.throughput[1, i] *= transmittance(b, d)
            paths.throughput[2, i] *= transmittance(c, d)
            continue
        forward = m[row + FORWARD, body]
        r, g, w = paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i]
        x, y, z = paths.origin[0, i], paths.origin[1, i], paths.origin[2, i]
        dx, dy, dz = paths.direction[0, i], paths.direction[1, i], paths.direction[2, i]
        pixel = paths.pixel[i]
        event, way = 0, 0.0
        while True:
            pick, u, nu, nv = uniform4(pixel, sample, FLIGHT + (bounce << 5) + 2 * event, seed)
            p, q, s = channel_chances(r, g, w)
            t = sample_free_flight(a, b, c, p, q, s, pick, u)
            if not t < d:
                ka, kb, kc = transmittance(a, d), transmittance(b, d), transmittance(c, d)
                likely = p * ka + q * kb + s * kc
                scale = 1.0 / likely if likely > 0.0 else 0.0
                r, g, w = r * ka * scale, g * kb * scale, w * kc * scale
                break
            ka, kb, kc = transmittance(a, t), transmittance(b, t), transmittance(c, t)
            likely = p * a * ka + q * b * kb + s * c * kc
            scale = 1.0 / likely if likely > 0.0 else 0.0
            r, g, w = r * sa * ka * scale, g * sb * kb * scale, w * sc * kc * scale
            x, y, z = x + t * dx, y + t * dy, z + t * dz
            way += t
            if (paths.flags[i] & EMITTERS_ONLY) != 0:
                r = g = w = 0.0
                break
            event += 1
            survive, choose, lu, lv = uniform4(pixel, sample, FLIGHT + (bounce << 5) + 2 * event - 1, seed)
            # One of the scatterings asks for all of them: each takes the place of the last with a chance of one in so many.
            if choose * event < 1.0:
                choose *= event
                light_sample = sample_light(emitters, x, y, z, choose, lu, lv, 0.0)
                phase = henyey_greenstein_pdf(
                    dx * light_sample.wx + dy * light_sample.wy + dz * light_sample.wz, forward
                )
                shadow.far[i] = light_sample.far if light_sample.pdf > 0.0 else 0.0
                if light_sample.pdf > 0.0:
                    shadow.origin[0, i], shadow.origin[1, i], shadow.origin[2, i] = x, y, z
                    put_light(shadow, i, light_sample, emitters.peak)
                    shadow.light[0, i] = r * phase * light_sample.r / light_sample.pdf
                    shadow.light[1, i] = g * phase * light_sample.g / light_sample.pdf
                    shadow.light[2, i] = w * phase * light_sample.b / light_sample.pdf
                    shadow.weight[i] = 1.0 if light_sample.bare else power_weight(light_sample.pdf, phase)
            nx, ny, nz = sample_henyey_greenstein(dx, dy, dz, forward, nu, nv)
            paths.pdf[i] = henyey_greenstein_pdf(dx * nx + dy * ny + dz * nz, forward)
            dx, dy, dz = nx, ny, nz
            keep = min(max(r, g, w), 1.0)
            if bounce >= LONG:
                keep *= SURVIVE
            if not survive < keep:
                r = g = w = 0.0
                break
            r, g, w = r / keep, g / keep, w / keep
            if event >= MOST_EVENTS:
                unfinished[i] = 1
                break
            aim(ray, bits, i, mask, x, y, z, dx, dy, dz, np.float32(0), np.float32(np.inf))
            intersect_one(scene.handle, at, 0)
            keep_hit(scene, ray, bits, hits, i)
            d = hits.distance[i]
        paths.throughput[0, i], paths.throughput[1, i], paths.throughput[2, i] = r, g, w
        if event == 0:
            continue
        for ch in range(3):
            shadow.light[ch, i] *= event
        shadow.flags[i] = paths.flags[i]
        shadow.indirect[i] = 1 if total_bounces(paths.bounce_counts[i]) > 1 or event > 1 else 0
        paths.origin[0, i], paths.origin[1, i], paths.origin[2, i] = x, y, z
        paths.direction[0, i], paths.direction[1, i], paths.direction[2, i] = dx, dy, dz
        paths.distance_since_vertex[i] = np.float32(0)
        paths.cone_width[i] += paths.cone_spread[i] * np.float32(way)
        paths.flags[i] = NON_SPECULAR | (paths.flags[i] & ~(3 | LAST_TRANSMITTED | REFRACTED | FROM_CAMERA)) | NEE_DONE
        # Scattering in a medium is not counted against limits; the first two tell direct light from indirect.
        if total_bounces(paths.bounce_counts[i]) < 2:
            paths.bounce_counts[i] += 1 << 16
