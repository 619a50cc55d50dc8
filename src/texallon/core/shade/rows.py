"""Where each channel stands in the material array, `(MATERIAL, n)`: in the order of the document's channels."""

from texallon.core.document.channels import CHANNELS

_starts = {}
_row = 0
for _channel in CHANNELS:
    if not _channel.shaded:
        continue
    _starts[_channel.name] = _row
    _row += _channel.width
MATERIAL_ROWS: dict[str, int] = _starts
"""The first row of each channel in the material array."""
TANGENT = _row
"""The direction of the grain in the world, three rows beside the channels; zero where nothing is brushed."""
COAT_NORMAL = _row + 3
"""The coat's normal in the world, three rows; zero where it is that of the base."""
COAT_TANGENT = _row + 6
"""The direction of the coat's grain in the world, three rows; zero where it is not brushed."""
NEAR_INDEX = _row + 9
"""Index of what surrounds the surface on the viewer's side: 1 in the open. Set before scattering, as is the next."""
BENDING = _row + 10
"""Index of the far side of a clear boundary over that of the near side, as light is bent by it; below 1 seen from the denser side."""
MATERIAL = _row + 11
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
COAT_BRUSHING = MATERIAL_ROWS["coat_roughness_anisotropy"]
BRUSHING = MATERIAL_ROWS["specular_roughness_anisotropy"]
EMISSION_EXPOSURE = MATERIAL_ROWS["emission_exposure"]
SELF_LIT = MATERIAL_ROWS["self_lit"]
TRANSMISSION_DEPTH = MATERIAL_ROWS["transmission_depth"]
TRANSMISSION_SCATTER = MATERIAL_ROWS["transmission_scatter"]
TRANSMISSION_FORWARD = MATERIAL_ROWS["transmission_scatter_anisotropy"]
DISPERSION = MATERIAL_ROWS["transmission_dispersion_scale"]
ABBE = MATERIAL_ROWS["transmission_dispersion_abbe_number"]
SUBSURFACE_WEIGHT = MATERIAL_ROWS["subsurface_weight"]
SUBSURFACE_COLOR = MATERIAL_ROWS["subsurface_color"]
SUBSURFACE_RADIUS = MATERIAL_ROWS["subsurface_radius"]
SUBSURFACE_SCALE = MATERIAL_ROWS["subsurface_radius_scale"]
SUBSURFACE_FORWARD = MATERIAL_ROWS["subsurface_scatter_anisotropy"]
FUZZ_WEIGHT = MATERIAL_ROWS["fuzz_weight"]
FUZZ_COLOR = MATERIAL_ROWS["fuzz_color"]
FUZZ_ROUGHNESS = MATERIAL_ROWS["fuzz_roughness"]
THIN_FILM_WEIGHT = MATERIAL_ROWS["thin_film_weight"]
THIN_FILM_THICKNESS = MATERIAL_ROWS["thin_film_thickness"]
THIN_FILM_IOR = MATERIAL_ROWS["thin_film_ior"]
THIN_WALLED = MATERIAL_ROWS["geometry_thin_walled"]
