"""Packs: a project or a shot as one file, out and in."""

import tempfile

from flask import Response, jsonify, request, send_file
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from texallon.api.people import who
from texallon.api.problems import ProblemBody, problem
from texallon.api.project_shapes import Made, ProjectPath
from texallon.api.shapes import ShotPath
from texallon.packing.manifest import LARGEST_PACK
from texallon.packing.with_store import pack_shots, unpack_shots
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore

HELD = 4_000_000
"""Bytes of a pack that are held in memory; more lie in a file."""


class UnpackQuery(BaseModel):
    """The project that the shots of a pack are added to; one of their own unless given."""

    into: int | None = Field(None, ge=1, le=2**31 - 1)


def make_packs(store: ShotStore, files: FileStore) -> APIBlueprint:
    """The routes under `/api/packs`."""
    routes = APIBlueprint("packs", __name__, url_prefix="/api/packs", abp_tags=[Tag(name="packs")])

    def packed(project: str, shots: list[int], name: str) -> Response:
        out = tempfile.SpooledTemporaryFile(HELD)  # noqa: SIM115 (closed by whoever sends it)
        pack_shots(store, files, project, shots, out)
        out.seek(0)
        return send_file(out, mimetype="application/zip", as_attachment=True, download_name=f"{name}.zip")

    @routes.get(
        "/project/<int:project_id>", responses={"404": ProblemBody, "422": ProblemBody}, operation_id="pack_project"
    )
    def pack_project(path: ProjectPath) -> Response:
        """All shots of a project with every file that they use, as a zip."""
        name = store.project_name(path.project_id)
        return packed(name, [each.id for each in store.list_shots(path.project_id)], name)

    @routes.get("/shot/<int:shot_id>", responses={"404": ProblemBody, "422": ProblemBody}, operation_id="pack_shot")
    def pack_shot(path: ShotPath) -> Response:
        """A shot with every file that it uses, as a zip."""
        current = store.current(path.shot_id)
        return packed(current.project, [path.shot_id], f"{current.project} {current.document['name']}")

    @routes.post("", responses={"201": Made, "413": ProblemBody, "422": ProblemBody}, operation_id="unpack")
    def unpack(query: UnpackQuery) -> Response:
        """A form with `pack`, a zip that was made here: its shots become a new project, or are added to one."""
        request.max_content_length = LARGEST_PACK
        sent = request.files.get("pack")
        if sent is None or not sent.filename:
            return problem(422, "No file", "The form has no file named “pack”.")
        project, shots = unpack_shots(store, files, sent.stream, who().author, query.into)
        response = jsonify({"id": project, "shot": shots[0]})
        response.status_code = 201
        return response

    return routes
