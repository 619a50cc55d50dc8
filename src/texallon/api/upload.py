"""Bringing in a mesh: it is looked into in a process of its own, then takes an object's place in a new shot."""

from pathlib import Path
from typing import Any

import numpy as np
from flask import Response, jsonify, request
from flask_openapi3 import APIBlueprint, Tag

from texallon.api.people import who
from texallon.api.problems import ProblemBody, problem
from texallon.api.shapes import ShotPath, UploadResult
from texallon.api.shots import shot_answer
from texallon.core.document import Camera, read_shot, shot_json
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.camera.moves import fit_box
from texallon.formats.import_mesh import SECONDS
from texallon.formats.import_report import ImportReport, count
from texallon.formats.look_into import UnusableFileError, look_into_file
from texallon.formats.mesh_file import KINDS, LARGEST_FILE, not_of_ours
from texallon.store.files import FileStore
from texallon.store.kept_beside import shortened
from texallon.store.shots import ShotStore

SMALLEST_SIZE, LARGEST_SIZE = 0.05, 12.0
"""Metres: a mesh outside these is scaled to stand one metre high, as its units are probably not metres."""


def make_upload(store: ShotStore, files: FileStore) -> APIBlueprint:
    """The route for meshes."""
    routes = APIBlueprint("upload", __name__, url_prefix="/api/shots", abp_tags=[Tag(name="shots")])

    @routes.post(
        "/<int:shot_id>/mesh",
        responses={"201": UploadResult, "413": ProblemBody, "422": ProblemBody, "404": ProblemBody},
        operation_id="upload_mesh",
    )
    def upload_mesh(path: ShotPath) -> Response:
        """A form with `mesh` (OBJ, PLY, STL or GLB; particles as PLY or CSV) and `object` (the one it replaces): gives a new shot."""
        current = store.current(path.shot_id)
        name, kind = named_mesh()
        names = [item["name"] for item in current.document["objects"]]
        replaced = request.form.get("object") or (names[0] if names else "")
        if replaced not in names:
            return problem(422, "No such object", f"The shot has no object “{replaced[:80]}” to replace.")
        label, reference, facts = keep_mesh(store, files, name, kind)
        report = ImportReport(**facts["report"])
        document = with_mesh(current.document, replaced, label, reference, facts, report)
        number = store.add_shot(current.project, document, f"bring in {label}", who().author)
        body = {
            "shot": shot_answer(store.current(number)).get_json(),
            **{key: facts[key] for key in ("triangles", "points", "attributes", "has_uv")},
            "report": report.as_json(),
        }
        response = jsonify(body)
        response.status_code = 201
        return response

    return routes


def named_mesh() -> tuple[str, str]:
    """The name and the kind of the mesh that a form brings; raises `MeshError` where it brings none of ours."""
    request.max_content_length = LARGEST_FILE + 1_000_000
    sent = request.files.get("mesh")
    if sent is None or not sent.filename:
        raise MeshError("the form has no file named “mesh”")
    name = shortened(Path(sent.filename).name, 200)
    kind = Path(name).suffix.lower().removeprefix(".")
    if kind not in KINDS:
        raise MeshError(not_of_ours(kind))
    return name, kind


def keep_mesh(store: ShotStore, files: FileStore, name: str, kind: str) -> tuple[str, dict[str, str], dict[str, Any]]:
    """Look into the form's mesh and keep it: what it may be called, what a document names it by, and what is in it; raises `MeshError`."""
    data = request.files["mesh"].read()
    facts = look_into(data, kind)
    author = who().author
    with store.keeping_file(len(data), author):
        digest = files.put(data, f".{kind}")
        store.remember_file(digest, name, kind, len(data), author)
    label = "".join(c for c in Path(name).stem if c.isprintable() and c not in "/\\")[:60].strip() or "mesh"
    return label, {"file": f"uploads/{digest[:12]}.{kind}", "sha256": digest}, facts


def look_into(data: bytes, kind: str) -> dict[str, Any]:
    """What a mesh file holds; raises `MeshError` for one that can't be used, whatever it did to its reader."""
    try:
        return look_into_file("texallon.formats.import_mesh", data, kind, SECONDS + 60)
    except UnusableFileError as error:
        raise MeshError(str(error)) from error


def with_mesh(
    document: dict[str, Any],
    replaced: str,
    label: str,
    reference: dict[str, str],
    facts: dict[str, Any],
    report: ImportReport,
) -> dict[str, Any]:
    """The document with a mesh in an object's place: standing on the ground, framed, with the waterline across it.

    The report gets a line for all that became other than it was.
    """
    shot = read_shot(document)
    low, high = np.array(facts["low"]), np.array(facts["high"])
    size = float(np.max(high - low))
    scale = 1.0
    if size <= 0:
        raise MeshError("all points of the mesh lie in one place")
    if not SMALLEST_SIZE <= size <= LARGEST_SIZE:
        scale = 1.0 / size
        report.add("changed", f"it measures {size:.3g} m across; it is scaled by {scale:.3g} to one metre")
    centre = (low + high) / 2 * scale
    position = [round(float(x), 6) + 0.0 for x in (-centre[0], -low[1] * scale, -centre[2])]
    if any(abs(x) > 1e-6 for x in position):
        x, y, z = position
        report.add("changed", f"it is moved by {x:.4g}, {y:.4g}, {z:.4g} m, to stand in the middle of the ground")
    result = shot_json(shot)
    result["name"] = f"{shot.name} {label}"[:80]
    result["title"] = label
    for item in result["objects"]:
        if item["name"] == replaced:
            _tell_replaced(item, report)
            item.update(geometry=reference, position=position, rotation=[0, 0, 0], scale=scale, parts=[], follows=None)
            item["particles"] = seen_as(facts)
        elif item["follows"] is not None and item["visible"]:
            item["visible"] = False
            report.add("changed", f"“{item['name']}” was made for “{replaced}” and is hidden")
    extent = (high - low) * scale
    for locator in result["locators"]:
        if locator["name"] == "waterline":
            locator["position"][1] = round(float(extent[1]) * 0.4, 4)
            report.add("changed", f"the locator “waterline” now lies at {locator['position'][1]:.4g} m, across it")
    half = np.array([extent[0] / 2, 0, extent[2] / 2])
    box_low, box_high = -half, half + np.array([0, extent[1], 0])
    camera = fit_box(Camera.model_validate(result["camera"]), box_low, box_high)
    result["camera"] = camera.model_dump(mode="json")
    report.add("changed", "the camera looks at it")
    return result


def seen_as(facts: dict[str, Any]) -> dict[str, Any] | None:
    """How what a file holds is seen: as particles where it has no faces, as large as they lie apart where they carry no radius."""
    if facts["triangles"]:
        return None
    across = np.maximum(np.array(facts["high"]) - np.array(facts["low"]), 1e-4)
    apart = float((across.prod() / max(facts["points"], 1)) ** (1 / 3))
    return {"radius": float(f"{max(apart / 4, 1e-4):.2g}")}


def _tell_replaced(item: dict[str, Any], report: ImportReport) -> None:
    """Say what the object that gives up its place loses."""
    name = item["name"]
    if any(item["rotation"]):
        report.add("dropped", f"the turn of “{name}”: {', '.join(f'{angle:g}°' for angle in item['rotation'])}")
    if item["scale"] != 1:
        report.add("dropped", f"the scale of “{name}”: {item['scale']:g}")
    if item["parts"]:
        report.add("dropped", f"the looks of {count(len(item['parts']), 'part')} of “{name}”")
    if item["follows"] is not None:
        report.add("dropped", f"“{name}” followed another object")
