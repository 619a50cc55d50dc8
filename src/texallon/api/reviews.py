"""Review sheets: begun, watched and fetched. One is made at a time, in a process of its own that takes what computing is left over."""

import json
import logging
import subprocess
import sys
import tempfile
import threading
import uuid
from collections import OrderedDict
from dataclasses import dataclass, field
from pathlib import Path

from flask import Response, jsonify, send_file
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from texallon.api.problems import ProblemBody, problem
from texallon.api.shapes import ShotPath
from texallon.core.document.base import Name
from texallon.store.files import FileStore
from texallon.store.records import NotFoundError
from texallon.store.shots import ShotStore
from texallon.supervise import end_with_parent

MOST_KEPT = 20
"""Sheets that are remembered; older ones can be made again."""

_log = logging.getLogger("texallon.reviews")


class LookOf(BaseModel):
    look: Name


class ReviewPath(BaseModel):
    review_id: str = Field(pattern=r"^[0-9a-f]{32}$")


class ReviewBody(BaseModel):
    """A review sheet: how many of its pictures are done, whether it is finished, and what went wrong, where something did."""

    id: str
    shot: int
    look: str
    done: int
    total: int
    ready: bool
    failed: str


@dataclass
class _Review:
    id: str
    shot: int
    look: str
    document: str
    done: int = 0
    total: int = 15
    ready: bool = False
    failed: str = ""
    sheet: str = ""
    parts: str = ""
    stopped: bool = False
    process: subprocess.Popen[str] | None = field(default=None, repr=False)

    def body(self) -> dict[str, object]:
        names = ReviewBody.model_fields
        return {name: getattr(self, name) for name in names}


class Reviews:
    """Sheets that are made, newest last."""

    def __init__(self, files: FileStore) -> None:
        self.files = files
        self._lock, self._turn = threading.Lock(), threading.Lock()
        self._kept: OrderedDict[str, _Review] = OrderedDict()

    def begin(self, shot: int, document: object, look: str) -> _Review:
        review = _Review(uuid.uuid4().hex, shot, look, json.dumps(document))
        with self._lock:
            self._kept[review.id] = review
            while len(self._kept) > MOST_KEPT:
                self._kept.popitem(last=False)
        threading.Thread(target=self._make, args=(review,), daemon=True).start()
        return review

    def find(self, review_id: str) -> _Review:
        with self._lock:
            if review_id not in self._kept:
                raise NotFoundError("that review sheet is not here any more; make it again")
            return self._kept[review_id]

    def stop(self, review_id: str) -> None:
        review = self.find(review_id)
        review.stopped = True
        if review.process is not None:
            review.process.terminate()

    def _make(self, review: _Review) -> None:
        with self._turn, tempfile.TemporaryDirectory() as folder:
            sheet, parts = Path(folder) / "sheet.png", Path(folder) / "sheet.exr"
            if review.stopped:
                review.failed = "stopped"
                return
            command = [
                sys.executable,
                "-m",
                "texallon.review",
                str(self.files.folder),
                review.look,
                str(sheet),
                str(parts),
            ]
            with (Path(folder) / "document.json").open("w+") as given, (Path(folder) / "errors").open("w+") as errors:
                given.write(review.document)
                given.seek(0)
                review.process = subprocess.Popen(
                    command, stdin=given, stdout=subprocess.PIPE, stderr=errors, text=True, preexec_fn=end_with_parent
                )
                assert review.process.stdout is not None
                for line in review.process.stdout:
                    done, _, total = line.partition(" ")
                    if done.isdigit() and total.strip().isdigit():
                        review.done, review.total = int(done), int(total)
                status = review.process.wait()
                errors.seek(0)
                said = errors.read().strip().splitlines()
            if status != 0:
                review.failed = (
                    "stopped" if review.stopped else (said[-1][:300] if said and status == 1 else "the renderer ended")
                )
                _log.warning("no review sheet: %s", review.failed)
                return
            review.sheet = self.files.put(sheet.read_bytes(), ".png")
            review.parts = self.files.put(parts.read_bytes(), ".exr")
            review.ready = True


def make_reviews(store: ShotStore, files: FileStore) -> APIBlueprint:
    """The routes for review sheets."""
    routes = APIBlueprint("reviews", __name__, url_prefix="/api", abp_tags=[Tag(name="reviews")])
    reviews = Reviews(files)

    @routes.post(
        "/shots/<int:shot_id>/reviews", responses={"202": ReviewBody, "404": ProblemBody}, operation_id="begin_review"
    )
    def begin_review(path: ShotPath, body: LookOf) -> Response:
        """Begin a look's review sheet, of the shot as it is now."""
        document = store.current(path.shot_id).document
        if body.look not in [look["name"] for look in document["looks"]]:
            return problem(404, "Not found", f"The shot has no look “{body.look}”.")
        response = jsonify(reviews.begin(path.shot_id, document, body.look).body())
        response.status_code = 202
        return response

    @routes.get(
        "/reviews/<string:review_id>", responses={"200": ReviewBody, "404": ProblemBody}, operation_id="get_review"
    )
    def get_review(path: ReviewPath) -> Response:
        """How far a review sheet is."""
        return jsonify(reviews.find(path.review_id).body())

    @routes.delete(
        "/reviews/<string:review_id>", responses={"204": None, "404": ProblemBody}, operation_id="stop_review"
    )
    def stop_review(path: ReviewPath) -> Response:
        """Stop making a review sheet."""
        reviews.stop(path.review_id)
        return Response(status=204)

    @routes.get("/reviews/<string:review_id>/sheet.png", responses={"404": ProblemBody}, operation_id="review_sheet")
    def review_sheet(path: ReviewPath) -> Response:
        """The sheet, as PNG."""
        review = reviews.find(path.review_id)
        if not review.ready:
            return problem(404, "Not ready", "The sheet is still being made.")
        return send_file(files.path(review.sheet, ".png"), mimetype="image/png", download_name=f"{review.look}.png")

    @routes.get("/reviews/<string:review_id>/parts.exr", responses={"404": ProblemBody}, operation_id="review_parts")
    def review_parts(path: ReviewPath) -> Response:
        """Every picture of the sheet as a part of one OpenEXR file, scene-linear."""
        review = reviews.find(path.review_id)
        if not review.ready:
            return problem(404, "Not ready", "The sheet is still being made.")
        return send_file(
            files.path(review.parts, ".exr"),
            mimetype="image/x-exr",
            as_attachment=True,
            download_name=f"{review.look}.exr",
        )

    return routes
