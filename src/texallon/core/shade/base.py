"""What the base's facets and ground are like, whatever lies on top of them. See `surface` for the whole.

* Dielectric facets: the true Fresnel reflectance of the index that `specular_weight` leaves, or a thin film's.
* Metal facets: F82, times `specular_weight` (OpenPBR Surface 1.1).
* Ground: what diffuse light and subsurface give back.
"""

from texallon.core.kernel import Array, Float, Int, inlined, kernel
from texallon.core.shade.diffuse import eon
from texallon.core.shade.fresnel import fresnel_dielectric, fresnel_metal
from texallon.core.shade.rows import (
    BASE_COLOR,
    BASE_WEIGHT,
    DIFFUSE_ROUGHNESS,
    METALNESS,
    SPECULAR_COLOR,
    SPECULAR_WEIGHT,
    SUBSURFACE_COLOR,
    SUBSURFACE_FORWARD,
    SUBSURFACE_WEIGHT,
    THIN_FILM_IOR,
    THIN_FILM_THICKNESS,
    THIN_WALLED,
    TRANSMISSION_WEIGHT,
)
from texallon.core.shade.thin_film import thin_film_on_dielectric, thin_film_on_metal

SMOOTH = 0.03
"""Below this roughness facets act as a mirror: one direction, no density."""

MATCHED = 1e-3
"""Boundaries whose index differs by less from 1 bend no light and reflect none."""

ABSORBED, NON_SPECULAR, SPECULAR, TRANSMISSION, SUBSURFACE = 0, 1, 2, 3, 4
"""Kinds of a sampled direction: none, by density (to either side), by mirror reflection, straight or bent through the boundary without
a density, into the ground for a random walk."""

Sampled = tuple[Int, Float, Float, Float, Float, Float, Float, Float, Float]
"""Kind, direction, weight red/green/blue, density, width of the lobe (α)."""


@inlined
def luminance(r: Float, g: Float, b: Float) -> Float:
    """Relative luminance of linear Rec.709 (ITU-R BT.709).

    Parameters
    ----------
    r : float
        Red.
    g : float
        Green.
    b : float
        Blue.
    """
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


@inlined
def is_thin(m: Array, k: Int) -> bool:
    """Whether the wall is thin, so that it has no inside.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    """
    thin: bool = m[THIN_WALLED, k] >= 0.5
    return thin


@inlined
def passes_straight(roughness: Float, eta: Float) -> bool:
    """Whether a clear boundary sends light on in one direction: smooth, or of the same index on both sides.

    Parameters
    ----------
    roughness : float
        0…1.
    eta : float
        Index of the far side over that of the near side.
    """
    straight: bool = roughness < SMOOTH or abs(eta - 1.0) < MATCHED
    return straight


@kernel
def with_thin_film(
    m: Array, k: Int, film: Float, cosine: Float, ior: Float, f: Float, mr: Float, mg: Float, mb: Float
) -> tuple[Float, Float, Float, Float, Float, Float]:
    """Reflectances with a thin film of weight `film` on top, from those without it. Apart, as few materials need it.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    film : float
        Weight of a thin film, or its index.
    cosine : float
        To the normal, 0…1.
    ior : float
        Index of refraction, at least 1.
    f : float
        Dielectric's reflectance.
    mr : float
        Metal's reflectance, red.
    mg : float
        Metal's reflectance, green.
    mb : float
        Metal's reflectance, blue.
    """
    r, g, b = f, f, f
    weight, metal = m[BASE_WEIGHT, k], m[METALNESS, k]
    index, thick = max(m[THIN_FILM_IOR, k], 1.0), m[THIN_FILM_THICKNESS, k]
    if metal < 1.0:
        fr, fg, fb = thin_film_on_dielectric(cosine, ior, index, thick)
        r, g, b = r + film * (fr - r), g + film * (fg - g), b + film * (fb - b)
    if metal > 0.0:
        mr += film * (thin_film_on_metal(cosine, weight * m[BASE_COLOR, k], m[SPECULAR_COLOR, k], 0, index, thick) - mr)
        mg += film * (
            thin_film_on_metal(cosine, weight * m[BASE_COLOR + 1, k], m[SPECULAR_COLOR + 1, k], 1, index, thick) - mg
        )
        mb += film * (
            thin_film_on_metal(cosine, weight * m[BASE_COLOR + 2, k], m[SPECULAR_COLOR + 2, k], 2, index, thick) - mb
        )
    return r, g, b, mr, mg, mb


@inlined
def facets_reflect(
    m: Array, k: Int, cosine: Float, ior: Float, both_faces: bool, film: Float
) -> tuple[Float, Float, Float, Float, Float, Float]:
    """Reflectance red, green, blue of dielectric facets of index `ior` ≥ 1, and of metal ones.

    `both_faces` of a clear thin wall reflect: 2R / (1 + R). `film` is the weight of a thin film on top.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    cosine : float
        To the normal, 0…1.
    ior : float
        Index of refraction, at least 1.
    both_faces : bool
        Whether both faces of a thin wall reflect.
    film : float
        Weight of a thin film, or its index.
    """
    f = fresnel_dielectric(cosine, ior)
    if both_faces:
        f = 2.0 * f / (1.0 + f)
    r, g, b = f, f, f
    mr = mg = mb = 0.0
    if m[METALNESS, k] > 0.0:
        weight = m[BASE_WEIGHT, k]
        mr = fresnel_metal(cosine, weight * m[BASE_COLOR, k], m[SPECULAR_COLOR, k])
        mg = fresnel_metal(cosine, weight * m[BASE_COLOR + 1, k], m[SPECULAR_COLOR + 1, k])
        mb = fresnel_metal(cosine, weight * m[BASE_COLOR + 2, k], m[SPECULAR_COLOR + 2, k])
    if film > 0.0:
        r, g, b, mr, mg, mb = with_thin_film(m, k, film, cosine, ior, f, mr, mg, mb)
    return r, g, b, mr, mg, mb


@inlined
def metal_average(m: Array, k: Int, c: Int) -> Float:
    """Average of F82 over the hemisphere: Schlick's curve less the dip, ∫ 2μ F dμ; without specular weight.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    """
    colour, tint = m[BASE_WEIGHT, k] * m[BASE_COLOR + c, k], m[SPECULAR_COLOR + c, k]
    at_bar = colour + (1.0 - colour) * (6.0 / 7.0) ** 5
    dip = at_bar * (1.0 - tint) / ((1.0 / 7.0) * (6.0 / 7.0) ** 6)
    return max(colour + (1.0 - colour) / 21.0 - dip / 126.0, 0.0)


@inlined
def subsurface_reflected(m: Array, k: Int, walks: bool) -> Float:
    """How much of the subsurface colour the ground gives back at once to the side it came from: none of what `walks` below it.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    walks : bool
        Whether subsurface light is followed by a random walk.
    """
    soft = m[SUBSURFACE_WEIGHT, k]
    if soft <= 0.0 or walks:
        return 0.0
    return soft * (0.5 * (1.0 - m[SUBSURFACE_FORWARD, k]) if is_thin(m, k) else 1.0)


@inlined
def diffuse_albedo(m: Array, k: Int, c: Int, walks: bool) -> Float:
    """Share of light that the ground gives back at once to the side it came from; what `walks` below it is not in it.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    walks : bool
        Whether subsurface light is followed by a random walk.
    """
    hard = (1.0 - m[SUBSURFACE_WEIGHT, k]) * m[BASE_WEIGHT, k] * m[BASE_COLOR + c, k]
    return hard + subsurface_reflected(m, k, walks) * m[SUBSURFACE_COLOR + c, k]


@inlined
def diffuse_lobe(m: Array, k: Int, c: Int, walks: bool, iz: Float, oz: Float, between: Float) -> Float:
    """The same as a reflection per steradian: hard and soft ground are a mix, each rough by itself.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    walks : bool
        Whether subsurface light is followed by a random walk.
    iz : float
        Cosine towards the light; below 0 on the far side.
    oz : float
        Cosine towards the viewer, above 0.
    between : float
        Dot product of the two directions.
    """
    rough = m[DIFFUSE_ROUGHNESS, k]
    hard = (1.0 - m[SUBSURFACE_WEIGHT, k]) * m[BASE_WEIGHT, k]
    value = hard * eon(m[BASE_COLOR + c, k], rough, iz, oz, between) if hard > 0.0 else 0.0
    soft = subsurface_reflected(m, k, walks)
    if soft > 0.0:
        value += soft * eon(m[SUBSURFACE_COLOR + c, k], rough, iz, oz, between)
    return value


@inlined
def substrate_albedo(m: Array, k: Int, c: Int) -> Float:
    """Share of light that the opaque ground gives back in all, by whatever way.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    """
    hard = m[BASE_WEIGHT, k] * m[BASE_COLOR + c, k]
    return hard + m[SUBSURFACE_WEIGHT, k] * (m[SUBSURFACE_COLOR + c, k] - hard)


@inlined
def base_albedo(m: Array, k: Int, c: Int) -> Float:
    """Share of light that a coat finds given back below it: what is clear keeps all of it.

    Parameters
    ----------
    m : Array
        `(MATERIAL, n)` material rows.
    k : int
        Column of the material.
    c : int
        Colour channel, 0…2.
    """
    metal, clear = m[METALNESS, k], m[TRANSMISSION_WEIGHT, k]
    shine = m[BASE_WEIGHT, k] * m[BASE_COLOR + c, k] * min(m[SPECULAR_WEIGHT, k], 1.0)
    body = substrate_albedo(m, k, c)
    return metal * shine + (1.0 - metal) * (body + clear * (1.0 - body))
