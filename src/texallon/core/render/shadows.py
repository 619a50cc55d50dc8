"""Shadow rays: what of the light that was asked for arrives, straight through what is cut out and what is clear."""

import numpy as np

from texallon.core.geometry.rays import CLEAR, Hits
from texallon.core.kernel import Array, Integers, Real, Whole, kernel
from texallon.core.render.ask import Asked, Sources
from texallon.core.render.job import Job
from texallon.core.render.parts import deposit
from texallon.core.render.scatter import Met, Settings
from texallon.core.render.scene import STOPS_LIGHT, surface_at
from texallon.core.shade.base import is_thin
from texallon.core.shade.fresnel import fresnel_dielectric, weighted_ior
from texallon.core.shade.medium import EXTINCTION, boundary, enter, innermost, kept, leave, through_tint
from texallon.core.shade.rows import METALNESS, OPACITY, SPECULAR_IOR, SPECULAR_WEIGHT, TRANSMISSION_WEIGHT
from texallon.core.take import taken

MOST_CLEAR = 16
"""Clear boundaries that one shadow ray may pass."""


def answer(
    job: Job,
    asked: Asked,
    slot: Integers,
    width: Array,
    media: Array,
    settings: Settings,
    sources: Sources,
    layers: Array,
) -> None:
    """Add to `layers` what of the light that was asked for arrives; `slot` and `width (n,)` are of the points, `media` is
    looked up by slot."""
    asking = np.flatnonzero(asked.far > 0)
    if len(asking) == 0:
        return
    mine = Asked._make(taken(each, asking) for each in asked)
    found = reaching_light(job, mine, width[asking], taken(media, slot[asking]), settings)
    seen = np.flatnonzero(found.max(axis=0) > 0)
    mine = Asked._make(taken(each, seen) for each in mine)
    found = taken(found, seen)
    _multiply_glow(job, mine, found, width[asking][seen], sources)
    add_found(found, mine, slot[asking][seen], settings.groups, settings.clamp, layers)


def _multiply_glow(job: Job, asked: Asked, found: Array, width: Array, sources: Sources) -> None:
    """Bring in the light of the surfaces that were asked."""
    shining = np.flatnonzero(asked.glow >= 0)
    if len(shining) == 0:
        return
    faces = asked.glow[shining]
    instance = sources.instance[faces]
    hits = Hits(asked.far[shining], taken(asked.place, shining), instance, faces - sources.first[instance])
    away = width[shining] + np.float32(job.view.pixel_angle) * hits.distance
    more = {"view": -taken(asked.direction, shining), "footprint": away[None]}
    found[:, shining] *= job.materials.emitted(job.scene, hits, surface_at(job.scene, hits), more)


def reaching_light(job: Job, asked: Asked, width: Array, media: Array, settings: Settings) -> Array:
    """What of `asked.light (3, n)` arrives along shadow rays: nothing where they are blocked.

    Unblocked light, and what is cut out lets through, is weighted against scattered rays; light through clear boundaries is found in
    no other way and keeps its whole weight. `media` is used up.
    """
    scene = job.scene
    near = np.zeros(len(asked.far), np.float32)
    free = scene.rays.blocked(asked.origin, asked.direction, near, asked.far, STOPS_LIGHT) == 0
    light = asked.light * free
    if not scene.has_clear:
        result: Array = light * asked.weight
        return result
    going = np.flatnonzero(free)
    covered = np.zeros_like(light)
    for turn in range(MOST_CLEAR + 1):
        if len(going) == 0:
            break
        way = taken(asked.direction, going)
        hits = scene.rays.nearest(taken(asked.origin, going), way, near[going], CLEAR)
        missed = (hits.instance < 0) | (hits.distance >= asked.far[going])
        done = np.flatnonzero(missed)
        if media.shape[0] and len(done):  # the last stretch, to the light itself
            stop = asked.far[going[done]]
            finish(media, going[done].astype(np.int32), near[going[done]], stop, light, covered)
        met = np.flatnonzero(~missed)
        if turn == MOST_CLEAR:  # more boundaries than are followed
            light[:, going[met]] = covered[:, going[met]] = 0
            break
        going, hits, way = going[met], hits.take(met), taken(way, met)
        if len(going) == 0:
            break
        surface = surface_at(scene, hits)
        material = job.materials.rows(scene, hits, surface, {"view": -way, "footprint": width[None, going]}, False)
        at = Met(surface.position, surface.normal, surface.flat, hits.instance, hits.face, hits.distance, material)
        pass_clear(at, going.astype(np.int32), way, near, media, settings.priority, light, covered)
        near[going] = hits.distance + scene.offset * np.float32(4)
        going = going[(light[:, going] + covered[:, going]).max(axis=0) > 0]
    result = light * asked.weight + covered
    return result


@kernel
def pass_clear(
    met: Met,
    which: Integers,
    direction: Array,
    near: Array,
    media: Array,
    priority: Integers,
    straight: Array,
    covered: Array,
) -> None:
    """Weaken light on a straight way through boundaries, in place, to 0 where they are opaque.

    `straight (3, n)` has only passed what is cut out, as a scattered ray could; `covered` has passed a clear boundary. `which`
    are the columns of these, of `near` and of `media` that the boundaries belong to.
    """
    m = met.material
    for k in range(which.shape[0]):
        i = which[k]
        facing = direction[0, k] * met.flat[0, k] + direction[1, k] * met.flat[1, k] + direction[2, k] * met.flat[2, k]
        thin = is_thin(m, k)
        clear = m[TRANSMISSION_WEIGHT, k] * (1.0 - m[METALNESS, k])
        counts = True
        ior = m[SPECULAR_IOR, k]
        relative = ior
        if media.shape[0] > 0:
            row = innermost(media, i)
            if row >= 0:
                far = met.distance[k] - near[i]
                for c in range(3):
                    left = kept(media[row + EXTINCTION + c, i], far)
                    straight[c, i] *= left
                    covered[c, i] *= left
            if clear > 0.0 and not thin:
                body = met.instance[k] + 1
                counts, relative = boundary(media, i, body, priority[met.instance[k]], ior, facing <= 0.0)
                if facing > 0.0:
                    leave(media, i, body)
                else:
                    enter(media, i, body, priority[met.instance[k]], m, k)
        # Always counted from the thinner side: a straight ray has no critical angle.
        index = weighted_ior(relative if relative >= 1.0 else 1.0 / relative, m[SPECULAR_WEIGHT, k])
        f = fresnel_dielectric(min(abs(facing), 1.0), index)
        if thin:
            f = 2.0 * f / (1.0 + f)
        share = (1.0 - f if counts else 1.0) * clear
        opacity = m[OPACITY, k]
        for c in range(3):
            passes = opacity * share * (through_tint(m, k, c) if counts else 1.0)
            covered[c, i] = covered[c, i] * ((np.float32(1) - opacity) + passes) + straight[c, i] * passes
            straight[c, i] *= np.float32(1) - opacity


@kernel
def finish(media: Array, which: Integers, near: Array, stop: Array, straight: Array, covered: Array) -> None:
    """Weaken light on its last stretch by the body that it is in."""
    for k in range(which.shape[0]):
        i = which[k]
        row = innermost(media, i)
        if row < 0:
            continue
        for c in range(3):
            left = kept(media[row + EXTINCTION + c, i], max(stop[k] - near[k], np.float32(0)))
            straight[c, i] *= left
            covered[c, i] *= left


@kernel
def add_found(found: Array, asked: Asked, slot: Integers, groups: Whole, clamp: Real, layers: Array) -> None:
    """Add light that arrived to the pictures it belongs to."""
    for i in range(slot.shape[0]):
        deposit(
            layers, groups, asked.group[i], slot[i], found[0, i], found[1, i], found[2, i], asked.flags[i], 1,
            asked.further[i] > 0, asked.share, i, clamp,
        )  # fmt: skip
