"""What an op does, as a small picture: a source over a square metre, a step on a ramp from left to right, a bend of a checker."""

import io
from functools import cache
from typing import Any

import numpy as np
from PIL import Image

from texallon.core.document import read_shot
from texallon.core.document.object import FileRef
from texallon.core.document.resolved import resolve
from texallon.core.document.shot import SCHEMA
from texallon.core.kernel import Array
from texallon.core.ops.points import OpFiles
from texallon.core.ops.pyramid import Pyramid, make_pyramid
from texallon.core.ops.registry import ops
from texallon.core.ops.voxel_grid import VoxelGrid, make_voxel_grid
from texallon.core.signal.planner import Planner
from texallon.core.signal.run import evaluate, fill_missing

SIDE = 96

SHOWN: dict[str, dict[str, Any]] = {
    "noise": {"size": 0.3, "spread": "full"},
    "billow": {"size": 0.3, "spread": "full"},
    "ridged": {"size": 0.4, "spread": "full"},
    "hybrid": {"size": 0.4, "spread": "full"},
    "cellular": {"size": 0.2},
    "bricks": {"width": 0.3, "height": 0.12, "joint": 0.015},
    "spots": {"size": 0.25, "axis": "z"},
    "strands": {"space": "world", "thickness": 0.2, "turns": 3.0},
    "swirl": {"radius": 0.45, "axis": "z"},
    "twirl": {"angle": 200.0, "axis": "z"},
    "tile": {"size": [0.4, 0.4, 0.0]},
    "gradient": {"length": 1.0, "axis": "x"},
    "height": {"axis": "y"},
    "rings": {"axis": "z", "spacing": 0.1},
    "waves": {"up": "z", "size": 2.0, "wind": 3.0, "fetch": 60.0, "scale": 20.0, "detail": "coarse"},
    "stripes": {"axis": "x"},
    "levels": {"count": 5},
    "remap": {"from_start": 0.3, "from_end": 0.7, "ease": "smooth"},
    "attribute": {"attribute": "x"},
    "image": {"file": {"file": "any.png"}},
    "voxels": {"file": {"file": "any.npy"}},
    "signal": {"signal": "s"},
    "formula": {"expression": "sin(position.x * 20) * sin(position.y * 20)"},
    "multiply": {"by": {"signal": "s"}},
    "add": {"by": {"signal": "s"}},
    "subtract": {"by": {"signal": "s"}},
    "divide": {"by": 2.0},
    "maximum": {"by": {"signal": "s"}},
    "minimum": {"by": {"signal": "s"}},
    "difference": {"by": {"signal": "s"}},
    "screen": {"by": {"signal": "s"}},
    "overlay": {"by": {"signal": "s"}},
    "mix": {"other": {"signal": "s"}},
    "offset": {"by": {"signal": "s"}, "amount": 0.3},
    "ramp": {
        "stops": [
            {"at": 0, "value": [0.02, 0.05, 0.2]},
            {"at": 0.5, "value": [0.8, 0.3, 0.1]},
            {"at": 1, "value": [1, 0.9, 0.6]},
        ]
    },
    "falloff": {"shape": "box", "width": 0.4, "height": 0.3, "border": 0.25},
    "contact": {"end": 0.5},
    "clamp": {"low": 0.3, "high": 0.6},
    "bias": {"amount": 0.15},
    "gain": {"amount": 0.15},
    "contrast": {"amount": 3.0},
    "curve": {"points": [[0, 0.9], [0.3, 0.1], [0.6, 1.0], [1, 0.2]]},
    "power": {"exponent": 4.0},
    "slope": {"direction": [0.5, 1.0, 0.3], "full": 10.0, "none": 80.0},
    "move": {"by": [0.08, 0.04, 0.0]},
    "turn map": {"angle": 30.0},
}
"""Parameters by which an op shows itself on a square metre, where its defaults don't."""


@cache
def op_picture(name: str) -> bytes:
    """An op's small picture, as PNG.

    Parameters
    ----------
    name : str
        Of the op.

    Raises
    ------
    KeyError
        Where there is no such op.
    """
    kind = ops()[name]
    own = {"op": name, "params": SHOWN.get(name, {})}
    ramp = {"op": "attribute", "params": {"attribute": "x"}}
    if name == "black body":
        ramp_up = {"op": "remap", "params": {"to_start": 900.0, "to_end": 9000.0}}
        steps = [ramp, ramp_up, own]
    elif kind.kind == "source":
        steps = [own]
    elif kind.kind == "warp":
        # A map has no third coordinate to stand in a cell with: its lines show how it turns.
        lines = {"op": "stripes", "params": {"spacing": 0.2, "space": "uv", "axis": "x"}}
        checks = {"op": "checker", "params": {"size": 0.16}}
        steps = [own, lines if name == "turn map" else checks]
    else:
        steps = [ramp, own]
    document = {
        "schema": SCHEMA,
        "name": "op",
        "looks": [{"name": "a", "layers": [{"name": "l"}]}],
        "signals": [
            {
                "name": "s",
                "recipe": {"steps": [{"op": "noise", "params": {"size": 0.3, "octaves": 2, "spread": "full"}}]},
            },
            {"name": "shown", "recipe": {"steps": steps}},
        ],
    }
    planner = Planner(resolve(read_shot(document)))
    planner.want("value", planner.signal("shown", ("signals", 1)))
    plan = planner.plan()
    data, count = _square(), SIDE * SIDE
    data |= {each: _bumps(data["position"], each) for each in plan.required_data if ":" in each and each not in data}
    points = plan.points(count, fill_missing(plan.required_data, data, count), _MadeFiles())
    values = evaluate(plan, points)["value"]
    out = io.BytesIO()
    Image.fromarray(_painted(values, kind.kind != "modifier")).save(out, "PNG", optimize=True)
    return out.getvalue()


def _square() -> dict[str, Array]:
    """A square metre that faces the eye, with the normals of a ball, so that what leans is seen too."""
    across = (np.arange(SIDE) + 0.5) / SIDE
    u, v = np.meshgrid(across, across[::-1])
    place = np.stack([u.ravel() - 0.5, v.ravel() - 0.5, np.full(u.size, 1e-3)])
    x, y = place[0] * 2, place[1] * 2
    z = np.sqrt(np.maximum(1 - x * x - y * y, 0.02))
    normal = np.stack([x, y, z]) / np.sqrt(x * x + y * y + z * z)
    view = np.repeat([[0.0], [0.0], [1.0]], u.size, axis=1)
    wide = np.full((1, u.size), 1 / SIDE)
    rows = {
        "position": place, "object_position": place, "rest_position": place, "normal": normal, "view": view,
        "uv": np.stack([u.ravel(), v.ravel()]), "footprint": wide, "object_footprint": wide, "uv_footprint": wide,
        "object_id": np.floor(u.ravel() * 4)[None], "instance_id": np.floor(u.ravel() * 4)[None],
        "part_id": np.floor(u.ravel() * 4)[None], "attribute:x": u.ravel()[None],
    }  # fmt: skip
    return {name: np.ascontiguousarray(each, np.float32) for name, each in rows.items()}


def _bumps(place: Array, kind: str) -> Array:
    """What is read from a mesh, as of round studs on a plate: their edges bulge, and it is narrow between them."""
    across = (place[:2] * 4) % 1 - 0.5
    away = np.hypot(across[0], across[1])
    edge, foot = (np.exp(-(((away - at) / 0.07) ** 2)) for at in (0.28, 0.42))
    found = foot if kind.startswith("occlusion") else 30 * (edge - foot)
    return np.ascontiguousarray(found[None], np.float32)


class _MadeFiles(OpFiles):
    """What ops that read files are shown with: a picture of coloured squares, and a puff of smoke."""

    def pyramid(self, ref: FileRef, raw: bool) -> Pyramid:
        here = np.indices((8, 8)).sum(axis=0) % 2
        colours = np.where(here[..., None] == 1, [0.7, 0.35, 0.12], [0.08, 0.16, 0.3]).astype(np.float32)
        return make_pyramid(np.repeat(np.repeat(colours, 8, axis=0), 8, axis=1))

    def voxels(self, ref: FileRef, grid: str) -> VoxelGrid:
        x, y, z = (np.indices((12, 12, 12)) - 5.5) / 5.5
        puff = np.clip(1 - np.sqrt(x * x + y * y + z * z) + 0.3 * np.sin(5 * x) * np.sin(4 * y + 1), 0, 1)
        to_index = np.hstack([np.eye(3) * 12, np.full((3, 1), 5.5)])
        return make_voxel_grid(puff[..., None].astype(np.float32), to_index)


def _painted(values: Array, spread: bool) -> "np.ndarray[Any, np.dtype[np.uint8]]":
    """Numbers as greys, where they are `spread` between their lowest and highest, colours as they are, coded for a display."""
    finite = np.nan_to_num(values.astype(np.float64), nan=0.0, posinf=1.0, neginf=0.0)
    if len(finite) == 1:
        low, high = np.quantile(finite, [0.01, 0.99]) if spread else (0.0, 1.0)
        if high - low < 1e-6:
            low, high = min(low, 0.0), max(high, 1.0)
        grey = np.clip((finite - low) / (high - low), 0, 1) ** (1 / 1.3)
        finite = np.repeat(grey, 3, axis=0)
    else:
        high = max(float(np.quantile(finite, 0.99)), 1e-6)
        finite = np.clip(finite / max(high, 1.0) if high > 1 else finite, 0, 1) ** (1 / 2.2)
    coded: np.ndarray[Any, np.dtype[np.uint8]] = (finite * 255 + 0.5).astype(np.uint8).T.reshape(SIDE, SIDE, 3)
    return coded
