"""The channels of a look: what they are called, mean, and are where no layer says anything.

Names, ranges and defaults follow the OpenPBR Surface specification (Academy Software Foundation, version 1.1).
"""

from dataclasses import dataclass
from typing import Literal

ChannelGroup = Literal["colour", "finish", "glow", "through", "form", "density", "scattering", "points"]

LookDomain = Literal["surface", "volume"]
"""What a look is the look of: the surface of bodies, or what fills them."""


@dataclass(frozen=True)
class Channel:
    """One material parameter: `width` 1 is a number, 3 a scene-linear colour; values are clamped to `low`…`high`."""

    name: str
    label: str
    channel_group: ChannelGroup
    width: int
    default: tuple[float, ...]
    low: float
    high: float
    unit: str
    purpose: str
    shaded: bool = True
    """Whether it is asked for where light meets a surface, rather than where the surface is made, or within a volume."""
    domain: LookDomain = "surface"

    def hold(self, value: float) -> float:
        """A value as a surface takes it: within the range; what is no number is the lowest value that is not negative.

        Parameters
        ----------
        value : float
            As the layers ask for it.
        """
        return min(max(value, self.low), self.high) if value == value else max(self.low, 0.0)


def _number(
    name: str,
    label: str,
    channel_group: ChannelGroup,
    default: float,
    low: float,
    high: float,
    unit: str,
    purpose: str,
    shaded: bool = True,
) -> Channel:
    return Channel(name, label, channel_group, 1, (default,), low, high, unit, purpose, shaded)


def _colour(name: str, label: str, channel_group: ChannelGroup, default: float, purpose: str) -> Channel:
    return Channel(name, label, channel_group, 3, (default,) * 3, 0, 1, "", purpose)


SURFACE_CHANNELS: tuple[Channel, ...] = (
    _number("base_weight", "amount", "colour", 1.0, 0, 1, "", "Scales the base colour."),
    _colour("base_color", "colour", "colour", 0.8, "Share of light the base gives back."),
    _number("base_diffuse_roughness", "chalkiness", "finish", 0.0, 0, 1, "", "Roughness of the diffuse base."),
    _number("base_metalness", "metalness", "finish", 0.0, 0, 1, "", "From dielectric (0) to metal (1)."),
    _number("specular_weight", "reflectivity", "finish", 1.0, 0, 1, "", "Scales the reflection at the surface."),
    _colour("specular_color", "reflection tint", "finish", 1.0, "Colours the reflection."),
    _number("specular_roughness", "roughness", "finish", 0.3, 0, 1, "", "From mirror (0) to dull (1)."),
    _number(
        "specular_roughness_anisotropy",
        "brushing",
        "finish",
        0.0,
        0,
        1,
        "",
        "How much longer highlights are across the grain than along it.",
    ),
    _number("specular_ior", "index of refraction", "finish", 1.5, 1, 3, "", "Water 1.33, glass 1.5."),
    _number("coat_weight", "coat", "finish", 0.0, 0, 1, "", "A clear layer on top: varnish, water, glaze."),
    _colour("coat_color", "coat tint", "finish", 1.0, "What is left after in and out, head on."),
    _number("coat_roughness", "coat roughness", "finish", 0.0, 0, 1, "", "From mirror (0) to dull (1)."),
    _number(
        "coat_roughness_anisotropy",
        "coat brushing",
        "finish",
        0.0,
        0,
        1,
        "",
        "How much longer the coat's highlights are across its grain than along it.",
    ),
    _number("coat_ior", "coat index", "finish", 1.6, 1, 3, "", "Water 1.33, varnish 1.5."),
    _number(
        "coat_darkening",
        "coat darkening",
        "finish",
        1.0,
        0,
        1,
        "",
        "How much light that the coat throws back darkens what lies under it.",
    ),
    _number("fuzz_weight", "fuzz", "finish", 0.0, 0, 1, "", "Fine fibres or dust on top of everything."),
    _colour("fuzz_color", "fuzz colour", "finish", 1.0, "Colour of the fibres."),
    _number(
        "fuzz_roughness", "fuzz roughness", "finish", 0.5, 0, 1, "", "From a rim of light (0) to dust all over (1)."
    ),
    _number(
        "thin_film_weight",
        "thin film",
        "finish",
        0.0,
        0,
        1,
        "",
        "A film as thin as light's wavelength: oil, soap, temper colours.",
    ),
    _number("thin_film_thickness", "film thickness", "finish", 0.5, 0, 5, "µm", "Thickness of the film."),
    _number("thin_film_ior", "film index", "finish", 1.4, 1, 3, "", "Oil 1.47, soap 1.33, oxide 2.4."),
    _number(
        "wetness",
        "wetness",
        "finish",
        0.0,
        0,
        1,
        "",
        "Sets coat, darkening and reflectivity together, as a film of water does (not of OpenPBR).",
    ),
    _number("emission_luminance", "emission", "glow", 0.0, 0, 1000000000.0, "nit", "Luminance of its own light."),
    _number(
        "emission_exposure",
        "emission stops",
        "glow",
        0.0,
        -20,
        20,
        "stop",
        "Doubles the emission for each stop (not of OpenPBR).",
    ),
    _colour("emission_color", "emission colour", "glow", 1.0, "Colour of its own light."),
    _number(
        "self_lit",
        "self-lit",
        "glow",
        0.0,
        0,
        1,
        "",
        "Shows the base colour as it is: no light, shadow or highlight (not of OpenPBR).",
    ),
    _number("transmission_weight", "transmission", "through", 0.0, 0, 1, "", "From opaque (0) to clear (1)."),
    _colour("transmission_color", "transmission tint", "through", 1.0, "Colours what passes."),
    _number(
        "transmission_depth",
        "tint depth",
        "through",
        0.0,
        0,
        1e6,
        "m",
        "How far light goes until the tint is all that is left; 0 tints at the surface.",
    ),
    _colour(
        "transmission_scatter",
        "milkiness",
        "through",
        0.0,
        "How much of the light the inside scatters, on the scale of the tint depth.",
    ),
    _number(
        "transmission_scatter_anisotropy",
        "milkiness, forward",
        "through",
        0.0,
        -1,
        1,
        "",
        "Scatters back (−1), evenly (0) or forward (1).",
    ),
    _number(
        "transmission_dispersion_scale",
        "dispersion",
        "through",
        0.0,
        0,
        1,
        "",
        "How much the index depends on the wavelength; 1 as the Abbe number says.",
    ),
    _number(
        "transmission_dispersion_abbe_number",
        "Abbe number",
        "through",
        20.0,
        1,
        200,
        "",
        "Crown glass 59, flint 26, diamond 55; lower splits colours more.",
    ),
    _number(
        "subsurface_weight",
        "subsurface",
        "through",
        0.0,
        0,
        1,
        "",
        "From a hard surface (0) to one that light wanders into: wax, skin, petals.",
    ),
    _colour("subsurface_color", "subsurface colour", "through", 0.8, "Share of light that comes back out."),
    _number("subsurface_radius", "subsurface radius", "through", 1.0, 0, 1e6, "m", "Mean free path of light inside."),
    Channel(
        "subsurface_radius_scale",
        "subsurface radius by colour",
        "through",
        3,
        (1.0, 0.5, 0.25),
        0,
        1,
        "",
        "The radius of red, green and blue.",
    ),
    _number(
        "subsurface_scatter_anisotropy",
        "subsurface, forward",
        "through",
        0.0,
        -1,
        1,
        "",
        "Scatters back (−1), evenly (0) or forward (1); through a thin wall, the share that passes.",
    ),
    _number("geometry_opacity", "opacity", "through", 1.0, 0, 1, "", "From cut out (0) to there (1)."),
    _number(
        "geometry_thin_walled",
        "thin-walled",
        "through",
        0.0,
        0,
        1,
        "",
        "From 0.5 on a sheet with no inside: petals, paper, bubbles.",
    ),
    _number(
        "displacement",
        "displacement",
        "form",
        0.0,
        -1000.0,
        1000.0,
        "m",
        "Height that moves the surface along its normal, where an object is displaced; elsewhere it only tilts the normal (not of OpenPBR).",
        shaded=False,
    ),
    Channel(
        "displacement_vector",
        "displacement freely",
        "form",
        3,
        (0.0, 0.0, 0.0),
        -1000.0,
        1000.0,
        "m",
        "Way in the object's space that moves the surface, where an object is displaced (not of OpenPBR).",
        shaded=False,
    ),
    _number("bump", "bump", "form", 0.0, -1000.0, 1000.0, "m", "Height that only tilts the normal (not of OpenPBR)."),
    Channel(
        "geometry_normal",
        "normal",
        "form",
        3,
        (0.0, 0.0, 1.0),
        -1,
        1,
        "",
        "The normal in the map's frame, as a step “normal map” gives it.",
    ),
    Channel(
        "geometry_coat_normal",
        "coat normal",
        "form",
        3,
        (0.0, 0.0, 1.0),
        -1,
        1,
        "",
        "The coat's own normal in the map's frame; without it a coat follows the geometry and its bump.",
    ),
    Channel(
        "geometry_tangent",
        "grain direction",
        "form",
        3,
        (1.0, 0.0, 0.0),
        -1,
        1,
        "",
        "Along which the surface is brushed, in the map's frame: (1, 0, 0) is along u.",
    ),
    Channel(
        "geometry_coat_tangent",
        "coat grain direction",
        "form",
        3,
        (1.0, 0.0, 0.0),
        -1,
        1,
        "",
        "Along which the coat is brushed, in the map's frame.",
    ),
)


def _within(
    name: str,
    label: str,
    channel_group: ChannelGroup,
    default: tuple[float, ...],
    low: float,
    high: float,
    unit: str,
    purpose: str,
) -> Channel:
    return Channel(name, label, channel_group, len(default), default, low, high, unit, purpose, False, "volume")


WHITE, BLACK = (1.0, 1.0, 1.0), (0.0, 0.0, 0.0)

VOLUME_CHANNELS: tuple[Channel, ...] = (
    _within("density", "density", "density", (1.0,), 0, 1e6, "1/m", "How much there is: scales scattering and absorption."),
    _within(
        "scattering_color", "scattering colour", "scattering", (0.8, 0.8, 0.8), 0, 1, "",
        "Share of the density that throws light on: the colour that the volume shows in white light.",
    ),
    _within(
        "absorption_color", "absorption colour", "scattering", BLACK, 0, 1, "",
        "Share of the density that takes light away: black takes none, a colour takes that colour.",
    ),
    _within(
        "scattering_anisotropy", "forwardness", "scattering", (0.0,), -0.98, 0.98, "",
        "Scatters back (−1), evenly (0) or forward (1): the mean cosine.",
    ),
    _within(
        "second_anisotropy", "second lobe, forwardness", "scattering", (-0.3,), -0.98, 0.98, "",
        "Of a second lobe, as of the first.",
    ),
    _within(
        "second_share", "second lobe, share", "scattering", (0.0,), 0, 1, "", "How much is scattered by the second lobe."
    ),
    _within(
        "volume_emission", "emission", "glow", (0.0,), 0, 1e9, "nit/m",
        "Luminance that its own light gains along each metre, whatever the density.",
    ),
    _within(
        "volume_emission_exposure", "emission stops", "glow", (0.0,), -20, 20, "stop",
        "Doubles the emission for each stop.",
    ),
    _within("volume_emission_color", "emission colour", "glow", WHITE, 0, 1, "", "Colour of its own light."),
    _within(
        "temperature", "temperature", "glow", (0.0,), 0, 40_000, "K",
        "Makes what absorbs glow as a black body does (Kirchhoff's law); 0 leaves it dark.",
    ),
    _within(
        "point_emission", "bright points", "points", (0.0,), 0, 1e12, "nit/m",
        "Luminance that light gains along a metre in the middle of each bright point; looked up at the point.",
    ),
    _within("point_color", "points' colour", "points", WHITE, 0, 1, "", "Colour of the light of bright points."),
    _within(
        "point_radius", "points' radius", "points", (0.002,), 1e-6, 10, "m",
        "Where a bright point's light, which falls from its middle in a straight line, has come to nothing.",
    ),
)  # fmt: skip

CHANNELS: tuple[Channel, ...] = SURFACE_CHANNELS + VOLUME_CHANNELS

SHADED = frozenset(channel.name for channel in CHANNELS if channel.shaded)
"""Channels that are asked for where light meets a surface."""

DISPLACING = frozenset({"displacement", "displacement_vector"})
"""Channels that move a surface."""

CHANNEL_BY_NAME: dict[str, Channel] = {channel.name: channel for channel in CHANNELS}
