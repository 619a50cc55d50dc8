"""Files of voxel grids that volumes are made of: bringing one in, and listing those that are there."""

import re
from pathlib import Path

from flask import Response, jsonify, request
from flask_openapi3 import APIBlueprint, Tag

from texallon.api.looked_into import Sent, keep_looked_into
from texallon.api.problems import ProblemBody, problem
from texallon.api.shapes import GridList, PicturePath, VoxelFile, VoxelFileList
from texallon.formats.import_voxels import SECONDS
from texallon.formats.look_into import UnusableFileError
from texallon.formats.voxel_file import KINDS, list_grids
from texallon.formats.voxel_grids import LARGEST_FILE, VoxelError
from texallon.store.files import FileStore
from texallon.store.kept_beside import shortened
from texallon.store.shots import ShotStore

REFUSED = "The voxel grids can't be used"


def make_voxels(store: ShotStore, files: FileStore) -> APIBlueprint:
    """The routes under `/api/voxels`."""
    routes = APIBlueprint("voxels", __name__, url_prefix="/api/voxels", abp_tags=[Tag(name="voxels")])

    @routes.get("", responses={"200": VoxelFileList}, operation_id="list_voxel_files")
    def list_voxel_files() -> Response:
        """All files of voxel grids, by name."""
        items = [
            {"name": row.name, "file": reference(row.name, row.sha256), "sha256": row.sha256, "author": row.author}
            for row in store.files_of_kinds(KINDS)
        ]
        return jsonify({"files": items})

    @routes.get("/<string:sha256>/grids", responses={"200": GridList, "404": ProblemBody}, operation_id="list_grids")
    def grids_of(path: PicturePath) -> Response:
        """The grids of a file."""
        found = next((row for row in store.files_of_kinds(KINDS) if row.sha256 == path.sha256), None)
        if found is None:
            return problem(404, "No such file", "There is no file of voxel grids of that digest.")
        try:
            grids = list_grids(files.path(found.sha256, f".{found.kind}"))
        except (VoxelError, OSError) as error:
            return problem(422, REFUSED, str(error))
        return jsonify({"grids": [each._asdict() for each in grids]})

    @routes.post(
        "", responses={"201": VoxelFile, "413": ProblemBody, "422": ProblemBody}, operation_id="bring_in_voxels"
    )
    def bring_in_voxels() -> Response:
        """A form with `voxels` (OpenVDB, or NumPy's NPY or NPZ)."""
        request.max_content_length = LARGEST_FILE + 1_000_000
        sent = request.files.get("voxels")
        if sent is None or not sent.filename:
            return problem(422, "No file", "The form has no file named “voxels”.")
        name = shortened(Path(sent.filename).name, 200)
        kind = Path(name).suffix.lower().removeprefix(".")
        if kind not in KINDS:
            what = f"“{kind}”" if kind else "a file without an ending"
            return problem(422, REFUSED, f"Voxel grids come as OpenVDB (VDB) or NumPy (NPY, NPZ) files, not as {what}.")
        try:
            kept = keep_looked_into(
                store, files, Sent(name, kind, sent.read()), "texallon.formats.import_voxels", SECONDS + 30
            )
        except UnusableFileError as error:
            return problem(422, REFUSED, str(error))
        digest, author, facts = kept
        response = jsonify({"name": name, "file": reference(name, digest), "sha256": digest, "author": author, **facts})
        response.status_code = 201
        return response

    return routes


def reference(name: str, digest: str) -> str:
    """The path by which documents call a file of voxel grids: its name, made plain, with a piece of its digest."""
    stem = re.sub(r"[^A-Za-z0-9_ -]+", "-", Path(name).stem)[:60].strip("- ") or "voxels"
    return f"voxels/{stem}-{digest[:8]}{Path(name).suffix.lower()}"
