"""Words by which people look for an op: the trade's, a painter's, a programmer's. Common practice, no published source."""

from collections.abc import Mapping

SYNONYMS: Mapping[str, tuple[str, ...]] = {
    "absolute": ("abs", "positive", "fold"),
    "add": ("plus", "sum", "brighten"),
    "attribute": ("vertex colour", "vertex color", "stored", "painted", "custom data", "point attribute"),
    "bias": ("midpoint", "gamma", "lighter", "darker"),
    "billow": ("puffy", "clouds", "smoke", "cotton"),
    "black body": ("temperature", "kelvin", "fire", "glow", "heat", "incandescent"),
    "bricks": ("wall", "masonry", "tiles", "pavement"),
    "cellular": ("voronoi", "worley", "cells", "cracks", "scales", "pebbles", "craquelure"),
    "checker": ("squares", "board", "chess"),
    "clamp": ("limit", "cut off", "saturate"),
    "component": ("channel", "red", "green", "blue", "axis", "split"),
    "constant": ("value", "flat", "even", "solid", "fill"),
    "contact": ("proximity", "touch", "near", "distance to object", "intersection", "footprints", "collision"),
    "contrast": ("punch", "levels", "harder"),
    "curvature": ("edge", "edges", "worn", "wear", "cavity", "convexity", "crevice", "edge wear", "chipped", "bevel"),
    "curve": ("profile", "spline", "tone curve"),
    "depth": ("distance from camera", "far", "near", "fog", "atmosphere"),
    "difference": ("subtract", "change", "compare"),
    "divide": ("ratio",),
    "falloff": ("field", "area", "region", "sphere mask", "box mask", "soft selection", "influence", "light shape"),
    "fog": ("mist", "haze", "distance fog", "depth fog", "atmosphere", "swallowed by distance"),
    "formula": ("expression", "math", "maths", "code", "script"),
    "gain": ("steeper", "contrast", "s-curve"),
    "gradient": ("ramp", "fade", "linear", "falloff"),
    "height": ("altitude", "level", "waterline", "up", "elevation", "snow line"),
    "height blend": ("mix by height", "displacement mix", "interlock"),
    "hue saturation value": ("hsv", "tint", "recolour", "recolor", "saturation"),
    "hybrid": ("terrain", "multifractal", "mountains", "erosion"),
    "voxels": ("vdb", "grid", "volume file", "simulation", "smoke", "cache", "npy", "density"),
    "image": ("texture", "picture", "bitmap", "photo", "map", "scan", "file"),
    "invert": ("negative", "reverse", "one minus", "opposite"),
    "levels": ("posterize", "posterise", "steps", "bands", "quantize"),
    "luminance": ("grey", "gray", "brightness", "desaturate"),
    "maximum": ("lighter", "union", "or"),
    "minimum": ("darker", "intersection", "and"),
    "mirror": ("symmetry", "reflect", "fold"),
    "mix": ("blend", "lerp", "crossfade", "interpolate"),
    "move": ("transform", "translate", "rotate", "scale", "place"),
    "multiply": ("times", "mask by", "darken"),
    "noise": ("grunge", "dirt", "variation", "clouds", "blotches", "stains", "breakup", "fractal", "perlin"),
    "normal map": ("bump", "tangent space", "relief"),
    "occlusion": ("ambient occlusion", "ao", "crevice", "cavity", "dirt", "thickness", "thin", "sheltered"),
    "offset": ("warp", "distort", "wobble", "displace the lookup", "turbulence"),
    "opposite colour": ("complement", "complementary", "inverse colour", "hue flip", "across the wheel"),
    "overlay": ("contrast blend",),
    "position": ("xyz", "coordinates", "world"),
    "power": ("exponent", "gamma", "sharpen"),
    "ramp": ("gradient", "colours", "colors", "tones", "remap to colour"),
    "random": ("per object", "id", "variation", "seed", "each its own"),
    "remap": ("range", "fit", "levels", "smoothstep"),
    "ridged": ("mountains", "veins", "filaments", "lightning", "cracks", "wrinkles"),
    "rings": ("circles", "wood", "growth rings", "ripples"),
    "screen": ("brighten", "lighten"),
    "signal": ("shared", "reuse", "named", "layer"),
    "slope": ("facing", "up", "underside", "top", "snow", "dust", "direction", "lean", "normal"),
    "spots": ("dots", "drops", "splatter", "specks", "freckles"),
    "strands": ("fibres", "fibers", "hair", "rope", "weave", "twist", "threads"),
    "stripes": ("lines", "bands", "wave", "sine"),
    "subtract": ("minus", "take away"),
    "swirl": ("whirl", "vortex", "spiral"),
    "threshold": ("step", "cut", "binary", "hard edge", "select"),
    "tile": ("repeat", "wrap"),
    "turn map": ("rotate", "orient"),
    "twirl": ("twist", "spiral", "wind"),
    "uv": ("texture coordinates", "map", "unwrap"),
    "view angle": ("fresnel", "facing", "edge", "rim", "silhouette", "grazing", "falloff", "sheen"),
    "waves": ("water", "sea", "ocean", "ripples", "swell", "pond", "foam", "wind", "surf"),
}  # fmt: skip
"""By the op's name."""


def synonyms_of(name: str) -> tuple[str, ...]:
    """Other words for an op.

    Parameters
    ----------
    name : str
        The op's.
    """
    return SYNONYMS.get(name, ())
