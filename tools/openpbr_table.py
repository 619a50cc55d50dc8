"""Writes docs/openpbr.md: every input of the standard's node, beside the channel of that name. Run `python -m tools.openpbr_table`."""

from functools import cache
from pathlib import Path
from typing import Any

import MaterialX

from texallon.core.document.channels import CHANNEL_BY_NAME, SURFACE_CHANNELS, Channel

PAGE = Path(__file__).parent.parent / "docs" / "openpbr.md"

WHY = {
    "specular_weight": "Above 1 a metal would give back more light than it gets.",
    "specular_ior": "Below 1 there is no material; a body of low index in a denser one is nested (decision 0010).",
    "coat_ior": "As the index of the base.",
    "thin_film_ior": "As the index of the base.",
    "transmission_depth": "A limit of a thousand kilometres, so that numbers stay finite.",
    "transmission_dispersion_abbe_number": "Below 1 nothing real lies; far above 200 nothing is split.",
    "subsurface_radius": "A limit of a thousand kilometres, so that numbers stay finite.",
    "thin_film_thickness": "Thicker films show no colours.",
    "emission_luminance": "A limit beyond any light, so that numbers stay finite.",
    "geometry_thin_walled": "A number, so that a mask can drive it: on from 0.5.",
    "geometry_normal": "In the map's frame instead of the world's, as normal maps are stored.",
    "geometry_coat_normal": "As the normal. Without it a coat follows the geometry and its bump, as the standard's default does.",
    "geometry_tangent": "In the map's frame: (1, 0, 0) runs along u, which is the standard's default tangent.",
    "geometry_coat_tangent": "As the tangent.",
}
"""Why a default or a range differs."""

HEAD = """# Channels and the standard's inputs

Every input of the OpenPBR Surface 1.1 node, as the MaterialX library publishes it, beside the channel of that name. This page is written
by `python -m tools.openpbr_table`, and a test holds it to the library and to the channels. *Range* is the standard's hard range; “…” is
an open end.

| input | default | range | default here | range here | what differs, and why |
|---|---|---|---|---|---|
"""

TAIL = """
Channels of our own, which the standard has not: {own}.

## Where the layers differ from the node graph that the library publishes

| what | there | here | why |
|---|---|---|---|
| darkening under a coat | the clear part counts by its base colour | it counts as white | what comes into a clear body comes out of it: glass is not blackened |
| coat colour | once for in and out, whatever the angle | along the refracted paths, straight on the same | the specification's text; longer ways colour more |
| coat over a clear body | coat colour and coated index at each boundary | half the way's colour at each; light is bent by the body's own index | a layer as thin as a coat bends no light on the whole |
| roughness under water | `wetness` is not known | a coat of water | our helper channel, decision 0009 |
| thin-walled subsurface | its colour counts twice | once | a white sheet gives back and lets through all light |
| metal | single scattering | with what facets throw among each other | energy (Kulla and Conty 2017) |
| clear part | single scattering | divided by what facets keep | energy (Turquin 2019) |
"""


@cache
def library() -> Any:
    """The standard's libraries; whoever asks for a part must keep the whole."""
    document = MaterialX.createDocument()
    MaterialX.loadLibraries(MaterialX.getDefaultDataLibraryFolders(), MaterialX.getDefaultDataSearchPath(), document)
    return document


def library_inputs() -> list[Any]:
    """The inputs of the standard's node."""
    document = library()
    return list(document.getNodeDef("ND_open_pbr_surface_surfaceshader").getActiveInputs())


def numbers(value: Any) -> tuple[float, ...] | None:
    """A value of the library as numbers; nothing where the geometry gives it."""
    if value is None or value == "":
        return None
    if isinstance(value, bool):
        return (float(value),)
    if isinstance(value, (int, float)):
        return (float(value),)
    if isinstance(value, str):
        return tuple(float(part) for part in value.split(","))
    return tuple(value.asTuple())


def standard_range(each: Any) -> tuple[float | None, float | None]:
    """The hard range of an input, the same for all parts of a colour."""
    low, high = numbers(each.getAttribute("uimin")), numbers(each.getAttribute("uimax"))
    return (low[0] if low else None), (high[0] if high else None)


def same_range(each: Any, channel: Channel) -> bool:
    """Whether a channel has the standard's range, as far as it has one; a hundred million or more stands for an open end."""
    low, high = standard_range(each)
    if low is None and high is None:
        return each.getType() != "boolean" and each.getValue() is not None
    return low == channel.low and (high == channel.high if high is not None else False)


def same_default(each: Any, channel: Channel) -> bool:
    """Whether a channel has the standard's default."""
    given = numbers(each.getValue())
    return given is not None and all(abs(a - b) < 1e-6 for a, b in zip(given, channel.default, strict=True))


def _show(values: tuple[float, ...] | None) -> str:
    if values is None:
        return "geometry's"
    return f"{values[0]:g}" if len(set(values)) == 1 else ", ".join(f"{v:g}" for v in values)


def _span(low: float | None, high: float | None) -> str:
    if low is None and high is None:
        return "…"
    return f"{'…' if low is None else f'{low:g}'} to {'…' if high is None else f'{high:g}'}"


def page() -> str:
    """The text of the page."""
    rows, names = [], set()
    for each in library_inputs():
        name = each.getName()
        names.add(name)
        channel = CHANNEL_BY_NAME[name]
        same = same_range(each, channel) and same_default(each, channel)
        rows.append(
            f"| `{name}` | {_show(numbers(each.getValue()))} | {_span(*standard_range(each))} | {_show(channel.default)} "
            f"| {_span(channel.low, channel.high)} | {'' if same else WHY[name]} |"
        )
    own = ", ".join(f"`{channel.name}`" for channel in SURFACE_CHANNELS if channel.name not in names)
    return HEAD + "\n".join(rows) + "\n" + TAIL.format(own=own)


if __name__ == "__main__":
    PAGE.write_text(page())
