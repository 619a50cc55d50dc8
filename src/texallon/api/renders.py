"""Frames ordered from the page: orders, how far they are, their files, and the workers that make them."""

import io
import re
import tempfile
import zipfile
from typing import Any

from flask import Response, jsonify, send_file
from flask_openapi3 import APIBlueprint, Tag

from texallon.api.people import who
from texallon.api.problems import ProblemBody, problem
from texallon.api.render_queue import RenderHow, RenderQueue, folder_of
from texallon.api.render_shapes import (
    MOST_AT_ONCE,
    EstimateBody,
    FarmBody,
    FramesAgain,
    RenderBody,
    RenderChange,
    RenderFilePath,
    RenderFramePath,
    RenderList,
    RenderOrder,
    RenderPath,
    RenderQuery,
    body_of,
)
from texallon.api.shapes import ShotPath
from texallon.core.document import DocumentError, Shot, read_shot
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.needs import TooLargeError
from texallon.document_digest import document_digest
from texallon.farm.cluster import FarmError
from texallon.farm.order import put_shot
from texallon.farm.vault import VaultError
from texallon.formats.shot_files import ShotFiles
from texallon.frame_files import frames_of, plain_name
from texallon.store.files import FileStore
from texallon.store.records import Current
from texallon.store.renders import NewRender, Render, TooManyRendersError
from texallon.store.shots import ShotStore

KINDS = {"png": "image/png", "exr": "image/x-exr"}
REFUSALS: dict[str, Any] = {"404": ProblemBody, "422": ProblemBody}


def make_renders(store: ShotStore, files: FileStore, queue: RenderQueue) -> APIBlueprint:
    """The routes for orders of frames."""
    routes = APIBlueprint("renders", __name__, url_prefix="/api", abp_tags=[Tag(name="renders")])
    renders = queue.store

    def as_body(render: Render) -> dict[str, Any]:
        return body_of(render, queue)

    def prepared(shot_id: int, body: RenderOrder) -> tuple[Current, Shot, list[int], RenderHow, str] | Response:
        """What an order comes to: the shot, its frames, how they are made and its document's digest in the vault; or why it can't be."""
        current = store.current(shot_id)
        shot = read_shot(current.document)
        try:
            frames = frames_of(body.frames, shot)
        except ValueError as error:
            said = str(error).removeprefix("--frames").lstrip(": ")
            return problem(422, "No such frames", f"{said[:1].upper()}{said[1:]}.")
        if len(frames) > MOST_AT_ONCE:
            return problem(422, "Too many frames", f"At most {MOST_AT_ONCE} at once.")
        size = body.size or list(shot.resolution)
        if not all(16 <= each <= 8192 for each in size):
            return problem(422, "No such size", "Width and height are 16 to 8192 pixels.")
        how = RenderHow(
            size=size, samples=body.samples or shot.sampling.samples,
            noise=shot.sampling.noise if body.noise is None else body.noise, denoise=body.denoise, passes=body.passes,
            formats=body.formats, compression=body.compression, burn_in=body.burn_in,
        )  # fmt: skip
        try:
            document = put_shot(queue.vault, shot, ShotFiles(store=files.folder))
        except (FileNotFoundError, VaultError) as error:
            return problem(422, "A file is missing", f"{error}.")
        return current, shot, frames, how, document

    @routes.post("/shots/<int:shot_id>/renders", responses={"201": RenderBody, **REFUSALS}, operation_id="order_frames")
    def order_frames(path: ShotPath, body: RenderOrder) -> Response:
        """Order frames of a shot, as it is now."""
        found = prepared(path.shot_id, body)
        if isinstance(found, Response):
            return found
        current, shot, frames, how, document = found
        wanted = NewRender(
            path.shot_id, shot.name, current.revision, document, document_digest(shot), how.model_dump(mode="json"),
            frames, who().author, body.priority,
        )  # fmt: skip
        try:
            render = renders.order(wanted)
        except TooManyRendersError as error:
            return problem(422, "Too many orders", f"{error}.")
        queue.dispatcher.look()
        answer = jsonify(as_body(render))
        answer.status_code = 201
        return answer

    @routes.post(
        "/shots/<int:shot_id>/render-estimates",
        responses={"200": EstimateBody, "503": ProblemBody, **REFUSALS},
        operation_id="estimate_frames",
    )
    def estimate_frames(path: ShotPath, body: RenderOrder) -> Response:
        """What an order would take, by a few rows of its first, middle and last frame; answers when a worker has tried them."""
        found = prepared(path.shot_id, body)
        if isinstance(found, Response):
            return found
        _, shot, frames, how, document = found
        try:
            made = queue.estimate(how, frames, shot.name, document)
        except FarmError as error:
            return problem(503, "No worker", f"{error}.")
        except (DocumentError, MeshError, TooLargeError, OSError, ValueError) as error:
            return problem(422, "It can't be rendered", f"{str(error).splitlines()[0]}.")
        low, middle, high = made.frame
        answer = made._asdict() | {"frame": [round(each, 2) for each in (low, middle, high)], "frames": len(frames)}
        return jsonify(answer)

    @routes.get("/renders", responses={"200": RenderList}, operation_id="list_renders")
    def list_renders(query: RenderQuery) -> Response:
        """Orders, the newest first."""
        return jsonify({"renders": [as_body(each) for each in renders.newest(query.shot, query.count)]})

    @routes.get(
        "/renders/<int:render_id>", responses={"200": RenderBody, "404": ProblemBody}, operation_id="get_render"
    )
    def get_render(path: RenderPath) -> Response:
        """An order and its frames."""
        return jsonify(as_body(renders.find(path.render_id)))

    @routes.patch("/renders/<int:render_id>", responses={"200": RenderBody, **REFUSALS}, operation_id="change_render")
    def change_render(path: RenderPath, body: RenderChange) -> Response:
        """Pause an order, stop it, let it go on, or have it come sooner or later."""
        renders.change(path.render_id, body.state, body.priority)
        queue.dispatcher.look()
        return jsonify(as_body(renders.find(path.render_id)))

    @routes.post(
        "/renders/<int:render_id>/again", responses={"200": RenderBody, **REFUSALS}, operation_id="render_again"
    )
    def render_again(path: RenderPath, body: FramesAgain) -> Response:
        """Render frames again: those that are named, which loses their files, or those that failed or were stopped."""
        found = renders.find(path.render_id)
        known = {each.frame: each for each in found.frames}
        strange = [frame for frame in body.frames if frame not in known]
        if strange:
            return problem(422, "No such frame", f"The order has no frame {strange[0]}.")
        chosen = body.frames or [each.frame for each in found.frames if each.state in ("failed", "stopped")]
        for frame in body.frames:
            for name in known[frame].files:
                queue.vault.remove(f"{folder_of(found.id)}/{name}")
        renders.again(found.id, chosen)
        queue.dispatcher.look()
        return jsonify(as_body(renders.find(path.render_id)))

    @routes.delete("/renders/<int:render_id>", responses={"204": None, **REFUSALS}, operation_id="remove_render")
    def remove_render(path: RenderPath) -> Response:
        """Forget an order, and remove its files."""
        renders.remove(path.render_id)
        queue.dispatcher.look()
        queue.vault.remove(folder_of(path.render_id))
        return Response(status=204)

    @routes.get(
        "/renders/<int:render_id>/files/<string:file>", responses={"404": ProblemBody}, operation_id="render_file"
    )
    def render_file(path: RenderFilePath) -> Response:
        """A file of an order."""
        found = renders.find(path.render_id)
        if not any(path.file in each.files for each in found.frames):
            return problem(404, "Not ready", "There is no such file of this order, or not yet.")
        try:
            data = queue.vault.read(f"{folder_of(found.id)}/{path.file}")
        except FileNotFoundError:  # as after a backup is restored, which holds no frames
            return problem(404, "Gone", "The file is not there any more; render the frame again.")
        kind = KINDS[path.file.rpartition(".")[2]]
        return send_file(io.BytesIO(data), mimetype=kind, download_name=path.file)

    @routes.get(
        "/renders/<int:render_id>/thumbnails/<int(signed=True):frame>",
        responses={"404": ProblemBody},
        operation_id="render_thumbnail",
    )
    def render_thumbnail(path: RenderFramePath) -> Response:
        """A small picture of a frame."""
        found = next((each for each in renders.find(path.render_id).frames if each.frame == path.frame), None)
        if found is None or found.thumbnail is None:
            return problem(404, "No picture yet", "That frame has no picture yet.")
        return send_file(queue.vault.fetch(found.thumbnail, ".png", files.folder), mimetype="image/png")

    @routes.get("/renders/<int:render_id>/frames.zip", responses={"404": ProblemBody}, operation_id="render_zip")
    def render_zip(path: RenderPath) -> Response:
        """All files of an order that are there, in one."""
        found = renders.find(path.render_id)
        made = [name for each in found.frames if each.state == "done" for name in each.files]
        names = [name for name in made if queue.vault.exists(f"{folder_of(found.id)}/{name}")]
        if not names:
            return problem(404, "Not ready", "No frame of this order is done.")
        spooled = tempfile.TemporaryFile()  # noqa: SIM115 - Flask closes it when it is sent
        with zipfile.ZipFile(spooled, "w", zipfile.ZIP_STORED) as packed:
            for name in names:
                packed.writestr(name, queue.vault.read(f"{folder_of(found.id)}/{name}"))
        spooled.seek(0)
        return send_file(spooled, mimetype="application/zip", download_name=f"{plain_name(found.shot)} frames.zip")

    @routes.get("/renders/<int:render_id>/video.mp4", responses={**REFUSALS}, operation_id="render_video")
    def render_video(path: RenderPath) -> Response:
        """The frames of an order as a video, with shot, frame and digest in the lower edge where PNGs have them."""
        found = renders.find(path.render_id)
        missing = sum(each.state != "done" for each in found.frames)
        if missing:
            return problem(422, "Not ready", f"{missing} frames are not done.")
        try:
            name = queue.video(found)
        except FarmError as error:
            return problem(503, "No worker", f"{error}.")
        except (OSError, ValueError) as error:
            said = re.sub(r"^\S+: ", "", str(error))
            return problem(422, "No video", f"{said[:1].upper()}{said[1:]}.")
        with queue.vault.opened(name) as video:
            data = video.read_bytes()
        return send_file(io.BytesIO(data), mimetype="video/mp4", download_name=f"{plain_name(found.shot)}.mp4")

    @routes.get("/farm", responses={"200": FarmBody}, operation_id="get_farm")
    def get_farm() -> Response:
        """The workers that render frames."""
        # Others' machines are there already; this machine's own workers begin with the first frame.
        if queue.farm.address:
            queue.dispatcher.watch()
        found = queue.dispatcher.workers.items()
        workers = [{"name": name, "host": each["host"], "memory": each["memory"]} for name, each in found]
        refused = list(queue.dispatcher.refused)
        return jsonify(
            {
                "address": queue.farm.address,
                "workers": workers,
                "refused": refused,
                "trouble": queue.dispatcher.trouble,
            }
        )

    return routes
