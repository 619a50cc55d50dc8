"""The pictures of a review sheet, each as a document of its own."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from texallon.core.derived import DerivedStore
from texallon.core.document import Camera, Shot, read_shot, shot_json
from texallon.core.document.resolved import resolve
from texallon.core.render.camera.moves import fit_box
from texallon.core.render.graph import FrameGraph
from texallon.formats.shot_files import ShotFiles
from texallon.review.chart import ACROSS, patches
from texallon.review.rigs import RIGS, Rig, placed_lights

Json = dict[str, Any]

TURNS = 6
"""Pictures of the turntable."""

NEARER = 0.8

BODY_LOW, BODY_HIGH = np.array([-0.36, 0.0, -0.36]), np.array([0.36, 0.842, 0.36])
"""Corners of the test body's box, metres."""


@dataclass(frozen=True)
class Tile:
    """One picture: its part's name, what is written under it, and its document."""

    name: str
    title: str
    document: Shot


@dataclass(frozen=True)
class Own:
    """The object that wears the look in its shot, and the box around it."""

    name: str
    low: np.ndarray
    high: np.ndarray


def find_own(shot: Shot, look: str, files: ShotFiles, store: DerivedStore | None = None) -> Own | None:
    """The first visible object that wears a look, whole or in a part; nothing where there is none.

    Parameters
    ----------
    shot : Shot
        Checked.
    look : str
        The look's name.
    files : ShotFiles
        Where meshes are read from.
    store : DerivedStore, optional
        Where they are kept.
    """
    for item in shot.objects:
        if item.visible and look in {item.look, item.filled_with, *(part.look for part in item.parts)}:
            alone = shot.model_copy(update={"objects": [item], "lights": [], "atmosphere": None})
            graph = FrameGraph(resolve(_with_names(shot, alone)), files, store)
            scene = graph.scene
            surfaces = [
                scene.distinct[each.mesh_number].vertices @ matrix[:, :3].T + matrix[:, 3]
                for each in scene.instances
                for matrix in each.matrices
            ]
            bodies = [
                np.stack(np.meshgrid(*zip(each.low, each.high, strict=True), indexing="ij")).reshape(3, -1).T
                @ each.matrix[:, :3].T
                + each.matrix[:, 3]
                for each in graph.filled.containers
            ]
            corners = np.concatenate([*surfaces, *bodies])
            return Own(item.name, corners.min(axis=0).astype(np.float64), corners.max(axis=0).astype(np.float64))
    return None


def _with_names(shot: Shot, alone: Shot) -> Shot:
    """With all objects, so that what measures from them still does; all but one hidden."""
    shown = {item.name for item in alone.objects}
    objects = [item.model_copy(update={"visible": item.name in shown}) for item in shot.objects]
    return alone.model_copy(update={"objects": objects})


def make_tiles(shot: Shot, look: str, body: Json, own: Own | None) -> list[Tile]:
    """All pictures of a look's sheet: body, own object and references under each light, then the turntable.

    Parameters
    ----------
    shot : Shot
        Checked.
    look : str
        The look's name.
    body : dict
        The test body's file.
    own : Own, optional
        The object that wears it in the shot.
    """
    tiles = []
    for rig in RIGS:
        tiles.append(Tile(f"{rig.name}.body", "test body", body_shot(shot, look, body, own, rig)))
        if own is not None:
            tiles.append(Tile(f"{rig.name}.own", own.name, own_shot(shot, own, rig)))
        tiles.append(Tile(f"{rig.name}.references", "grey, mirror, chart", references_shot(rig)))
    for number in range(TURNS):
        turned = body_shot(shot, look, body, own, RIGS[0], 360.0 * number / TURNS)
        tiles.append(Tile(f"turntable.{number + 1}", f"{360 * number // TURNS}°", turned))
    return tiles


def body_shot(shot: Shot, look: str, body: Json, own: Own | None, rig: Rig, angle: float = 0.0) -> Shot:
    """The test body wearing a look, where the look's own object stands, seen from an angle about it."""
    foot = np.zeros(3) if own is None else (own.low + own.high) / 2 * [1, 0, 1] + own.low * [0, 1, 0]
    names = {item.name for item in shot.objects}
    name = next(each for each in ("test body", *(f"test body {n}" for n in range(2, 1100))) if each not in names)
    item = {"name": name, "geometry": body, "look": look, "position": [round(float(x), 5) for x in foot]}
    low, high = foot + BODY_LOW, foot + BODY_HIGH
    return _lit(shot, [item], None, rig, low, high, angle)


def own_shot(shot: Shot, own: Own, rig: Rig) -> Shot:
    """The shot's own object as it stands, alone."""
    return _lit(shot, [], own.name, rig, own.low, own.high)


def references_shot(rig: Rig) -> Shot:
    """A grey ball, a mirror ball and the chart."""
    looks: list[Json] = [
        _even("grey", base_color=[0.18] * 3, specular_weight=0.0),
        _even("mirror", base_color=[1.0] * 3, base_metalness=1.0, specular_roughness=0.0),
        _even("board", base_color=[0.03] * 3, specular_weight=0.0),
    ]
    objects: list[Json] = [
        _body("grey ball", {"shape": "sphere", "radius": 0.17, "segments": 128}, "grey", [-0.21, 0.3, 0.0]),
        _body("mirror ball", {"shape": "sphere", "radius": 0.17, "segments": 256}, "mirror", [0.21, 0.3, 0.0]),
        _body(
            "board",
            {"shape": "box", "width": 0.74, "height": 0.01, "depth": 0.4},
            "board",
            [0.0, 0.075, 0.096],
            [90, 0, 0],
        ),
    ]
    for number, (name, colour) in enumerate(patches()):
        looks.append(_even(name, base_color=list(colour), specular_weight=0.0))
        row, column = divmod(number, ACROSS)
        # The board stands upright before the balls and faces the camera: its own z axis points down.
        position = [round(-0.295 + 0.118 * column, 4), round(0.19 - 0.118 * row, 4), 0.11]
        objects.append(_body(name, {"shape": "plane", "width": 0.104, "depth": 0.104}, name, position, [90, 0, 0]))
    low, high = np.array([-0.4, -0.12, -0.17]), np.array([0.4, 0.64, 0.17])
    made = {"schema": 2, "name": "references", "objects": objects, "looks": looks}
    return _lit(read_shot(made), [], "", rig, low, high, all_shown=True, side=0.0, above=0.12)


def _lit(
    shot: Shot,
    added: list[Json],
    shown: str | None,
    rig: Rig,
    low: np.ndarray,
    high: np.ndarray,
    angle: float = 0.0,
    all_shown: bool = False,
    side: float = 0.35,
    above: float = 0.3,
) -> Shot:
    """A shot with another light and camera, and of its objects only what is shown; everything keeps its name and place."""
    document = shot_json(shot)
    for item in document["objects"]:
        item["visible"] = all_shown or item["name"] == shown
    document["objects"] += added
    centre, radius = (low + high) / 2, float(np.linalg.norm(high - low)) / 2
    turn = np.radians(angle)
    away = np.array([side * np.cos(turn) + np.sin(turn), above, np.cos(turn) - side * np.sin(turn)])
    camera = Camera(
        position=tuple(float(x) for x in centre + away * 10), target=tuple(float(x) for x in centre), focal_length=85.0
    )
    fitted = fit_box(camera, low, high, 4 / 3)
    # A ball around it is larger than most things look: a little nearer.
    near = tuple(float(x) for x in centre + (np.array(fitted.position) - centre) * NEARER)
    document["camera"] = fitted.model_copy(update={"position": near}).model_dump(mode="json")
    document["environment"] = rig.environment
    document["lights"] = placed_lights(rig, centre, radius)
    document["backdrop"] = {"colour": [0.045, 0.048, 0.052]}
    document["light_groups"] = []
    document["bloom"]["intensity"] = 0.0
    for item in document["objects"]:
        item["group"] = None
    return read_shot(document)


def _even(name: str, **channels: Any) -> Json:
    made = {key: {"recipe": {"steps": [{"op": "constant", "params": {"value": v}}]}} for key, v in channels.items()}
    return {"name": name, "layers": [{"name": "even", "channels": made}]}


def _body(name: str, geometry: Json, look: str, position: list[float], rotation: list[float] | None = None) -> Json:
    return {
        "name": name,
        "geometry": geometry,
        "look": look,
        "position": position,
        "rotation": rotation or [0, 0, 0],
    }
