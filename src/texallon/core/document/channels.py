"""The channels of a look: what they are called, mean, and are where no layer says anything.

Names, ranges and defaults follow the OpenPBR Surface specification (Academy Software Foundation, version 1.1).
"""

from dataclasses import dataclass
from typing import Literal

Group = Literal["colour", "finish", "glow", "through", "form"]


@dataclass(frozen=True)
class Channel:
    """One material parameter: `width` 1 is a number, 3 a scene-linear colour; values are clamped to `low`…`high`."""

    name: str
    label: str
    group: Group
    width: int
    default: tuple[float, ...]
    low: float
    high: float
    unit: str
    purpose: str


CHANNELS: tuple[Channel, ...] = (
    Channel("base_weight", "amount", "colour", 1, (1.0,), 0, 1, "", "Scales the base colour."),
    Channel("base_color", "colour", "colour", 3, (0.8, 0.8, 0.8), 0, 1, "", "Share of light the base gives back."),
    Channel(
        "base_diffuse_roughness",
        "chalkiness",
        "finish",
        1,
        (0.0,),
        0,
        1,
        "",
        "Roughness of the diffuse base.",
    ),
    Channel("base_metalness", "metalness", "finish", 1, (0.0,), 0, 1, "", "From dielectric (0) to metal (1)."),
    Channel(
        "specular_weight",
        "reflectivity",
        "finish",
        1,
        (1.0,),
        0,
        1,
        "",
        "Scales the reflection at the surface.",
    ),
    Channel("specular_color", "reflection tint", "finish", 3, (1.0, 1.0, 1.0), 0, 1, "", "Colours the reflection."),
    Channel("specular_roughness", "roughness", "finish", 1, (0.3,), 0, 1, "", "From mirror (0) to dull (1)."),
    Channel("specular_ior", "index of refraction", "finish", 1, (1.5,), 1, 3, "", "Water 1.33, glass 1.5."),
    Channel("coat_weight", "coat", "finish", 1, (0.0,), 0, 1, "", "A clear layer on top: varnish, water, glaze."),
    Channel(
        "coat_color", "coat tint", "finish", 3, (1.0, 1.0, 1.0), 0, 1, "", "What is left after in and out, head on."
    ),
    Channel("coat_roughness", "coat roughness", "finish", 1, (0.0,), 0, 1, "", "From mirror (0) to dull (1)."),
    Channel("coat_ior", "coat index", "finish", 1, (1.6,), 1, 3, "", "Water 1.33, varnish 1.5."),
    Channel(
        "coat_darkening",
        "coat darkening",
        "finish",
        1,
        (1.0,),
        0,
        1,
        "",
        "How much light that the coat throws back darkens what lies under it.",
    ),
    Channel(
        "wetness",
        "wetness",
        "finish",
        1,
        (0.0,),
        0,
        1,
        "",
        "Sets coat, darkening and reflectivity together, as a film of water does (not of OpenPBR).",
    ),
    Channel("emission_luminance", "emission", "glow", 1, (0.0,), 0, 1e9, "nit", "Luminance of its own light."),
    Channel("emission_color", "emission colour", "glow", 3, (1.0, 1.0, 1.0), 0, 1, "", "Colour of its own light."),
    Channel("transmission_weight", "transmission", "through", 1, (0.0,), 0, 1, "", "From opaque (0) to clear (1)."),
    Channel(
        "transmission_color",
        "transmission tint",
        "through",
        3,
        (1.0, 1.0, 1.0),
        0,
        1,
        "",
        "Colours what passes.",
    ),
    Channel("geometry_opacity", "opacity", "through", 1, (1.0,), 0, 1, "", "From cut out (0) to there (1)."),
    Channel("bump", "bump", "form", 1, (0.0,), -1e3, 1e3, "m", "Height that only tilts the normal (not of OpenPBR)."),
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
)

CHANNEL_BY_NAME: dict[str, Channel] = {channel.name: channel for channel in CHANNELS}
