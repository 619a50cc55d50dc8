"""Shots as a list: which there are, their order, their pictures, and the bin."""

from dataclasses import asdict

from flask import Response, jsonify, send_file
from flask_openapi3 import APIBlueprint, Tag

from texallon.api.problems import ProblemBody, problem
from texallon.api.project_shapes import ListQuery, PictureRequest, ProjectName, ShotList, ShotPlace
from texallon.api.shapes import ShotPath
from texallon.api.windows import Windows
from texallon.formats.small_picture import small_png
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore


def make_shot_list(store: ShotStore, files: FileStore, windows: Windows) -> APIBlueprint:
    """The routes under `/api/shots` that are about the list."""
    routes = APIBlueprint("shot_list", __name__, url_prefix="/api/shots", abp_tags=[Tag(name="shots")])

    @routes.get("", responses={"200": ShotList}, operation_id="list_shots")
    def list_shots(query: ListQuery) -> Response:
        """The shots of all projects in their order, or of one; those in the bin where they are asked for."""
        return jsonify({"shots": [asdict(shot) for shot in store.list_shots(query.project, query.binned)]})

    @routes.post("/<int:shot_id>/place", responses={"204": None, "404": ProblemBody}, operation_id="move_shot")
    def move_shot(path: ShotPath, body: ShotPlace) -> Response:
        """Put a shot before another of its project, or last."""
        store.move_shot(path.shot_id, body.before)
        return Response(status=204)

    @routes.post("/<int:shot_id>/bin", responses={"204": None, "404": ProblemBody}, operation_id="bin_shot")
    def bin_shot(path: ShotPath) -> Response:
        """Put a shot into its project's bin."""
        store.bin_shot(path.shot_id, True)
        return Response(status=204)

    @routes.delete("/<int:shot_id>/bin", responses={"204": None, "404": ProblemBody}, operation_id="bring_shot_back")
    def bring_shot_back(path: ShotPath) -> Response:
        """Take a shot out of the bin."""
        store.bin_shot(path.shot_id, False)
        return Response(status=204)

    @routes.delete(
        "/<int:shot_id>/for-good",
        responses={"204": None, "404": ProblemBody, "409": ProblemBody},
        operation_id="delete_shot",
    )
    def delete_shot(path: ShotPath, query: ProjectName) -> Response:
        """Delete a shot that lies in the bin for good; `name` says once more which."""
        store.delete_shot(path.shot_id, query.name)
        return Response(status=204)

    @routes.post(
        "/<int:shot_id>/picture",
        responses={"204": None, "404": ProblemBody, "409": ProblemBody},
        operation_id="keep_shot_picture",
    )
    def keep_shot_picture(path: ShotPath, body: PictureRequest) -> Response:
        """Keep a window's picture, made small, as the shot's in lists."""
        head, picture = windows.picture(body.session, path.shot_id)
        small = small_png(picture)
        store.keep_picture(path.shot_id, files.put(small, ".png"), head["revision"])
        return Response(status=204)

    @routes.get("/<int:shot_id>/picture", responses={"404": ProblemBody}, operation_id="show_shot_picture")
    def show_shot_picture(path: ShotPath) -> Response:
        """A shot's small picture, as PNG."""
        digest = store.picture_of(path.shot_id)
        if digest is None:
            return problem(404, "No picture yet", "Nobody has looked at this shot yet.")
        return send_file(files.path(digest, ".png"), mimetype="image/png", max_age=31_536_000)

    return routes
