"""Shadow rays: what of the light that was asked for arrives, straight through what is cut out and what is clear and smooth.

Light really bends at a boundary. A straight ray stands for the bent one: what passes is weakened by reflectance, tint, coat and fuzz as
a path would be, and by how much wider the boundary makes a bundle of rays that comes from the shaded point. That is followed to first
order, as in a lens (M. Born and E. Wolf, *Principles of Optics*, 4.4; angles small against the boundary's curvature): behind a flat
boundary far light is 1/n² as strong, in the middle of a ball it is as strong as outside. It is never made stronger, so straight light
focuses nowhere. Basic radiance needs no other factor (see `shade.surface`).

The environment is different: behind a boundary that bends light, scattered paths find it exactly, and straight rays bring only what is
too bright to be left to chance (`Emitters.peak`).
"""

from typing import NamedTuple

import numpy as np

from texallon.core.columns import take_columns
from texallon.core.geometry.rays import CLEAR, Hits
from texallon.core.kernel import Array, Float, Int, Integers, inlined, kernel
from texallon.core.render.scene.curvature import curvature_at
from texallon.core.render.scene.scene import STOPS_LIGHT
from texallon.core.render.scene.surface import beyond, surface_at
from texallon.core.render.transport.context import RenderContext
from texallon.core.render.transport.light_aovs import accumulate
from texallon.core.render.transport.paths import Paths, Round
from texallon.core.render.transport.shadow_rays import ShadowRays
from texallon.core.render.transport.surface_interactions import ENTERS, LEAVES, Settings, SurfaceInteractions
from texallon.core.render.transport.volume_transmittance import ShadowsThrough, attenuate_by_volumes
from texallon.core.render.volume.tables import VolumeTables, Wanted
from texallon.core.render.volume.tracking_room import tracking_room
from texallon.core.shade.base import MATCHED, is_thin, passes_straight
from texallon.core.shade.coat import coat_at, coat_mean, coat_pass, coat_tint, is_coated_side, within_coat
from texallon.core.shade.fresnel import fresnel_dielectric, weighted_ior
from texallon.core.shade.fuzz import fuzz_albedo
from texallon.core.shade.media.constant import transmittance
from texallon.core.shade.media.nesting import EXTINCTION, boundary, enter, innermost, leave, through_tint
from texallon.core.shade.rows import (
    COAT_WEIGHT,
    FUZZ_ROUGHNESS,
    FUZZ_WEIGHT,
    METALNESS,
    NEAR_INDEX,
    OPACITY,
    SPECULAR_IOR,
    SPECULAR_ROUGHNESS,
    SPECULAR_WEIGHT,
    TRANSMISSION_WEIGHT,
)
from texallon.core.shade.stack import facet_index, roughened

MOST_CLEAR = 16
"""Clear boundaries that one shadow ray may pass."""

HEIGHT, SLOPE, BEND, BUNDLE = 0, 1, 2, 3
"""Rows of what is known of the bundle that a shadow ray stands for: how far it has spread for an angle of 1 at its start, how fast it
spreads now, whether it was bent at all; and how many rows there are."""


class LightOnTheWay(NamedTuple):
    """What n shadow rays have left so far.

    `near (n,)`: metres that they have come. `media`: the bodies that they are in. `bundle (BUNDLE, n)`: how they have spread. `straight
    (3, n)`: light that has passed nothing that bends; `covered (3, n)` any clear boundary.
    """

    near: Array
    media: Array
    bundle: Array
    straight: Array
    covered: Array


def trace_shadow_rays(
    context: RenderContext,
    shadow: ShadowRays,
    paths: Paths,
    bounce: int,
    settings: Settings,
    buffers: Array,
    surfaces: SurfaceInteractions | None = None,
) -> None:
    """Add to `buffers` what of the light that was asked for arrives. `surfaces` are the surfaces that rays with a `crossing` begin behind.

    Parameters
    ----------
    context : RenderContext
        What is rendered.
    shadow : ShadowRays
        Shadow rays and what they may bring.
    paths : Paths
        That asked.
    bounce : int
        Number of the round.
    settings : Settings
        What holds for the whole sample.
    buffers : Array
        `(groups + AOVs, 3, slots)` light added up, changed in place.
    surfaces : SurfaceInteractions, optional
        Surface points that paths met.
    """
    asking = np.flatnonzero(shadow.far > 0)
    if len(asking) == 0:
        return
    mine = ShadowRays._make(take_columns(each, asking) for each in shadow)
    slot, width = paths.slot[asking], paths.cone_width[asking]
    around = take_columns(paths.media, slot)
    if surfaces is not None and around.shape[0] and mine.crossing.any():
        update_shadow_media(surfaces, asking.astype(np.int32), mine.crossing, settings.priority, around)
    found = unoccluded_light(context, mine, width, around, settings)
    seen = np.flatnonzero(found.max(axis=0) > 0)
    mine = ShadowRays._make(take_columns(each, seen) for each in mine)
    found, width = take_columns(found, seen), width[seen]
    _add_emission(context, mine, found, width)
    if context.volumes is not None:
        now = Round(settings.sample, bounce, settings.seed)
        found *= through_volumes(context, mine, paths.pixel[asking][seen], width, now)
    accumulate_shadow_rays(found, mine, slot[seen], settings.groups, settings.clamp, buffers)


def through_volumes(context: RenderContext, shadow: ShadowRays, pixel: Integers, width: Array, now: Round) -> Array:
    """What volumes leave of shadow rays; where a volume was asked, times its light.

    Parameters
    ----------
    context : RenderContext
        With volumes.
    shadow : ShadowRays
        n.
    pixel : Integers
        `(n,)` of each.
    width : Array
        `(n,)` metres of the paths' cones.
    now : Round
        Of bounces.

    Returns
    -------
    Array
        `(3, n)`.
    """
    volumes = context.volumes
    assert volumes is not None
    n = len(shadow.far)
    through = ShadowsThrough(pixel, width, np.ones((3, n), np.float32), np.ones(n, np.int32))
    counts, room = np.zeros(2, np.int32), tracking_room()

    def run(tables: VolumeTables, wanted: Wanted) -> None:
        attenuate_by_volumes(tables, context.emitters, shadow, through, now, counts, wanted, room)

    volumes.follow(through.todo, run, context.check)
    volumes.add_counts(counts)
    return through.left


@kernel
def update_shadow_media(
    surfaces: SurfaceInteractions, at: Integers, crossing: Integers, priority: Integers, media: Array
) -> None:
    """Enter or leave bodies where shadow rays begin on the far side of a surface.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        Surface points that paths met.
    at : Integers
        `(m,)` columns of the surfaces.
    crossing : Integers
        `(n,)` who enters and who leaves a body.
    priority : Integers
        `(i,)` of nested bodies, by instance.
    media : Array
        `(NESTED × FIELDS, n)`, changed in place.
    """
    m, instance = surfaces.material, surfaces.instance
    for i in range(at.shape[0]):
        k = at[i]
        if crossing[i] == ENTERS:
            enter(media, i, instance[k] + 1, priority[instance[k]], m, k)
        elif crossing[i] == LEAVES:
            leave(media, i, instance[k] + 1)


def _add_emission(context: RenderContext, shadow: ShadowRays, found: Array, width: Array) -> None:
    """Bring in the light of the surfaces that were asked."""
    shining = np.flatnonzero(shadow.emissive_face >= 0)
    if len(shining) == 0:
        return
    emitters = context.emitters
    faces = shadow.emissive_face[shining]
    instance = emitters.instance[faces]
    hits = Hits(
        shadow.far[shining], take_columns(shadow.barycentric, shining), instance, faces - emitters.first[instance]
    )
    away = width[shining] + np.float32(context.view.pixel_angle) * hits.distance
    more = {"view": -take_columns(shadow.direction, shining), "footprint": away[None]}
    found[:, shining] *= context.materials.emission.radiance(context.scene, hits, surface_at(context.scene, hits), more)


def unoccluded_light(
    context: RenderContext, shadow: ShadowRays, width: Array, media: Array, settings: Settings
) -> Array:
    """What of `shadow.light (3, n)` arrives along shadow rays: nothing where they are blocked.

    Unblocked light, and what is cut out lets through, is weighted against scattered rays; light through clear boundaries is found in
    no other way and keeps its whole weight. `media` is used up.

    Parameters
    ----------
    context : RenderContext
        What is rendered.
    shadow : ShadowRays
        Shadow rays and what they may bring.
    width : Array
        `(n,)` metres of the paths' cones.
    media : Array
        `(NESTED × FIELDS, n)`, used up.
    settings : Settings
        What holds for the whole sample.
    """
    scene = context.scene
    near = np.zeros(len(shadow.far), np.float32)
    free = scene.rays.blocked(shadow.origin, shadow.direction, near, shadow.far, STOPS_LIGHT) == 0
    light = shadow.light * free
    if not scene.has_clear:
        result: Array = light * shadow.weight
        return result
    going = np.flatnonzero(free)
    bundle = np.zeros((BUNDLE, len(shadow.far)), np.float32)
    bundle[SLOPE] = 1
    covered = np.zeros_like(light)
    so_far = LightOnTheWay(near, media, bundle, light, covered)
    for boundaries in range(MOST_CLEAR + 1):
        if len(going) == 0:
            break
        way = take_columns(shadow.direction, going)
        hits = scene.rays.nearest(take_columns(shadow.origin, going), way, near[going], CLEAR)
        missed = (hits.instance < 0) | (hits.distance >= shadow.far[going])
        done = np.flatnonzero(missed)
        if len(done):  # the last stretch, to the light itself
            attenuate_last_segment(going[done].astype(np.int32), shadow.far, shadow.refracted_fraction, so_far)
        surfaces = np.flatnonzero(~missed)
        if boundaries == MOST_CLEAR:  # more boundaries than are followed
            light[:, going[surfaces]] = covered[:, going[surfaces]] = 0
            break
        going, hits, way = going[surfaces], hits.take(surfaces), take_columns(way, surfaces)
        if len(going) == 0:
            break
        surface = surface_at(scene, hits)
        more = {"view": -way, "footprint": width[None, going]}
        material = context.materials.rows(scene, hits, surface, more, False)
        at = SurfaceInteractions(
            surface.position, surface.normal, surface.flat, surface.offset, hits.instance, hits.face, hits.distance, material
        )  # fmt: skip
        attenuate_at_boundaries(
            at, curvature_at(scene, hits), going.astype(np.int32), way, settings.priority, settings.table, so_far
        )
        near[going] = beyond(hits, surface)
        going = going[(light[:, going] + covered[:, going]).max(axis=0) > 0]
    result = light * shadow.weight + covered
    return result


@inlined
def layers_pass(m: Array, k: Int, c: Int, cosine: Float, layered: bool, thin: bool, table: Array) -> Float:
    """What coat and fuzz leave of a straight ray at a cosine, for one channel: as `surface.layers_let_through`.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    cosine : float
        To the normal.
    layered : bool
        Whether coat, fuzz and film lie on this side.
    thin : bool
        Whether the wall is thin.
    table : Array
        See `albedo.albedo_table`.
    """
    left = 1.0
    if layered and m[FUZZ_WEIGHT, k] > 0.0:
        left -= m[FUZZ_WEIGHT, k] * fuzz_albedo(cosine, m[FUZZ_ROUGHNESS, k])
    if m[COAT_WEIGHT, k] > 0.0:
        if layered:
            left *= 1.0 - coat_at(m, k, cosine, table)
        if thin:
            into = within_coat(m, k, cosine)
            left *= coat_tint(m, k, c, into, into, coat_mean(m, k, table))
        else:
            left *= coat_pass(m, k, c, cosine)
    return left


@kernel
def attenuate_at_boundaries(
    surfaces: SurfaceInteractions,
    curvature: Array,
    which: Integers,
    direction: Array,
    priority: Integers,
    table: Array,
    way: LightOnTheWay,
) -> None:
    """Weaken light on a straight way through boundaries, in place, to 0 where they are opaque or rough.

    What is straight has only passed what is cut out or of the same index, as a scattered ray could.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        m boundaries.
    curvature : Array
        `(m,)` of the boundaries, 1/m.
    which : Integers
        `(m,)` columns of the rays that they belong to.
    direction : Array
        `(3, m)` of these rays.
    priority : Integers
        `(i,)` of nested bodies, by instance.
    table : Array
        See `albedo.albedo_table`.
    way : LightOnTheWay
        Of n rays, changed in place.
    """
    near, media, bundle, straight, covered = way.near, way.media, way.bundle, way.straight, way.covered
    m = surfaces.material
    for k in range(which.shape[0]):
        i = which[k]
        facing = (
            direction[0, k] * surfaces.flat[0, k]
            + direction[1, k] * surfaces.flat[1, k]
            + direction[2, k] * surfaces.flat[2, k]
        )
        thin = is_thin(m, k)
        clear = m[TRANSMISSION_WEIGHT, k] * (1.0 - m[METALNESS, k])
        counts = True
        ior = m[SPECULAR_IOR, k]
        before, next_origin = (1.0, ior) if facing <= 0.0 else (ior, 1.0)
        far = surfaces.distance[k] - near[i]
        bundle[HEIGHT, i] += far * bundle[SLOPE, i]
        if media.shape[0] > 0:
            row = innermost(media, i)
            if row >= 0:
                for c in range(3):
                    left = transmittance(media[row + EXTINCTION + c, i], far)
                    straight[c, i] *= left
                    covered[c, i] *= left
            if clear > 0.0 and not thin:
                body = surfaces.instance[k] + 1
                counts, before, next_origin = boundary(
                    media, i, body, priority[surfaces.instance[k]], ior, facing <= 0.0
                )
                if facing > 0.0:
                    leave(media, i, body)
                else:
                    enter(media, i, body, priority[surfaces.instance[k]], m, k)
        layered = is_coated_side(m, k, facing <= 0.0)
        m[NEAR_INDEX, k] = before
        relative = 1.0 if thin or not counts else next_origin / before
        # Always counted from the thinner side: a straight ray stands for one that is bent through.
        index = relative if relative >= 1.0 else 1.0 / relative
        index = facet_index(m, k, True) if layered and relative >= 1.0 else weighted_ior(index, m[SPECULAR_WEIGHT, k])
        cosine = min(abs(facing), 1.0)
        f = fresnel_dielectric(cosine, index)
        if thin:
            f = 2.0 * f / (1.0 + f)
        diffuse_fraction = (1.0 - f if counts else 1.0) * clear
        rough = roughened(m, k) if layered else m[SPECULAR_ROUGHNESS, k]
        if counts and not passes_straight(rough, 1.5 if thin else relative):
            diffuse_fraction = 0.0
        if abs(relative - 1.0) >= MATCHED and diffuse_fraction > 0.0:
            sign = 1.0 if facing <= 0.0 else -1.0
            bundle[SLOPE, i] = (
                bundle[SLOPE, i] / relative - sign * (1.0 - 1.0 / relative) * curvature[k] * bundle[HEIGHT, i]
            )
            bundle[BEND, i] = np.float32(1)
        opacity = m[OPACITY, k]
        unbent = not thin and abs(relative - 1.0) < MATCHED
        for c in range(3):
            passes = opacity * diffuse_fraction
            if counts and diffuse_fraction > 0.0:
                passes *= through_tint(m, k, c) * layers_pass(m, k, c, cosine, layered, thin, table)
            if unbent:  # a scattered path goes the same way
                straight[c, i] *= (np.float32(1) - opacity) + passes
                covered[c, i] *= (np.float32(1) - opacity) + passes
                continue
            covered[c, i] = covered[c, i] * ((np.float32(1) - opacity) + passes) + straight[c, i] * passes
            straight[c, i] *= np.float32(1) - opacity


@kernel
def attenuate_last_segment(which: Integers, far: Array, refracted_fraction: Array, way: LightOnTheWay) -> None:
    """Weaken light on its last stretch by the body that it is in, and by how boundaries have spread the bundle.

    Parameters
    ----------
    which : Integers
        `(m,)` columns of the rays that reach their light.
    far : Array
        `(n,)` metres to the lights.
    refracted_fraction : Array
        `(n,)` share that is brought through boundaries which bend it.
    way : LightOnTheWay
        Of n rays, changed in place.
    """
    media, bundle, straight, covered = way.media, way.bundle, way.straight, way.covered
    begun = way.near
    for k in range(which.shape[0]):
        i = which[k]
        row = innermost(media, i)
        if row >= 0:
            for c in range(3):
                left = transmittance(media[row + EXTINCTION + c, i], max(far[i] - begun[which[k]], np.float32(0)))
                straight[c, i] *= left
                covered[c, i] *= left
        if bundle[BEND, i] > 0.0:
            cone_spread = bundle[SLOPE, i]
            if far[i] < 1e29:
                cone_spread = (bundle[HEIGHT, i] + (far[i] - begun[which[k]]) * bundle[SLOPE, i]) / far[i]
            weaker = refracted_fraction[i] / max(cone_spread * cone_spread, np.float32(1))
            for c in range(3):
                covered[c, i] *= weaker


@kernel
def accumulate_shadow_rays(
    found: Array, shadow: ShadowRays, slot: Integers, groups: Int, clamp: Float, buffers: Array
) -> None:
    """Add light that arrived to the pictures it belongs to.

    Parameters
    ----------
    found : Array
        `(3, n)` light that arrived.
    shadow : ShadowRays
        Shadow rays and what they may bring.
    slot : Integers
        `(n,)` columns of `buffers`.
    groups : int
        Number of light groups.
    clamp : float
        Most light that is added after the first bounce; 0 for no limit.
    buffers : Array
        `(groups + AOVs, 3, slots)` light added up, changed in place.
    """
    for i in range(slot.shape[0]):
        accumulate(
            buffers, groups, shadow.group[i], slot[i], found[0, i], found[1, i], found[2, i], shadow.flags[i], 1,
            shadow.indirect[i] > 0, shadow.diffuse_fraction, i, clamp,
        )  # fmt: skip
