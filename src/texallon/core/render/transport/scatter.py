"""One bounce of many paths at once: the light of the surfaces they met, and where each path goes next.

The estimator is next-event estimation joined with scattered rays by multiple importance sampling with the power
heuristic (E. Veach, "Robust Monte Carlo Methods for Light Transport Simulation", 1997, chapter 9). `NEE_DONE` marks paths whose light has
been asked for.

What happens at one point is described in files of their own, in this order: `interface`, `surface_emission`, `shading_frame`, `point_stack`,
`next_event`, `next_vertex`. They are merged into one loop when compiled.
"""

from texallon.core.kernel import Array, Int, kernel
from texallon.core.render.light.emitters import Emitters
from texallon.core.render.transport.interface import continue_straight, interface_at, passes_cut_out
from texallon.core.render.transport.light_aovs import total_bounces
from texallon.core.render.transport.next_event import sample_direct_light
from texallon.core.render.transport.next_vertex import continue_path
from texallon.core.render.transport.paths import EMITTERS_ONLY, IN_SUBSURFACE, Paths
from texallon.core.render.transport.point_stack import set_subsurface_exit, stack_at
from texallon.core.render.transport.shading_frame import shading_frame
from texallon.core.render.transport.shadow_rays import ShadowRays
from texallon.core.render.transport.surface_emission import add_surface_emission
from texallon.core.render.transport.surface_interactions import (
    BOUNCE_ANY,
    ENTERS,
    LEAVES,
    Onward,
    Settings,
    SurfaceInteractions,
    terminate,
)
from texallon.core.shade.rows import BENDING, NEAR_INDEX, OPACITY, SPECULAR_IOR


@kernel
def scatter(
    surfaces: SurfaceInteractions,
    paths: Paths,
    bounce: Int,
    emitters: Emitters,
    settings: Settings,
    buffers: Array,
    shadow: ShadowRays,
    onward: Onward,
) -> None:
    """At each surface point: add its own light, propose a shadow ray, and choose where the path goes on.

    A path that ends gets throughput 0.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        Surface points that the paths met.
    paths : Paths
        Updated in place but for origin and direction.
    bounce : int
        Number of the round.
    emitters : Emitters
        All light sources.
    settings : Settings
        What holds for the whole sample.
    buffers : Array
        `(groups + AOVs, 3, slots)` light added up, changed in place.
    shadow : ShadowRays
        Filled with what the points ask of light; the rays still begin on the near side.
    onward : Onward
        Filled.
    """
    m, flat, instance = surfaces.material, surfaces.flat, surfaces.instance
    flags, direction, since_vertex = paths.flags, paths.direction, paths.distance_since_vertex
    write_aovs = buffers.shape[0] > settings.groups
    for i in range(paths.slot.shape[0]):
        onward.passed[i] = onward.crossing[i] = 0
        facing = direction[0, i] * flat[0, i] + direction[1, i] * flat[1, i] + direction[2, i] * flat[2, i]
        outside = facing <= 0.0
        for c in range(3):
            onward.direction[c, i] = direction[c, i]
        coming_out = (flags[i] & IN_SUBSURFACE) != 0
        if coming_out:
            set_subsurface_exit(m, i)
        if passes_cut_out(m[OPACITY, i], paths.pixel[i], settings.sample, bounce, settings.seed):
            continue_straight(surfaces, paths, i, outside, settings, onward)
            continue
        interface = interface_at(m, paths, i, instance[i], outside, settings)
        m[SPECULAR_IOR, i] = interface.ior
        if not interface.counts:
            onward.crossing[i] = ENTERS if outside else LEAVES
            continue_straight(surfaces, paths, i, outside, settings, onward)
            continue
        m[NEAR_INDEX, i], m[BENDING, i] = interface.near, interface.bending
        add_surface_emission(surfaces, paths, i, facing, emitters, settings, buffers)
        since = surfaces.distance[i] + since_vertex[i]
        since_vertex[i] = 0.0
        if total_bounces(paths.bounce_counts[i]) >= settings.limits[BOUNCE_ANY] or (flags[i] & EMITTERS_ONLY) != 0:
            terminate(paths.throughput, i)
            continue
        frame = shading_frame(surfaces, direction, i, outside, coming_out)
        stack = stack_at(m, paths, i, frame, interface, bounce, settings)
        sample_direct_light(surfaces, paths, i, frame, interface, stack, emitters, settings, bounce, shadow, write_aovs)
        continue_path(surfaces, paths, i, frame, interface, stack, since, bounce, settings, onward, write_aovs)
