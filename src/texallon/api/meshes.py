"""Meshes brought in to be added to shots: kept, looked into, and reported; the page then adds objects that consist of them."""

from dataclasses import asdict
from pathlib import Path

from flask import Response, jsonify, request
from flask_openapi3 import APIBlueprint, Tag

from texallon.api.problems import ProblemBody, problem
from texallon.api.shapes import LineBody, MeshItem
from texallon.api.upload import keep_mesh, named_mesh, seen_as
from texallon.formats.line_file import LARGEST_LINE_FILE, parse_line
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore


def make_meshes(store: ShotStore, files: FileStore) -> APIBlueprint:
    """The route under `/api/meshes`."""
    routes = APIBlueprint("meshes", __name__, url_prefix="/api/meshes", abp_tags=[Tag(name="meshes")])

    @routes.post("", responses={"201": MeshItem, "413": ProblemBody, "422": ProblemBody}, operation_id="bring_in_mesh")
    def bring_in_mesh() -> Response:
        """A form with `mesh` (OBJ, PLY, STL or GLB; particles as PLY or CSV): gives what a document names it by, how far it reaches, and what became of everything in it."""
        label, geometry, facts = keep_mesh(store, files, *named_mesh())
        response = jsonify(
            {
                "name": label,
                "geometry": geometry,
                "particles": seen_as(facts),
                **{key: facts[key] for key in ("triangles", "points", "attributes", "has_uv", "low", "high", "report")},
            }
        )
        response.status_code = 201
        return response

    @routes.post("/line", responses={"200": LineBody, "413": ProblemBody, "422": ProblemBody}, operation_id="read_line")
    def read_line() -> Response:
        """A form with `line` (CSV with the columns x, y, z and if wanted radius; or OBJ with a line element): gives the line for a tube. Nothing is kept."""
        request.max_content_length = LARGEST_LINE_FILE + 1_000_000
        sent = request.files.get("line")
        if sent is None or not sent.filename:
            return problem(422, "No file", "The form has no file named “line”.")
        data = sent.read(LARGEST_LINE_FILE + 1)
        return jsonify(asdict(parse_line(data, Path(sent.filename).suffix.lower().removeprefix("."))))

    return routes
