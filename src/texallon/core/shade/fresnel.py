"""Fresnel reflection: how much light a smooth boundary gives back, by angle."""

from math import sqrt

from texallon.core.kernel import Float, inlined


@inlined
def fresnel_dielectric(cosine: Float, eta: Float) -> Float:
    """Unpolarised reflectance of a boundary (the Fresnel equations).

    `cosine` of the angle of incidence, 0…1; `eta` the index of the far side over that of the near side.
    `fresnel_dielectric(1, 1.5)` is 0.04; beyond the critical angle it is 1.

    Parameters
    ----------
    cosine : float
        To the normal, 0…1.
    eta : float
        Index of the far side over that of the near side.
    """
    sine2 = (1.0 - cosine * cosine) / (eta * eta)
    if sine2 >= 1.0:
        return 1.0
    refracted = sqrt(1.0 - sine2)
    parallel = (eta * cosine - refracted) / (eta * cosine + refracted)
    across = (cosine - eta * refracted) / (cosine + eta * refracted)
    return 0.5 * (parallel * parallel + across * across)


@inlined
def fresnel_metal(cosine: Float, f0: Float, tint: Float) -> Float:
    """Reflectance of a metal by colour at normal incidence and tint towards the edge.

    Schlick's curve with the F82 correction (N. Hoffman, "Fresnel Equations Considered Harmful", 2019; the form of
    the OpenPBR Surface specification 1.1): at about 82° it is `tint` times Schlick's value.

    Parameters
    ----------
    cosine : float
        To the normal, 0…1.
    f0 : float
        Reflectance at normal incidence.
    tint : float
        Reflectance at 82° over what it would be.
    """
    c = 1.0 - cosine
    schlick = f0 + (1.0 - f0) * c * c * c * c * c
    bar = 1.0 / 7.0
    away = (1.0 - bar) ** 5
    at_bar = f0 + (1.0 - f0) * away
    correction = at_bar * (1.0 - tint) / (bar * away * (1.0 - bar))
    return min(max(schlick - cosine * c * c * c * c * c * c * correction, 0.0), 1.0)


@inlined
def weighted_ior(ior: Float, weight: Float) -> Float:
    """The index whose normal reflectance is `weight` times that of `ior` (OpenPBR Surface 1.1, specular weight).

    A weight of 0 gives 1: a surface that does not reflect.

    Parameters
    ----------
    ior : float
        Index of refraction, at least 1.
    weight : float
        Specular weight, 0 and above.
    """
    root = (ior - 1.0) / (ior + 1.0)
    e = sqrt(min(max(weight, 0.0), 1.0)) * root
    return (1.0 + e) / (1.0 - e)
