"""The path tracer: batches of camera rays followed bounce by bounce, all in arrays (wavefront order)."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from texallon.core.document.limits import Limits
from texallon.core.geometry.rays import CLEAR, Hits
from texallon.core.kernel import Array, Integers
from texallon.core.render.camera import View, camera_rays
from texallon.core.render.lights import Lights
from texallon.core.render.materials import Materials
from texallon.core.render.scatter import FROM_CAMERA, arrive, pass_clear, scatter
from texallon.core.render.scene import EVERYTHING, SEEN, STOPS_LIGHT, Scene, surface_at
from texallon.core.shade.albedo import albedo_tables
from texallon.core.shade.rows import BASE_COLOR, BASE_WEIGHT, TRANSMISSION_WEIGHT
from texallon.core.shade.surface import MIRRORED

MOST_CLEAR = 8
"""Clear boundaries that one shadow ray may pass."""


class Interrupted(Exception):  # noqa: N818 - not an error
    """The picture is no longer wanted."""


@dataclass(frozen=True)
class Job:
    """What to render: everything that a batch of pixels needs to know."""

    scene: Scene
    materials: Materials
    lights: Lights
    view: View
    bounces: int
    limits: Limits
    seed: int
    wanted: Callable[[], bool] = lambda: True
    """Asked between stages; when it says no, `Interrupted` is raised."""

    def check(self) -> None:
        if not self.wanted():
            raise Interrupted


@dataclass(frozen=True)
class Result:
    """What a batch gave: `radiance (3, n)`, and for the denoiser `albedo (3, n)` and `normal (3, n)` of first hits."""

    radiance: Array
    albedo: Array
    normal: Array


def primary_hits(job: Job, pixels: Integers, sample: int) -> tuple[Array, Array, Hits]:
    """The camera's rays through some pixels and what they hit."""
    origin, direction = camera_rays(job.view, pixels, sample, job.seed)
    near = np.zeros(len(pixels), np.float32)
    return origin, direction, job.scene.rays.nearest(origin, direction, near, SEEN)


def trace(job: Job, pixels: Integers, sample: int, known: tuple[Array, Array, Hits] | None = None) -> Result:
    """One sample for each of some pixels `(n,)`; `known` are their primary hits, if they have been found before."""
    scene, lights = job.scene, job.lights
    count = len(pixels)
    radiance = np.zeros((3, count), np.float32)
    albedo = np.ones((3, count), np.float32)
    first_normal = np.zeros((3, count), np.float32)
    table, mean = albedo_tables()
    origin, direction, hits = known or primary_hits(job, pixels, sample)
    pixel = pixels
    slot = np.arange(count, dtype=np.int32)
    throughput = np.ones((3, count), np.float32)
    density = np.zeros(count, np.float32)
    flags = np.full(count, MIRRORED | FROM_CAMERA, np.int32)
    width = np.zeros(count, np.float32)
    behind = np.zeros(count, np.float32)
    turns = np.zeros(count, np.int32)
    spread = np.full(count, job.view.pixel_angle, np.float32)
    unseen = np.ones(count, bool)
    limits = job.limits.array(job.bounces)
    for bounce in range(job.bounces + job.limits.transparency + 1):
        job.check()
        if bounce > 0:
            hits = scene.rays.nearest(origin, direction, np.zeros(len(slot), np.float32), EVERYTHING)
            job.check()
        arrive(
            hits.instance, hits.distance, behind, origin, direction, throughput, density, flags, slot, scene.objects, lights.picture,
            lights.density, lights.rotation, lights.background, lights.lamps, lights.areas, lights.chance, radiance,
        )  # fmt: skip
        alive = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
        if len(alive) == 0:
            break
        if len(alive) < len(slot):
            hits, direction = hits.take(alive), np.ascontiguousarray(direction[:, alive])
            throughput = np.ascontiguousarray(throughput[:, alive])
            slot, pixel, density, flags = slot[alive], pixel[alive], density[alive], flags[alive]
            width, spread, behind, turns = width[alive], spread[alive], behind[alive], turns[alive]
        surface = surface_at(scene, hits)
        width = width + spread * hits.distance
        more = {"view": -direction, "footprint": width[None]}
        material = job.materials.rows(scene, hits, surface, more)
        job.check()
        n = len(slot)
        passed = np.zeros(n, np.int32)
        after, turned = np.empty((3, n), np.float32), np.empty((3, n), np.float32)
        start, towards = np.empty((3, n), np.float32), np.empty((3, n), np.float32)
        far, weight, light = np.empty(n, np.float32), np.empty(n, np.float32), np.empty((3, n), np.float32)
        scatter(
            surface.position, surface.normal, surface.flat, direction, material, throughput, density, flags, slot,
            pixel, hits.distance, behind, turns, passed, spread, sample, bounce, limits, job.seed, scene.offset, table, mean,
            lights.rows, lights.columns, lights.picture, lights.density, lights.rotation, lights.lamps,
            lights.chance, radiance, after, turned, start, towards, far, light, weight,
        )  # fmt: skip
        new = np.flatnonzero(unseen[slot] & (passed == 0))
        if len(new):  # what the camera sees first, behind what is cut out, guides the denoiser
            albedo[:, slot[new]] = _shown_albedo(np.ascontiguousarray(material[:, new]))
            first_normal[:, slot[new]] = surface.normal[:, new]
            unseen[slot[new]] = False
        job.check()
        asking = np.flatnonzero(far > 0)
        if len(asking):
            found = reaching_light(
                job,
                np.ascontiguousarray(start[:, asking]),
                np.ascontiguousarray(towards[:, asking]),
                far[asking],
                np.ascontiguousarray(light[:, asking]),
                weight[asking],
                width[asking],
            )
            radiance[:, slot[asking]] += found
        alive = np.flatnonzero(throughput.max(axis=0) > 0)
        if len(alive) == 0:
            break
        origin, direction = np.ascontiguousarray(after[:, alive]), np.ascontiguousarray(turned[:, alive])
        throughput = np.ascontiguousarray(throughput[:, alive])
        slot, pixel, density, flags = slot[alive], pixel[alive], density[alive], flags[alive]
        width, spread, behind, turns = width[alive], spread[alive], behind[alive], turns[alive]
    return Result(radiance, albedo, first_normal)


def reaching_light(
    job: Job, origin: Array, direction: Array, far: Array, light: Array, weight: Array, width: Array
) -> Array:
    """What of `light (3, n)` arrives along shadow rays: nothing where they are blocked.

    Unblocked light, and what is cut out lets through, is weighted against scattered rays by `weight (n,)`; light through
    clear boundaries is found in no other way and keeps its whole weight.
    """
    scene = job.scene
    near = np.zeros(len(far), np.float32)
    free = scene.rays.blocked(origin, direction, near, far, STOPS_LIGHT) == 0
    light = light * free
    if not scene.has_clear:
        return light * weight
    going = np.flatnonzero(free)
    covered = np.zeros_like(light)
    for _ in range(MOST_CLEAR):
        if len(going) == 0:
            break
        way = np.ascontiguousarray(direction[:, going])
        hits = scene.rays.nearest(np.ascontiguousarray(origin[:, going]), way, near[going], CLEAR)
        met = np.flatnonzero((hits.instance >= 0) & (hits.distance < far[going]))
        if len(met) == 0:
            going = going[:0]
            break
        going, hits, way = going[met], hits.take(met), np.ascontiguousarray(way[:, met])
        surface = surface_at(scene, hits)
        material = job.materials.rows(scene, hits, surface, {"view": -way, "footprint": width[None, going]})
        part, other = np.ascontiguousarray(light[:, going]), np.ascontiguousarray(covered[:, going])
        pass_clear(material, way, surface.flat, part, other)
        light[:, going], covered[:, going] = part, other
        near[going] = hits.distance + scene.offset * np.float32(4)
        going = going[(part + other).max(axis=0) > 0]
    light[:, going] = covered[:, going] = 0  # more boundaries than are followed
    result: Array = light * weight + covered
    return result


def _shown_albedo(material: Array) -> Array:
    """A noise-free guide for the denoiser: the base colour, white where light passes or mirrors."""
    colour = material[BASE_WEIGHT] * material[BASE_COLOR : BASE_COLOR + 3]
    clear = material[TRANSMISSION_WEIGHT]
    result: Array = colour * (1 - clear) + clear
    return result
