"""What is made in the background for a page: review sheets, and volumes as files of voxels."""

import sys
from typing import Literal

from flask import Response, jsonify, send_file
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from texallon.api.jobs import Job, JobBody, JobFilePath, JobPath, Jobs
from texallon.api.problems import ProblemBody, problem
from texallon.api.shapes import ShotPath
from texallon.core.document.base import Name
from texallon.core.render.volume_reading import AIR
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore

PICTURES_OF_A_SHEET = 15


class LookOf(BaseModel):
    look: Name


class VolumeFile(BaseModel):
    """What an object is filled with, or the `air`, at a frame, as voxel grids of so many cells along the longest side; more than 256 by the shell only."""

    object: Name
    frame: int = Field(ge=-1_000_000, le=1_000_000)
    cells: int = Field(128, ge=1, le=256)
    format: Literal["vdb", "npz"] = "vdb"


KINDS = {"png": "image/png", "exr": "image/x-exr", "vdb": "application/octet-stream", "npz": "application/zip"}
"""What the files of jobs are."""


class JobList(BaseModel):
    jobs: list[JobBody]


def make_background(store: ShotStore, files: FileStore) -> APIBlueprint:
    """The routes for jobs."""
    routes = APIBlueprint("background", __name__, url_prefix="/api", abp_tags=[Tag(name="jobs")])
    jobs = Jobs(files)
    python = [sys.executable, "-m"]

    def begun(job: Job) -> Response:
        response = jsonify(job.body())
        response.status_code = 202
        return response

    @routes.post(
        "/shots/<int:shot_id>/reviews", responses={"202": JobBody, "404": ProblemBody}, operation_id="begin_review"
    )
    def begin_review(path: ShotPath, body: LookOf) -> Response:
        """Begin a look's review sheet, of the shot as it is now: `sheet.png` and `parts.exr`."""
        document = store.current(path.shot_id).document
        if body.look not in [look["name"] for look in document["looks"]]:
            return problem(404, "Not found", f"The shot has no look “{body.look}”.")
        # What a person has named may hold braces, which would stand for files.
        look = body.look.replace("{", "{{").replace("}", "}}")
        command = [*python, "texallon.review", str(files.folder), look, "{sheet}", "{parts}"]
        out = {"sheet": "sheet.png", "parts": "parts.exr"}
        return begun(jobs.begin("review", path.shot_id, body.look, PICTURES_OF_A_SHEET, document, command, out))

    @routes.post(
        "/shots/<int:shot_id>/volume-files",
        responses={"202": JobBody, "404": ProblemBody},
        operation_id="begin_volume_file",
    )
    def begin_volume_file(path: ShotPath, body: VolumeFile) -> Response:
        """Begin writing what an object is filled with as voxel grids: `volume.vdb` or `volume.npz`."""
        document = store.current(path.shot_id).document
        if body.object != AIR and body.object not in [each["name"] for each in document["objects"]]:
            return problem(404, "Not found", f"The shot has no object “{body.object}”.")
        name = body.object.replace("{", "{{").replace("}", "}}")
        command = [*python, "texallon.bake", str(files.folder), str(body.frame), str(body.cells), name, "{out}"]
        out = {"out": f"volume.{body.format}"}
        return begun(jobs.begin("volume", path.shot_id, body.object, body.cells, document, command, out))

    @routes.get("/shots/<int:shot_id>/jobs", responses={"200": JobList}, operation_id="list_jobs")
    def list_jobs(path: ShotPath) -> Response:
        """A shot's jobs, newest last."""
        return jsonify({"jobs": [job.body() for job in jobs.of(path.shot_id)]})

    @routes.get("/jobs/<string:job_id>", responses={"200": JobBody, "404": ProblemBody}, operation_id="get_job")
    def get_job(path: JobPath) -> Response:
        """How far a job is."""
        return jsonify(jobs.find(path.job_id).body())

    @routes.delete("/jobs/<string:job_id>", responses={"204": None, "404": ProblemBody}, operation_id="stop_job")
    def stop_job(path: JobPath) -> Response:
        """Stop a job."""
        jobs.stop(path.job_id)
        return Response(status=204)

    @routes.get("/jobs/<string:job_id>/files/<string:file>", responses={"404": ProblemBody}, operation_id="job_file")
    def job_file(path: JobFilePath) -> Response:
        """A file that a job has made."""
        job = jobs.find(path.job_id)
        if path.file not in job.files:
            return problem(404, "Not ready", "There is no such file of this job, or not yet.")
        suffix = path.file[path.file.rindex(".") :]
        return send_file(
            files.path(job.files[path.file], suffix),
            mimetype=KINDS[suffix[1:]],
            download_name=f"{job.what} {path.file}",
        )

    return routes
