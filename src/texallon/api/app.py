"""Putting the server together."""

import logging

from flask import Response, jsonify
from flask_openapi3 import Info, OpenAPI
from pydantic import BaseModel

from texallon.api.background import make_background
from texallon.api.curves import make_curves
from texallon.api.fineness import make_fineness
from texallon.api.front import Front
from texallon.api.live import Live
from texallon.api.meshes import make_meshes
from texallon.api.packs import make_packs
from texallon.api.page import register_page
from texallon.api.pictures import make_pictures
from texallon.api.placing import make_placing
from texallon.api.portraits import Portraits
from texallon.api.problems import invalid, problem, register_problems
from texallon.api.projects import make_projects
from texallon.api.recordings import make_recordings
from texallon.api.render_queue import RenderQueue
from texallon.api.renders import make_renders
from texallon.api.security import Gate, register_security
from texallon.api.settings import Settings
from texallon.api.shelf import make_shelf
from texallon.api.shot_list import make_shot_list
from texallon.api.shots import make_shots
from texallon.api.upload import make_upload
from texallon.api.vocabulary import make_vocabulary
from texallon.api.voxels import make_voxels
from texallon.api.windows import NoPictureYetError, Windows
from texallon.engine.pool import EnginePool
from texallon.farm.vault import Vault
from texallon.formats.shot_files import ShotFiles
from texallon.store.data_folder import RESERVE, restored_at
from texallon.store.database import answers, connect
from texallon.store.files import FileStore
from texallon.store.renders import RenderStore
from texallon.store.shots import ShotStore
from texallon.store.thinning import thin


class DiskStatus(BaseModel):
    """Room on the disk that the data folder is on."""

    free: int
    nearly_full: bool


class Status(BaseModel):
    """How everything that was brought up is.

    `ready`: whether all of it is. `engine`: number of the first render process, where it runs; `engines`: those of all;
    `restarts`: how often one was started again.
    `database`: whether it answers.
    """

    ready: bool
    engine: int | None
    engines: list[int]
    restarts: int
    database: bool
    disk: DiskStatus


def bare_app() -> OpenAPI:
    """The application without its routes."""
    return OpenAPI(
        "texallon",
        info=Info(title="Texallon", version="0.1.0"),
        validation_error_status=422,
        validation_error_callback=invalid,
        static_folder=None,
        doc_ui=False,
    )


def make_queue(settings: Settings, store: ShotStore) -> RenderQueue:
    """The queue of frames, not yet begun."""
    vault = Vault(settings.render_store or str(settings.data))
    return RenderQueue(RenderStore(store.engine), vault, settings.farm, settings.data / "workers")


def make_app(
    settings: Settings,
    pool: EnginePool,
    store: ShotStore,
    files: FileStore,
    windows: Windows,
    gate: Gate,
    queue: RenderQueue,
) -> OpenAPI:
    """What answers requests, given what it works with."""
    app = bare_app()
    app.logger.setLevel(logging.INFO)
    register_security(app, gate)
    register_problems(app)
    app.register_api(make_projects(store, files))
    app.register_api(make_packs(store, files))
    app.register_api(make_shot_list(store, files, windows))
    app.register_api(make_shots(store, files, windows))
    app.register_api(make_curves(store))
    app.register_api(make_recordings())
    app.register_api(make_upload(store, files))
    app.register_api(make_meshes(store, files))
    app.register_api(make_pictures(store, files))
    app.register_api(make_voxels(store, files))
    app.register_api(make_placing(windows))
    app.register_api(make_shelf(store, files))
    app.register_api(make_background(store, files))
    app.register_api(make_renders(store, files, queue))
    app.register_api(make_fineness(store, ShotFiles(store=files.folder)))
    app.register_api(make_vocabulary(store, ShotFiles(store=files.folder)))
    register_page(app, settings)

    @app.errorhandler(NoPictureYetError)
    def _no_picture(error: NoPictureYetError) -> Response:
        return problem(409, "No picture yet", "The picture is still coming in; try again in a moment.")

    @app.get("/api/status", responses={"200": Status}, operation_id="get_status")
    def get_status() -> Response:
        """How the server, its render process, its database and its disk are."""
        return jsonify(find_status(pool, store, files).model_dump())

    return app


def find_status(pool: EnginePool, store: ShotStore, files: FileStore) -> Status:
    """Look at everything; may take seconds where the database does not answer."""
    running, database, free = pool.process_ids, answers(store.engine), files.free()
    disk = DiskStatus(free=free, nearly_full=free < RESERVE)
    return Status(
        ready=pool.all_run and database and not disk.nearly_full,
        engine=running[0] if running else None,
        engines=running,
        restarts=pool.restarts,
        database=database,
        disk=disk,
    )


def create_front() -> Front:
    """What the web server runs: settings come from the environment."""
    settings = Settings.from_environment()
    files = FileStore(settings.data / "files")
    pool = EnginePool(files.folder, settings.render_processes, settings.render_memory)
    store, windows = ShotStore(connect(settings.database), settings.quotas), Windows(pool)
    gate = Gate(settings.hosts, settings.origins, settings.proxy_secret)
    queue = make_queue(settings, store)
    app = make_app(settings, pool, store, files, windows, gate, queue)
    live = Live(store, windows, gate, settings.quotas.windows_of_one)
    return Front(
        app, live, gate, pool, lambda: find_status(pool, store, files).model_dump(), settings.base_path,
        lambda: thin(store.engine, settings.draft_days), lambda: restored_at(settings.data),
        Portraits(store, files).draw_next if settings.portraits else bool, queue,
    )  # fmt: skip
