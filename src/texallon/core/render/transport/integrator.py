"""The path tracer: batches of camera rays followed bounce by bounce, all in arrays (wavefront order)."""

from dataclasses import dataclass

import numpy as np

from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Integers
from texallon.core.render.light.emitters import Emitters
from texallon.core.render.scene.scene import EVERYTHING, SEEN
from texallon.core.render.scene.surface import surface_at
from texallon.core.render.transport.context import RenderContext
from texallon.core.render.transport.emitter_hits import add_emitter_hits
from texallon.core.render.transport.interface import update_media
from texallon.core.render.transport.light_aovs import LIGHT_AOVS
from texallon.core.render.transport.medium_traversal import traverse_medium
from texallon.core.render.transport.paths import AFTER_DIFFUSE, FROM_CAMERA, IN_SUBSURFACE, Paths, Round, camera_paths
from texallon.core.render.transport.primary import PrimaryHits, primary_hits
from texallon.core.render.transport.random_walk import random_walk
from texallon.core.render.transport.scatter import scatter
from texallon.core.render.transport.shadow_rays import empty_shadow_rays
from texallon.core.render.transport.shadow_tracing import trace_shadow_rays
from texallon.core.render.transport.surface_interactions import Onward, Settings, SurfaceInteractions
from texallon.core.render.transport.volume_traversal import (
    Adding,
    Missed,
    Surroundings,
    Tracked,
    VolumeShadowRays,
    traverse_volumes,
)
from texallon.core.render.volume.points_in_view import no_points
from texallon.core.render.volume.tables import VolumeTables, Wanted
from texallon.core.render.volume.tracking_room import tracking_room
from texallon.core.shade.albedo import albedo_table
from texallon.core.shade.rows import BASE_COLOR, BASE_WEIGHT, EMISSION_COLOR, EMISSION_LUMINANCE, TRANSMISSION_WEIGHT

MOST_ROUNDS = 1 << 14
"""So many random numbers are set apart."""


@dataclass(frozen=True)
class TracedSamples:
    """What a batch gave: `buffers (groups + parts, 3, n)`, and for the denoiser `albedo (3, n)` and `normal (3, n)` of first hits."""

    buffers: Array
    albedo: Array
    normal: Array


def trace(context: RenderContext, pixels: Integers, sample: int, known: PrimaryHits | None = None) -> TracedSamples:
    """One sample for each of some pixels `(n,)`; `known` are their primary hits, if they have been found before.

    Parameters
    ----------
    context : RenderContext
        What is rendered.
    pixels : Integers
        `(n,)` numbers of pixels.
    sample : int
        Number of the sample.
    known : PrimaryHits, optional
        Primary hits found before, if any.
    """
    scene = context.scene
    count = len(pixels)
    groups = len(context.lights.names)
    buffers = np.zeros((groups + (len(LIGHT_AOVS) if context.write_aovs else 0), 3, count), np.float32)
    albedo = np.ones((3, count), np.float32)
    first_normal = np.zeros((3, count), np.float32)
    limits = context.limits.array(context.bounces)
    clamp = 0.0 if context.final else float(context.limits.clamp)
    settings = Settings(sample, context.seed, limits, groups, clamp, scene.priority, albedo_table(), context.disperses)
    emitters = context.emitters
    if known is None:
        known = primary_hits(scene.rays, context.view, context.primary_seed, sample, pixels)
    # Paths and hits are changed in place on the way; what was found before may be kept by others.
    origin, direction, hits = known.origin.copy(), known.direction.copy(), known.hits.copy()
    paths = camera_paths(
        pixels, origin, direction, context.view.pixel_angle, context.camera_media, scene.has_subsurface
    )
    unseen = np.ones(count, bool)
    for bounce in range(MOST_ROUNDS):  # each path ends long before, by its limits or by roulette
        context.check()
        if bounce > 0:
            hits = scene.rays.nearest(paths.origin, paths.direction, np.zeros(len(paths.slot), np.float32), EVERYTHING)
            if scene.has_subsurface and (paths.flags & IN_SUBSURFACE).any():
                random_walk(scene.rays.table, SEEN, paths, Round(sample, bounce, context.seed), hits)
            context.check()
        scattered = []
        if scene.has_media:
            paths, hits, turned = _through_bodies(context, paths, hits, bounce, settings, emitters, buffers)
            scattered += turned
        if context.volumes is not None:
            met = hits
            paths, hits, turned = _through_volumes(context, paths, hits, bounce, settings, emitters, buffers)
            if bounce == 0 and turned:
                _guide_through_volumes(context, known, met, turned[0].slot, albedo, first_normal)
                unseen[turned[0].slot] = False
            scattered += turned
        add_emitter_hits(paths, hits.instance, hits.distance, scene.objects, emitters, groups, clamp, buffers)
        if context.backdrop is not None:
            _show_backdrop(context, paths, hits, buffers)
        alive = np.flatnonzero((hits.instance >= 0) & (hits.instance < scene.objects))
        if len(alive) < len(paths.slot):
            hits, paths = hits.take(alive), paths.take(alive)
        if len(alive):
            paths = _at_surfaces(
                context, paths, hits, bounce, settings, emitters, buffers, unseen, albedo, first_normal
            )
        for each in scattered:
            paths = paths.join(each) if len(paths.slot) else each
        alive = np.flatnonzero(paths.throughput.max(axis=0) > 0)
        if len(alive) == 0:
            break
        if len(alive) < len(paths.slot):
            paths = paths.take(alive)
    if context.points is not None:
        # Bright points are free of noise: seen in what guides the denoiser, they are not smoothed away.
        albedo *= 1 - np.float32(0.9) * context.points.shown[pixels]
    return TracedSamples(buffers, albedo, first_normal)


def _through_bodies(
    context: RenderContext,
    paths: Paths,
    hits: Hits,
    bounce: int,
    settings: Settings,
    emitters: Emitters,
    buffers: Array,
) -> tuple[Paths, Hits, list[Paths]]:
    """Weaken paths by what they went through; those that were scattered on the way come last, by themselves."""
    n = len(paths.slot)
    unfinished, shadow = np.zeros(n, np.int32), empty_shadow_rays(n if context.scene.has_scattering_media else 0)
    now = Round(settings.sample, bounce, context.seed)
    traverse_medium(context.scene.rays.table, EVERYTHING, paths, now, hits, emitters, shadow, unfinished)
    trace_shadow_rays(context, shadow, paths, bounce, settings, buffers)
    return _apart(paths, hits, unfinished)


def _through_volumes(
    context: RenderContext,
    paths: Paths,
    hits: Hits,
    bounce: int,
    settings: Settings,
    emitters: Emitters,
    buffers: Array,
) -> tuple[Paths, Hits, list[Paths]]:
    """As `_through_bodies`, of volumes."""
    assert context.volumes is not None
    n = len(paths.slot)
    lamps = bool(emitters.reach.any())
    shadow, lamp_rays, counts = empty_shadow_rays(n), empty_shadow_rays(n if lamps else 0), np.zeros(2, np.int32)
    width = np.zeros(n, np.float32)
    tracked = Tracked(np.ones(n, np.int32), np.zeros(n, np.int32), counts)
    now = Round(settings.sample, bounce, context.seed)
    adding = Adding(settings.groups, settings.clamp, buffers)
    rays = context.scene.rays.table
    points = no_points() if context.points is None else context.points
    room = tracking_room(settings.groups)

    def run(tables: VolumeTables, wanted: Wanted) -> None:
        context.check()
        around = Surroundings(tables, rays, EVERYTHING, emitters, points)
        traverse_volumes(
            around, paths, now, hits, VolumeShadowRays(shadow, lamp_rays, width), tracked, adding, Missed(wanted, room)
        )

    context.volumes.follow(tracked.todo, run, context.check)
    context.volumes.add_counts(counts)
    context.check()
    trace_shadow_rays(context, shadow, paths, bounce, settings, buffers)
    trace_shadow_rays(context, lamp_rays, paths._replace(cone_width=width), bounce, settings, buffers)
    return _apart(paths, hits, tracked.unfinished)


def _apart(paths: Paths, hits: Hits, unfinished: Integers) -> tuple[Paths, Hits, list[Paths]]:
    """Paths on their way to what they hit, and those that go elsewhere."""
    if not unfinished.any():
        return paths, hits, []
    going, scattered = np.flatnonzero(unfinished == 0), np.flatnonzero(unfinished)
    return paths.take(going), hits.take(going), [paths.take(scattered)]


def _at_surfaces(
    context: RenderContext,
    paths: Paths,
    hits: Hits,
    bounce: int,
    settings: Settings,
    emitters: Emitters,
    buffers: Array,
    unseen: np.typing.NDArray[np.bool_],
    albedo: Array,
    first_normal: Array,
) -> Paths:
    """Scatter paths at the surfaces they met; returns them on their way to the next."""
    scene = context.scene
    surface = surface_at(scene, hits)
    paths.cone_width[:] += paths.cone_spread * hits.distance
    more = {"view": -paths.direction, "footprint": paths.cone_width[None]}
    # What a diffuse turn looks at is blurred more widely than relief is fine.
    material = context.materials.rows(scene, hits, surface, more, paths.cone_spread < AFTER_DIFFUSE)
    context.check()
    n = len(paths.slot)
    guide = _shown_albedo(material) if unseen.any() else None
    surfaces = SurfaceInteractions(
        surface.position,
        surface.normal,
        surface.flat,
        surface.offset,
        hits.instance,
        hits.face,
        hits.distance,
        material,
    )
    shadow = empty_shadow_rays(n)
    onward = Onward(
        np.empty((3, n), np.float32), np.empty((3, n), np.float32), np.empty(n, np.int32), np.empty(n, np.int32)
    )
    scatter(surfaces, paths, bounce, emitters, settings, buffers, shadow, onward)
    if guide is not None:
        new = np.flatnonzero(unseen[paths.slot] & (onward.passed == 0))
        if len(new):  # what the camera sees first, behind what is cut out, guides the denoiser
            albedo[:, paths.slot[new]] = guide[:, new]
            first_normal[:, paths.slot[new]] = surface.normal[:, new]
            unseen[paths.slot[new]] = False
    context.check()
    trace_shadow_rays(context, shadow, paths, bounce, settings, buffers, surfaces)
    if scene.has_media:
        update_media(surfaces, paths, onward.crossing, settings.priority)
    return paths._replace(origin=onward.origin, direction=onward.direction)


def _guide_through_volumes(
    context: RenderContext, known: PrimaryHits, met: Hits, slot: Integers, albedo: Array, first_normal: Array
) -> None:
    """What would be seen behind where camera rays were scattered guides the denoiser, so that its guides are free of noise."""
    scene = context.scene
    behind = slot[(met.instance[slot] >= 0) & (met.instance[slot] < scene.objects)]
    if len(behind) == 0:
        return
    hits = met.take(behind)
    surface = surface_at(scene, hits)
    view = -np.ascontiguousarray(known.direction[:, behind])
    footprint = (hits.distance * np.float32(context.view.pixel_angle))[None]
    material = context.materials.rows(scene, hits, surface, {"view": view, "footprint": footprint}, False)
    albedo[:, behind] = _shown_albedo(material)
    first_normal[:, behind] = surface.normal


def _show_backdrop(context: RenderContext, paths: Paths, hits: Hits, buffers: Array) -> None:
    """Put the backdrop where the camera sees past everything, into the first group and the background's part."""
    assert context.backdrop is not None
    past = np.flatnonzero((hits.instance < 0) & ((paths.flags & FROM_CAMERA) != 0))
    if len(past) == 0:
        return
    height, width, _ = context.backdrop.shape
    pixel = paths.pixel[past]
    x = (pixel % context.view.width) * width // context.view.width
    y = (pixel // context.view.width) * height // context.view.height
    light = context.backdrop[y, x].T * paths.throughput[:, past]
    slot = paths.slot[past]
    buffers[0][:, slot] += light
    if context.write_aovs:
        buffers[len(context.lights.names)][:, slot] += light


def _shown_albedo(material: Array) -> Array:
    """A noise-free guide for the denoiser: the base colour, white where light passes or mirrors; and what glows by its own light, which
    would else be black on a black base."""
    colour = material[BASE_WEIGHT] * material[BASE_COLOR : BASE_COLOR + 3]
    clear = material[TRANSMISSION_WEIGHT]
    emissive_face = material[EMISSION_LUMINANCE]
    shown = colour * (1 - clear) + clear
    if emissive_face.any():
        shown = np.minimum(shown + emissive_face * material[EMISSION_COLOR : EMISSION_COLOR + 3], np.float32(1))
    result: Array = np.ascontiguousarray(shown, np.float32)
    return result
