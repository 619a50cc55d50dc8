"""Light of its own at a surface that a path has met."""

from texallon.core.kernel import Array, Float, Int, inlined
from texallon.core.render.light.emitters import Emitters
from texallon.core.render.transport.emitter_hits import power_weight
from texallon.core.render.transport.light_aovs import accumulate, total_bounces
from texallon.core.render.transport.paths import LAST_TRANSMITTED, NEE_DONE, Paths
from texallon.core.render.transport.surface_interactions import Settings, SurfaceInteractions
from texallon.core.shade.base import NON_SPECULAR
from texallon.core.shade.coat import coat_emission_transmittance, is_coated_side
from texallon.core.shade.rows import COAT_WEIGHT, EMISSION_COLOR, EMISSION_LUMINANCE


@inlined
def mesh_light_pdf(per_area: Float, away: Float, facing: Float, chance: Float) -> Float:
    """Chance per steradian with which a shining face would have been asked from where a ray came.

    Parameters
    ----------
    per_area : float
        Chance per square metre.
    away : float
        Metres.
    facing : float
        Cosine to the face.
    chance : float
        Of asking shining surfaces.
    """
    return chance * per_area * away * away / max(facing, 1e-6)


@inlined
def add_surface_emission(
    surfaces: SurfaceInteractions,
    paths: Paths,
    i: Int,
    facing: Float,
    emitters: Emitters,
    settings: Settings,
    buffers: Array,
) -> None:
    """Add a surface's own light to the picture, weighted against asking for it.

    Parameters
    ----------
    surfaces : SurfaceInteractions
        Surface points that the paths met.
    paths : Paths
        Paths that met them.
    i : int
        Column of the path.
    facing : float
        Cosine between the path's way and the face's normal; negative on the outer side.
    emitters : Emitters
        All light sources.
    settings : Settings
        What holds for the whole sample.
    buffers : Array
        `(groups + AOVs, 3, slots)` light added up, changed in place.
    """
    m, normal, direction = surfaces.material, surfaces.normal, paths.direction
    emissive_face = m[EMISSION_LUMINANCE, i]
    if emissive_face <= 0.0:
        return
    flags, throughput = paths.flags[i], paths.throughput
    instance = surfaces.instance[i]
    weight = 1.0
    at = emitters.first[instance]
    if at >= 0:
        other = mesh_light_pdf(
            emitters.per_area[at + surfaces.face[i]],
            surfaces.distance[i] + paths.distance_since_vertex[i],
            abs(facing),
            emitters.chance[emitters.chance.shape[0] - 1],
        )
        if other > 0.0 and (flags & LAST_TRANSMITTED) != 0 and (flags & NEE_DONE) != 0:
            weight = 0.0
        elif (flags & 3) == NON_SPECULAR and (flags & LAST_TRANSMITTED) == 0:
            weight = power_weight(paths.pdf[i], other)
    emissive_face *= weight
    gr, gg, gb = (
        emissive_face * m[EMISSION_COLOR, i],
        emissive_face * m[EMISSION_COLOR + 1, i],
        emissive_face * m[EMISSION_COLOR + 2, i],
    )
    if m[COAT_WEIGHT, i] > 0.0 and is_coated_side(m, i, facing <= 0.0):
        cosine = normal[0, i] * direction[0, i] + normal[1, i] * direction[1, i] + normal[2, i] * direction[2, i]
        gr *= coat_emission_transmittance(m, i, 0, abs(cosine))
        gg *= coat_emission_transmittance(m, i, 1, abs(cosine))
        gb *= coat_emission_transmittance(m, i, 2, abs(cosine))
    accumulate(
        buffers, settings.groups, emitters.group_of[instance], paths.slot[i],
        throughput[0, i] * gr, throughput[1, i] * gg, throughput[2, i] * gb,
        flags, 1, total_bounces(paths.bounce_counts[i]) > 1, paths.diffuse_fraction, i, settings.clamp,
    )  # fmt: skip
