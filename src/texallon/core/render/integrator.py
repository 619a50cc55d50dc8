"""The path tracer: batches of camera rays followed bounce by bounce, all in arrays (wavefront order)."""

from dataclasses import dataclass

import numpy as np

from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Integers
from texallon.core.render.arrive import arrive
from texallon.core.render.ask import Sources, nothing_asked
from texallon.core.render.camera import camera_rays
from texallon.core.render.flight import come_out, fly
from texallon.core.render.job import Job
from texallon.core.render.parts import PARTS
from texallon.core.render.paths import AFTER_DIFFUSE, FROM_CAMERA, WANDERING, Paths, camera_paths
from texallon.core.render.scatter import Met, Settings, cross, scatter
from texallon.core.render.scene import EVERYTHING, SEEN, surface_at
from texallon.core.render.shadows import answer
from texallon.core.shade.albedo import albedo_table
from texallon.core.shade.rows import BASE_COLOR, BASE_WEIGHT, EMISSION_COLOR, EMISSION_LUMINANCE, TRANSMISSION_WEIGHT

MOST_ROUNDS = 1 << 14
"""So many random numbers are set apart."""


@dataclass(frozen=True)
class Result:
    """What a batch gave: `layers (groups + parts, 3, n)`, and for the denoiser `albedo (3, n)` and `normal (3, n)` of first hits."""

    layers: Array
    albedo: Array
    normal: Array


def primary_hits(job: Job, pixels: Integers, sample: int) -> tuple[Array, Array, Hits]:
    """The camera's rays through some pixels and what they hit."""
    origin, direction = camera_rays(job.view, pixels, sample, job.seed if job.view_seed is None else job.view_seed)
    near = np.zeros(len(pixels), np.float32)
    return origin, direction, job.scene.rays.nearest(origin, direction, near, SEEN)


def trace(job: Job, pixels: Integers, sample: int, known: tuple[Array, Array, Hits] | None = None) -> Result:
    """One sample for each of some pixels `(n,)`; `known` are their primary hits, if they have been found before."""
    scene = job.scene
    count = len(pixels)
    groups = len(job.lights.names)
    layers = np.zeros((groups + (len(PARTS) if job.apart else 0), 3, count), np.float32)
    albedo = np.ones((3, count), np.float32)
    first_normal = np.zeros((3, count), np.float32)
    limits = job.limits.array(job.bounces)
    clamp = 0.0 if job.final else float(job.limits.clamp)
    settings = Settings(sample, job.seed, limits, groups, clamp, scene.priority, albedo_table())
    sources = job.sources
    origin, direction, hits = known or primary_hits(job, pixels, sample)
    paths = camera_paths(pixels, origin, direction, job.view.pixel_angle, job.around_eye, scene.has_wanderers)
    unseen = np.ones(count, bool)
    for bounce in range(MOST_ROUNDS):  # each path ends long before, by its limits or by roulette
        job.check()
        if bounce > 0:
            hits = scene.rays.nearest(paths.origin, paths.direction, np.zeros(len(paths.slot), np.float32), EVERYTHING)
            if scene.has_wanderers and (paths.flags & WANDERING).any():
                come_out(
                    scene.rays.handle, SEEN, paths, sample, bounce, job.seed, hits.distance, hits.place,
                    hits.instance, hits.face,
                )  # fmt: skip
            job.check()
        floating = None
        if scene.has_bodies:
            paths, hits, floating = _through_bodies(job, paths, hits, bounce, settings, sources, layers)
        arrive(paths, hits.instance, hits.distance, scene.objects, sources, groups, clamp, layers)
        if job.backdrop is not None:
            _show_backdrop(job, paths, hits, layers)
        alive = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
        if len(alive) < len(paths.slot):
            hits, paths = hits.take(alive), paths.take(alive)
        if len(alive):
            paths = _at_surfaces(job, paths, hits, bounce, settings, sources, layers, unseen, albedo, first_normal)
        if floating is not None:
            paths = paths.join(floating) if len(alive) else floating
        elif len(alive) == 0:
            break
        alive = np.flatnonzero(paths.throughput.max(axis=0) > 0)
        if len(alive) == 0:
            break
        if len(alive) < len(paths.slot):
            paths = paths.take(alive)
    return Result(layers, albedo, first_normal)


def _through_bodies(
    job: Job, paths: Paths, hits: Hits, bounce: int, settings: Settings, sources: Sources, layers: Array
) -> tuple[Paths, Hits, Paths | None]:
    """Weaken paths by what they went through; those that were scattered on the way come last, by themselves."""
    n = len(paths.slot)
    stayed, asked = np.zeros(n, np.int32), nothing_asked(n if job.scene.has_milk else 0)
    fly(
        job.scene.rays.handle, EVERYTHING, paths, hits.distance, hits.place, hits.instance, hits.face, settings.sample, bounce,
        job.seed, sources, asked, stayed,
    )  # fmt: skip
    answer(job, asked, paths.slot, paths.width, paths.media, settings, sources, layers)
    if not stayed.any():
        return paths, hits, None
    going, floating = np.flatnonzero(stayed == 0), np.flatnonzero(stayed)
    return paths.take(going), hits.take(going), paths.take(floating)


def _at_surfaces(
    job: Job,
    paths: Paths,
    hits: Hits,
    bounce: int,
    settings: Settings,
    sources: Sources,
    layers: Array,
    unseen: np.typing.NDArray[np.bool_],
    albedo: Array,
    first_normal: Array,
) -> Paths:
    """Scatter paths at the surfaces they met; returns them on their way to the next."""
    scene = job.scene
    surface = surface_at(scene, hits)
    paths.width[:] += paths.spread * hits.distance
    more = {"view": -paths.direction, "footprint": paths.width[None]}
    # What a diffuse turn looks at is blurred more widely than relief is fine.
    material = job.materials.rows(scene, hits, surface, more, paths.spread < AFTER_DIFFUSE)
    job.check()
    n = len(paths.slot)
    guide = _shown_albedo(material) if unseen.any() else None
    met = Met(
        surface.position,
        surface.normal,
        surface.flat,
        surface.offset,
        hits.instance,
        hits.face,
        hits.distance,
        material,
    )
    asked = nothing_asked(n)
    after, turned_to, passed = np.empty((3, n), np.float32), np.empty((3, n), np.float32), np.empty(n, np.int32)
    crossing = np.empty(n, np.int32)
    scatter(met, paths, bounce, sources, settings, layers, asked, after, turned_to, passed, crossing)
    if guide is not None:
        new = np.flatnonzero(unseen[paths.slot] & (passed == 0))
        if len(new):  # what the camera sees first, behind what is cut out, guides the denoiser
            albedo[:, paths.slot[new]] = guide[:, new]
            first_normal[:, paths.slot[new]] = surface.normal[:, new]
            unseen[paths.slot[new]] = False
    job.check()
    answer(job, asked, paths.slot, paths.width, paths.media, settings, sources, layers, met)
    if scene.has_bodies:
        cross(met, paths, crossing, settings.priority)
    return paths._replace(origin=after, direction=turned_to)


def _show_backdrop(job: Job, paths: Paths, hits: Hits, layers: Array) -> None:
    """Put the backdrop where the camera sees past everything, into the first group and the background's part."""
    assert job.backdrop is not None
    past = np.flatnonzero((hits.instance < 0) & ((paths.flags & FROM_CAMERA) != 0))
    if len(past) == 0:
        return
    height, width, _ = job.backdrop.shape
    pixel = paths.pixel[past]
    x = (pixel % job.view.width) * width // job.view.width
    y = (pixel // job.view.width) * height // job.view.height
    light = job.backdrop[y, x].T * paths.throughput[:, past]
    slot = paths.slot[past]
    layers[0][:, slot] += light
    if job.apart:
        layers[len(job.lights.names)][:, slot] += light


def _shown_albedo(material: Array) -> Array:
    """A noise-free guide for the denoiser: the base colour, white where light passes or mirrors; and what glows by its own light, which
    would else be black on a black base."""
    colour = material[BASE_WEIGHT] * material[BASE_COLOR : BASE_COLOR + 3]
    clear = material[TRANSMISSION_WEIGHT]
    glow = material[EMISSION_LUMINANCE]
    shown = colour * (1 - clear) + clear
    if glow.any():
        shown = np.minimum(shown + glow * material[EMISSION_COLOR : EMISSION_COLOR + 3], np.float32(1))
    result: Array = np.ascontiguousarray(shown, np.float32)
    return result
