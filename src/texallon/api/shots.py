"""Shots: reading, editing by patch, undo and redo, snapshots."""

from dataclasses import asdict
from typing import Any

from flask import Response, jsonify, request, send_file
from flask_openapi3 import APIBlueprint, Tag

from texallon.api.people import who
from texallon.api.problems import ProblemBody, problem
from texallon.api.shapes import (
    Anyway,
    ChangeList,
    EditBody,
    LayerName,
    RevisionBody,
    RevisionList,
    RevisionPath,
    RevisionQuery,
    ShotBody,
    ShotPath,
    SignalList,
    SignalName,
    SignalRename,
    SnapshotItem,
    SnapshotList,
    SnapshotName,
    SnapshotPath,
    SnapshotRequest,
)
from texallon.api.windows import Windows
from texallon.core.document.changes import changes
from texallon.core.shade.water_layer import expand_wetness
from texallon.store.files import FileStore
from texallon.store.records import Current
from texallon.store.shots import ShotStore
from texallon.store.tables import SnapshotRow

REFUSALS: dict[str, Any] = {"404": ProblemBody, "412": ProblemBody, "422": ProblemBody, "428": ProblemBody}


class RevisionNeededError(Exception):
    """A change came without `If-Match`, or with one that is no revision."""


def based_on() -> int:
    """The revision that the request's `If-Match` names, as a quoted number."""
    text = request.headers.get("If-Match", "").strip().removeprefix("W/").strip('"')
    if not (text.isascii() and text.isdigit()) or len(text) > 9:
        raise RevisionNeededError
    return int(text)


def shot_answer(current: Current, status: int = 200) -> Response:
    """A shot with its revision as `ETag`."""
    body = {
        "id": current.shot_id,
        "project": current.project,
        "revision": current.revision,
        "document": current.document,
        "can_undo": current.can_undo,
        "can_redo": current.can_redo,
        "undo_label": current.undo_label,
        "redo_label": current.redo_label,
    }
    response = jsonify(body)
    response.status_code = status
    response.set_etag(str(current.revision))
    return response


def make_shots(store: ShotStore, files: FileStore, windows: Windows) -> APIBlueprint:
    """The routes under `/api/shots`."""
    routes = APIBlueprint("shots", __name__, url_prefix="/api/shots", abp_tags=[Tag(name="shots")])

    @routes.errorhandler(RevisionNeededError)
    def _no_revision(error: RevisionNeededError) -> Response:
        return problem(428, "Which revision?", 'A change names the revision it was made against: If-Match: "7".')

    def saved(current: Current) -> Response:
        windows.changed(current.shot_id, current.revision, current.document)
        for other in current.also:
            theirs = store.current(other)
            windows.changed(other, theirs.revision, theirs.document)
        return shot_answer(current)

    @routes.get("/<int:shot_id>", responses={"200": ShotBody, "404": ProblemBody}, operation_id="get_shot")
    def get_shot(path: ShotPath) -> Response:
        """A shot as it stands."""
        return shot_answer(store.current(path.shot_id, who()))

    @routes.patch("/<int:shot_id>", responses={"200": ShotBody, **REFUSALS}, operation_id="edit_shot")
    def edit_shot(path: ShotPath, body: EditBody) -> Response:
        """Apply a JSON Patch made against the revision that `If-Match` names; what was changed since is merged in, or reported as a conflict."""
        operations = [each.model_dump(by_alias=True, exclude_unset=True) for each in body.patch]
        return saved(store.edit(path.shot_id, based_on(), operations, body.label, who()))

    @routes.post(
        "/<int:shot_id>/undo", responses={"200": ShotBody, "409": ProblemBody, **REFUSALS}, operation_id="undo"
    )
    def undo(path: ShotPath, query: Anyway) -> Response:
        """Take back the window's own last change. Where that touches more than its own work it is asked first; `anyway` answers."""
        return saved(store.undo(path.shot_id, who(), query.anyway))

    @routes.post(
        "/<int:shot_id>/redo", responses={"200": ShotBody, "409": ProblemBody, **REFUSALS}, operation_id="redo"
    )
    def redo(path: ShotPath, query: Anyway) -> Response:
        """Make the change again that the window has last taken back."""
        return saved(store.redo(path.shot_id, who(), query.anyway))

    @routes.get("/<int:shot_id>/signals", responses={"200": SignalList}, operation_id="list_signals")
    def list_signals(path: ShotPath) -> Response:
        """The project's shared signals, and where its shots use them."""
        found = store.signal_uses(path.shot_id)
        return jsonify(
            {"signals": [{"name": name, "uses": [asdict(use) for use in uses]} for name, uses in found.items()]}
        )

    @routes.post("/<int:shot_id>/signals/rename", responses={"200": ShotBody, **REFUSALS}, operation_id="rename_signal")
    def rename_signal(path: ShotPath, body: SignalRename) -> Response:
        """Call a shared signal by another name, in every shot of the project."""
        return saved(store.rename_signal(path.shot_id, body.name, body.to, who()))

    @routes.post("/<int:shot_id>/signals/inline", responses={"200": ShotBody, **REFUSALS}, operation_id="inline_signal")
    def inline_signal(path: ShotPath, body: SignalName) -> Response:
        """Take a shared signal away, its steps written out wherever the project's shots use it."""
        return saved(store.inline_signal(path.shot_id, body.name, who()))

    @routes.post("/<int:shot_id>/wetness/apart", responses={"200": ShotBody, **REFUSALS}, operation_id="expand_wetness")
    def take_wetness_apart(path: ShotPath, body: LayerName) -> Response:
        """Put a layer of coat, darkening and reflectivity in the place of a layer's wetness."""
        current = store.current(path.shot_id)
        patch = expand_wetness(current.document, body.look, body.layer)
        label = f"take the wetness of {body.layer} apart"
        return saved(store.edit(path.shot_id, current.revision, patch, label, who()))

    @routes.get("/<int:shot_id>/revisions", responses={"200": RevisionList}, operation_id="list_revisions")
    def list_revisions(path: ShotPath, query: RevisionQuery) -> Response:
        """The newest revisions, or those before one, newest first."""
        rows = store.revisions(path.shot_id, query.most, query.before)
        return jsonify({"revisions": [asdict(row) for row in rows]})

    @routes.get(
        "/<int:shot_id>/revisions/<int:number>",
        responses={"200": RevisionBody, "404": ProblemBody},
        operation_id="get_revision",
    )
    def get_revision(path: RevisionPath) -> Response:
        """A revision's document, and what it changed in words."""
        document = store.document(path.shot_id, path.number)
        said = store.changes_of(path.shot_id, path.number)
        return jsonify({"number": path.number, "document": document, "changes": said})

    @routes.post(
        "/<int:shot_id>/revisions/<int:number>/restore",
        responses={"200": ShotBody, **REFUSALS},
        operation_id="restore_revision",
    )
    def restore_revision(path: RevisionPath) -> Response:
        """Make a revision's document the current one; undo takes it back."""
        label = f"go back to revision {path.number}"
        return saved(store.restore(path.shot_id, based_on(), path.number, label, who()))

    @routes.get("/<int:shot_id>/snapshots", responses={"200": SnapshotList}, operation_id="list_snapshots")
    def list_snapshots(path: ShotPath) -> Response:
        """A shot's snapshots, oldest first."""
        return jsonify({"snapshots": [_item(row) for row in store.snapshots(path.shot_id)]})

    @routes.post(
        "/<int:shot_id>/snapshots",
        responses={"201": SnapshotItem, "409": ProblemBody, "404": ProblemBody},
        operation_id="keep_snapshot",
    )
    def keep_snapshot(path: ShotPath, body: SnapshotRequest) -> Response:
        """Keep a window's picture with the revision that made it."""
        head, picture = windows.picture(body.session, path.shot_id)
        author = who().author
        with store.keeping_file(len(picture), author):
            digest = files.put(picture, ".png")
            store.remember_file(digest, f"{body.name}.png", "picture", len(picture), author)
        number = store.add_snapshot(path.shot_id, head["revision"], body.name, head["samples"], digest, author)
        response = jsonify(_item(store.snapshot(path.shot_id, number)))
        response.status_code = 201
        return response

    @routes.patch(
        "/<int:shot_id>/snapshots/<int:snapshot_id>",
        responses={"200": SnapshotItem, "404": ProblemBody, "422": ProblemBody},
        operation_id="rename_snapshot",
    )
    def rename_snapshot(path: SnapshotPath, body: SnapshotName) -> Response:
        """Call a snapshot otherwise."""
        store.rename_snapshot(path.shot_id, path.snapshot_id, body.name)
        return jsonify(_item(store.snapshot(path.shot_id, path.snapshot_id)))

    @routes.get("/<int:shot_id>/snapshots/<int:snapshot_id>/picture", operation_id="snapshot_picture")
    def snapshot_picture(path: SnapshotPath) -> Response:
        """A snapshot's picture, as PNG."""
        row = store.snapshot(path.shot_id, path.snapshot_id)
        return send_file(files.path(row.picture, ".png"), mimetype="image/png", max_age=31_536_000)

    @routes.get(
        "/<int:shot_id>/snapshots/<int:snapshot_id>/changes",
        responses={"200": ChangeList, "404": ProblemBody},
        operation_id="snapshot_changes",
    )
    def snapshot_changes(path: SnapshotPath) -> Response:
        """What changed since a snapshot, a line for each difference."""
        row = store.snapshot(path.shot_id, path.snapshot_id)
        then = store.document(path.shot_id, row.revision)
        return jsonify({"changes": changes(then, store.current(path.shot_id).document)})

    @routes.post(
        "/<int:shot_id>/snapshots/<int:snapshot_id>/restore",
        responses={"200": ShotBody, **REFUSALS},
        operation_id="restore_snapshot",
    )
    def restore_snapshot(path: SnapshotPath) -> Response:
        """Make a snapshot's document the current one; undo takes it back."""
        row = store.snapshot(path.shot_id, path.snapshot_id)
        label = f"restore “{row.name}”"
        return saved(store.restore(path.shot_id, based_on(), row.revision, label, who()))

    return routes


def _item(row: SnapshotRow) -> dict[str, Any]:
    return {
        "id": row.id,
        "name": row.name,
        "revision": row.revision,
        "samples": row.samples,
        "created": row.created.isoformat(),
        "author": row.author,
        "picture": f"/api/shots/{row.shot_id}/snapshots/{row.id}/picture",
    }
