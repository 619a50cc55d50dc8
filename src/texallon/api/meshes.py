"""Meshes brought in to be added to shots: kept, looked into, and told of; the page then adds objects that consist of them."""

from pathlib import Path

from flask import Response, jsonify, request
from flask_openapi3 import APIBlueprint, Tag

from texallon.api.people import who
from texallon.api.problems import ProblemBody, problem
from texallon.api.shapes import MeshItem
from texallon.api.upload import look_into
from texallon.core.geometry.mesh import MeshError
from texallon.formats.mesh_file import KINDS, LARGEST_FILE
from texallon.store.files import FileStore
from texallon.store.kept_beside import shortened
from texallon.store.shots import ShotStore


def make_meshes(store: ShotStore, files: FileStore) -> APIBlueprint:
    """The route under `/api/meshes`."""
    routes = APIBlueprint("meshes", __name__, url_prefix="/api/meshes", abp_tags=[Tag(name="meshes")])

    @routes.post("", responses={"201": MeshItem, "413": ProblemBody, "422": ProblemBody}, operation_id="bring_in_mesh")
    def bring_in_mesh() -> Response:
        """A form with `mesh` (OBJ, PLY or GLB): gives what a document names it by, how far it reaches, and what became of everything in it."""
        request.max_content_length = LARGEST_FILE + 1_000_000
        sent = request.files.get("mesh")
        if sent is None or not sent.filename:
            return problem(422, "No file", "The form has no file named “mesh”.")
        name = shortened(Path(sent.filename).name, 200)
        kind = Path(name).suffix.lower().removeprefix(".")
        if kind not in KINDS:
            raise MeshError(f"a mesh comes as OBJ, PLY or GLB, not as “{kind or 'a file without an ending'}”")
        data = sent.read()
        facts = look_into(data, kind)
        author = who().author
        with store.keeping_file(len(data), author):
            digest = files.put(data, f".{kind}")
            store.remember_file(digest, name, kind, len(data), author)
        label = "".join(c for c in Path(name).stem if c.isprintable() and c not in "/\\")[:60].strip() or "mesh"
        response = jsonify(
            {
                "name": label,
                "geometry": {"file": f"uploads/{digest[:12]}.{kind}", "sha256": digest},
                **{key: facts[key] for key in ("triangles", "points", "attributes", "has_uv", "low", "high", "report")},
            }
        )
        response.status_code = 201
        return response

    return routes
