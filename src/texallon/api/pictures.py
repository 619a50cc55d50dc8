"""Pictures that masks and colours are read from: bringing one in, and listing those that are there."""

import re
from pathlib import Path

from flask import Response, jsonify, request, send_file
from flask_openapi3 import APIBlueprint, Tag

from texallon.api.looked_into import Sent, keep_looked_into
from texallon.api.problems import ProblemBody, problem
from texallon.api.shapes import PictureItem, PictureList, PicturePath
from texallon.formats.import_picture import SECONDS
from texallon.formats.look_into import UnusableFileError
from texallon.formats.picture_file import KINDS, LARGEST_FILE
from texallon.store.files import FileStore
from texallon.store.kept_beside import shortened
from texallon.store.shots import ShotStore

SHOWN = ("png", "jpg", "jpeg")
"""Kinds that every browser shows."""


def make_pictures(store: ShotStore, files: FileStore) -> APIBlueprint:
    """The routes under `/api/pictures`."""
    routes = APIBlueprint("pictures", __name__, url_prefix="/api/pictures", abp_tags=[Tag(name="pictures")])

    @routes.get("", responses={"200": PictureList}, operation_id="list_pictures")
    def list_pictures() -> Response:
        """All pictures, by name."""
        rows = store.files_of_kinds(KINDS)
        items = [
            {"name": row.name, "file": reference(row.name, row.sha256), "sha256": row.sha256, "author": row.author}
            for row in rows
        ]
        return jsonify({"pictures": items})

    @routes.get("/<string:sha256>/file", responses={"404": ProblemBody}, operation_id="show_picture")
    def show_picture(path: PicturePath) -> Response:
        """A PNG or JPEG as it was brought in, for a browser to show."""
        found = next((row for row in store.files_of_kinds(SHOWN) if row.sha256 == path.sha256), None)
        if found is None:
            return problem(404, "No such picture", "There is no PNG or JPEG picture of that digest.")
        kind = "image/png" if found.kind == "png" else "image/jpeg"
        response = send_file(files.path(found.sha256, f".{found.kind}"), mimetype=kind, max_age=31_536_000)
        response.headers["X-Content-Type-Options"] = "nosniff"
        return response

    @routes.post(
        "", responses={"201": PictureItem, "413": ProblemBody, "422": ProblemBody}, operation_id="bring_in_picture"
    )
    def bring_in_picture() -> Response:
        """A form with `picture` (PNG, JPEG, TIFF, EXR or HDR)."""
        request.max_content_length = LARGEST_FILE + 1_000_000
        sent = request.files.get("picture")
        if sent is None or not sent.filename:
            return problem(422, "No file", "The form has no file named “picture”.")
        name = shortened(Path(sent.filename).name, 200)
        kind = Path(name).suffix.lower().removeprefix(".")
        if kind not in KINDS:
            what = f"“{kind}”" if kind else "a file without an ending"
            return problem(
                422, "The picture can't be used", f"A picture comes as PNG, JPEG, TIFF, EXR or HDR, not as {what}."
            )
        try:
            kept = keep_looked_into(
                store, files, Sent(name, kind, sent.read()), "texallon.formats.import_picture", SECONDS + 30
            )
        except UnusableFileError as error:
            return problem(422, "The picture can't be used", str(error))
        digest, author, facts = kept
        response = jsonify({"name": name, "file": reference(name, digest), "sha256": digest, "author": author, **facts})
        response.status_code = 201
        return response

    return routes


def reference(name: str, digest: str) -> str:
    """The path by which documents call a picture: its name, made plain, with a piece of its digest."""
    stem = re.sub(r"[^A-Za-z0-9_ -]+", "-", Path(name).stem)[:60].strip("- ") or "picture"
    return f"pictures/{stem}-{digest[:8]}{Path(name).suffix.lower()}"
