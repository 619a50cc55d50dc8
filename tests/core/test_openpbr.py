"""The channels against the standard's own list of inputs, as the MaterialX 1.39 library publishes it."""

import MaterialX
import pytest

from texallon.core.document.channels import CHANNEL_BY_NAME, CHANNELS, Channel

OWN = {"wetness", "bump", "emission_exposure", "self_lit"}
"""Channels that are ours."""

LEFT_OUT = {"coat_roughness_anisotropy", "geometry_coat_normal", "geometry_tangent", "geometry_coat_tangent"}
"""Inputs that are not channels: frames, which come from the UV map, and a coat of its own grain and normal."""


_library = MaterialX.createDocument()
MaterialX.loadLibraries(MaterialX.getDefaultDataLibraryFolders(), MaterialX.getDefaultDataSearchPath(), _library)
STANDARD = {
    each.getName(): each.getValue()
    for each in _library.getNodeDef("ND_open_pbr_surface_surfaceshader").getActiveInputs()
}


def test_every_input_of_the_standard_is_a_channel() -> None:
    assert set(STANDARD) - set(CHANNEL_BY_NAME) == LEFT_OUT
    assert set(CHANNEL_BY_NAME) - set(STANDARD) == OWN


@pytest.mark.parametrize("channel", [c for c in CHANNELS if c.name not in OWN], ids=lambda c: c.name)
def test_defaults_are_the_standards(channel: Channel) -> None:
    given = STANDARD[channel.name]
    if given is None:
        return  # geometry's own normal
    if isinstance(given, bool):
        found = (float(given),)
    elif isinstance(given, float):
        found = (given,)
    else:
        found = tuple(given.asTuple())
    assert channel.default == pytest.approx(found, abs=1e-6)
