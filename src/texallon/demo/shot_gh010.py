"""Shot GH010, *basin at thaw*: the looks, the light and the camera, as a document."""

from typing import Any


def gh010(files: dict[str, str]) -> dict[str, Any]:
    """The document; `files` maps each file's path to its SHA-256."""

    def ref(path: str) -> dict[str, str]:
        return {"file": path, "sha256": files[path]}

    return {
        "schema": 1,
        "name": "GH010",
        "title": "basin at thaw",
        "frames": {"first": 1, "last": 48, "rate": 24},
        "resolution": [1280, 720],
        "camera": {
            "position": [1.35, 1.95, 2.35],
            "target": [0.0, 0.55, 0.0],
            "focal_length": 38,
            "film_width": 36,
            "exposure": 2.1,
        },
        "environment": {"image": ref("light/night-sky.exr"), "rotation": 0, "intensity": 1.0},
        "lights": [
            {
                "name": "lantern",
                "position": [-1.9, 1.75, 1.3],
                "target": [0.0, 0.75, 0.0],
                "width": 0.34,
                "height": 0.34,
                "colour": [1.0, 0.52, 0.2],
                "power": 30.0,
                "visible": False,
            }
        ],
        "locators": [{"name": "waterline", "position": [0.0, 0.83, 0.0]}],
        "objects": [
            {"name": "basin", "geometry": ref("geometry/basin.glb"), "look": "basin stone"},
            {
                "name": "water",
                "geometry": ref("geometry/water.glb"),
                "look": "still water",
                "follows": "waterline",
            },
            {"name": "floor", "geometry": ref("geometry/flagstones.glb"), "look": "flagstones"},
        ],
        "signals": [
            _signal("splash noise", _splash()),
            _signal("bowl", _steps(("attribute", {"attribute": "inside"}))),
        ],
        "looks": [_basin_stone(), _flagstones(), _still_water()],
    }


def _steps(*steps: tuple[str, dict[str, Any]]) -> dict[str, Any]:
    return {"steps": [{"op": op, "params": params} for op, params in steps]}


def _value(value: Any, blend: str = "replace") -> dict[str, Any]:
    return {"recipe": _steps(("constant", {"value": value})), "blend": blend}


def _signal(name: str, recipe: dict[str, Any]) -> dict[str, Any]:
    return {"name": name, "recipe": recipe}


def _splash() -> dict[str, Any]:
    return _steps(
        ("noise", {"size": 0.16, "octaves": 5, "gain": 0.55, "seed": 7, "scale": [1, 1.7, 1]}),
        ("remap", {"from_start": 0.34, "from_end": 0.52, "ease": "smooth"}),
    )


def _basin_stone() -> dict[str, Any]:
    grain = _steps(
        ("noise", {"size": 0.3, "octaves": 8, "gain": 0.62, "seed": 1, "space": "object"}),
        (
            "ramp",
            {
                "stops": [
                    {"at": 0.25, "value": [0.25, 0.235, 0.21]},
                    {"at": 0.5, "value": [0.42, 0.4, 0.365]},
                    {"at": 0.75, "value": [0.56, 0.535, 0.49]},
                ],
                "interpolation": "smooth",
            },
        ),
    )
    waterline = {"locator": "waterline"}
    return {
        "name": "basin stone",
        "layers": [
            {
                "name": "stone",
                "channels": {
                    "base_color": {"recipe": grain},
                    "base_diffuse_roughness": _value(0.6),
                    "specular_roughness": {
                        "recipe": _steps(
                            ("noise", {"size": 0.05, "octaves": 3, "seed": 2, "space": "object"}),
                            ("remap", {"from_start": 0.3, "from_end": 0.7, "to_start": 0.62, "to_end": 0.82}),
                        )
                    },
                    "specular_weight": _value(0.5),
                },
            },
            {
                "name": "wet",
                "where": _steps(
                    ("height", {"origin": waterline, "axis": "y"}),
                    ("remap", {"from_start": 0.35, "from_end": 0.0, "ease": "smooth"}),
                    ("multiply", {"by": {"signal": "splash noise"}}),
                ),
                "channels": {
                    "base_color": _value(0.4, "multiply"),
                    "specular_roughness": _value(0.14),
                    "specular_weight": _value(1.0),
                },
            },
            {
                "name": "below water",
                "where": _steps(
                    ("height", {"origin": waterline, "axis": "y"}),
                    ("threshold", {"level": 0.0, "keep": "below", "width": 0.004}),
                    ("multiply", {"by": {"signal": "bowl"}}),
                ),
                "channels": {"specular_weight": _value(0.0)},
            },
        ],
    }


def _flagstones() -> dict[str, Any]:
    shade = _steps(
        ("attribute", {"attribute": "stone"}),
        ("remap", {"to_start": 0.75, "to_end": 1.2}),
    )
    grain = _steps(
        ("noise", {"size": 0.45, "octaves": 9, "gain": 0.6, "seed": 5}),
        (
            "ramp",
            {
                "stops": [
                    {"at": 0.25, "value": [0.115, 0.118, 0.125]},
                    {"at": 0.75, "value": [0.30, 0.295, 0.285]},
                ]
            },
        ),
    )
    damp = _steps(
        ("noise", {"size": 1.1, "octaves": 6, "gain": 0.5, "seed": 9}),
        ("remap", {"from_start": 0.5, "from_end": 0.58, "ease": "smooth"}),
    )
    return {
        "name": "flagstones",
        "layers": [
            {
                "name": "slab",
                "channels": {
                    "base_color": {"recipe": grain},
                    "base_diffuse_roughness": _value(0.5),
                    "specular_roughness": _value(0.55),
                    "specular_weight": _value(0.5),
                },
            },
            {"name": "each its own", "channels": {"base_color": {"recipe": shade, "blend": "multiply"}}},
            {
                "name": "damp",
                "where": damp,
                "channels": {
                    "base_color": _value(0.45, "multiply"),
                    "specular_roughness": _value(0.2),
                    "specular_weight": _value(1.0),
                },
            },
        ],
    }


def _still_water() -> dict[str, Any]:
    return {
        "name": "still water",
        "layers": [
            {
                "name": "water",
                "channels": {
                    "transmission_weight": _value(1.0),
                    "specular_ior": _value(1.333),
                    "specular_roughness": _value(0.0),
                },
            }
        ],
    }
