"""Where each channel stands in the material array, `(MATERIAL, n)`: in the order of the document's channels."""

from texallon.core.document.channels import CHANNELS

_starts = {}
_row = 0
for _channel in CHANNELS:
    _starts[_channel.name] = _row
    _row += _channel.width
MATERIAL_ROWS: dict[str, int] = _starts
"""The first row of each channel in the material array."""
MATERIAL = _row
"""Rows of the material array."""

BASE_WEIGHT = MATERIAL_ROWS["base_weight"]
BASE_COLOR = MATERIAL_ROWS["base_color"]
DIFFUSE_ROUGHNESS = MATERIAL_ROWS["base_diffuse_roughness"]
METALNESS = MATERIAL_ROWS["base_metalness"]
SPECULAR_WEIGHT = MATERIAL_ROWS["specular_weight"]
SPECULAR_COLOR = MATERIAL_ROWS["specular_color"]
SPECULAR_ROUGHNESS = MATERIAL_ROWS["specular_roughness"]
SPECULAR_IOR = MATERIAL_ROWS["specular_ior"]
EMISSION_LUMINANCE = MATERIAL_ROWS["emission_luminance"]
EMISSION_COLOR = MATERIAL_ROWS["emission_color"]
TRANSMISSION_WEIGHT = MATERIAL_ROWS["transmission_weight"]
TRANSMISSION_COLOR = MATERIAL_ROWS["transmission_color"]
OPACITY = MATERIAL_ROWS["geometry_opacity"]
COAT_WEIGHT = MATERIAL_ROWS["coat_weight"]
COAT_COLOR = MATERIAL_ROWS["coat_color"]
COAT_ROUGHNESS = MATERIAL_ROWS["coat_roughness"]
COAT_IOR = MATERIAL_ROWS["coat_ior"]
COAT_DARKENING = MATERIAL_ROWS["coat_darkening"]
WETNESS = MATERIAL_ROWS["wetness"]
