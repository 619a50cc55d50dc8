"""Next-event estimation at a surface point: one shadow ray to one light.

Clear boundaries (water, glass) that are smooth bend light in one direction, so a straight shadow ray can't connect through them. Shadow
rays pass them all the same, in place of what a path finds there by bending (see `shadow_tracing` for how much of it). Rough boundaries
scatter by a density and ask lights themselves: they stop shadow rays.
"""

from texallon.core.kernel import Int, inlined
from texallon.core.random_numbers import uniform4
from texallon.core.render.light.emitters import Emitters, sample_light
from texallon.core.render.transport.emitter_hits import power_weight
from texallon.core.render.transport.interface import Interface
from texallon.core.render.transport.light_aovs import total_bounces
from texallon.core.render.transport.paths import FIRST_REFLECTED, FIRST_TRANSMITTED, Paths
from texallon.core.render.transport.shading_frame import ShadingFrame
from texallon.core.render.transport.shadow_rays import ShadowRays, put_light
from texallon.core.render.transport.surface_interactions import ENTERS, LEAVES, Settings, SurfaceInteractions
from texallon.core.shade.stack import Stack
from texallon.core.shade.surface import evaluate


@inlined
def sample_direct_light(
    surfaces: SurfaceInteractions,
    paths: Paths,
    i: Int,
    frame: ShadingFrame,
    interface: Interface,
    stack: Stack,
    emitters: Emitters,
    settings: Settings,
    bounce: Int,
    shadow: ShadowRays,
    write_aovs: bool,
) -> None:
    """Propose a shadow ray from a surface point to one light, with what the point would send on of it.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        Surface points that the paths met.
    paths : Paths
        Paths that met them.
    i : int
        Column of the path.
    frame : ShadingFrame
        Of the point.
    interface : Interface
        How the path meets the surface.
    stack : Stack
        Layers at the point.
    emitters : Emitters
        All light sources.
    settings : Settings
        What holds for the whole sample.
    bounce : int
        Number of the round.
    shadow : ShadowRays
        One ray of it is filled, where the point can send any light on; it begins on the near side.
    write_aovs : bool
        Whether the share that is diffuse is wanted.
    """
    m, throughput, offset = surfaces.material, paths.throughput, surfaces.offset[i]
    px, py, pz = surfaces.position[0, i], surfaces.position[1, i], surfaces.position[2, i]
    pick, u, v, _ = uniform4(paths.pixel[i], settings.sample, bounce * 2 + 1, settings.seed)
    light_sample = sample_light(emitters, px, py, pz, pick, u, v, offset)
    wx, wy, wz = light_sample.wx, light_sample.wy, light_sample.wz
    above = wx * frame.fx + wy * frame.fy + wz * frame.fz
    if not (light_sample.pdf > 0.0 and (above > 0.0 or interface.thin or (interface.clear and not stack.straight))):
        return
    ix = wx * frame.ax + wy * frame.ay + wz * frame.az
    iy = wx * frame.bx + wy * frame.by + wz * frame.bz
    iz = wx * frame.nx + wy * frame.ny + wz * frame.nz
    r = g = b = q = dr = dg = db = 0.0
    if (above > 0.0) == (iz > 0.0):
        r, g, b, q, dr, dg, db = evaluate(m, i, stack, frame.ox, frame.oy, frame.oz, ix, iy, iz, settings.table)
    if r + g + b <= 0.0:
        return
    step = offset if above > 0.0 else -offset
    shadow.origin[0, i], shadow.origin[1, i], shadow.origin[2, i] = (
        px + step * frame.fx,
        py + step * frame.fy,
        pz + step * frame.fz,
    )
    shadow.far[i] = light_sample.far
    put_light(shadow, i, light_sample, emitters.peak)
    if iz < 0.0 and not interface.thin:
        shadow.crossing[i] = ENTERS if interface.outside else LEAVES
        if interface.fresh:
            r, g, b = r * interface.red, g * interface.green, b * interface.blue
    shadow.light[0, i] = throughput[0, i] * r * light_sample.r / light_sample.pdf
    shadow.light[1, i] = throughput[1, i] * g * light_sample.g / light_sample.pdf
    shadow.light[2, i] = throughput[2, i] * b * light_sample.b / light_sample.pdf
    shadow.weight[i] = 1.0 if light_sample.bare else power_weight(light_sample.pdf, q)
    first = (paths.flags[i] & (FIRST_REFLECTED | FIRST_TRANSMITTED)) == 0
    shadow.flags[i] = paths.flags[i] | (
        0 if not first else (FIRST_TRANSMITTED if iz < 0.0 and interface.clear else FIRST_REFLECTED)
    )
    shadow.indirect[i] = 1 if total_bounces(paths.bounce_counts[i]) > 0 else 0
    if write_aovs and first:
        shadow.diffuse_fraction[0, i] = min(dr / r, 1.0) if r > 0.0 else 1.0
        shadow.diffuse_fraction[1, i] = min(dg / g, 1.0) if g > 0.0 else 1.0
        shadow.diffuse_fraction[2, i] = min(db / b, 1.0) if b > 0.0 else 1.0
    elif write_aovs:
        for c in range(3):
            shadow.diffuse_fraction[c, i] = paths.diffuse_fraction[c, i]
