"""Every failure as problem+json (RFC 9457), turned into words in this one place."""

import json
from dataclasses import asdict
from typing import Any

import psycopg
from flask import Flask, Response
from pydantic import BaseModel, ValidationError
from sqlalchemy.exc import DBAPIError, InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from werkzeug.exceptions import HTTPException

from texallon.core.document import DocumentError, pointer
from texallon.core.document.changes import in_words
from texallon.core.document.ids import NOTHING
from texallon.core.document.merge import Conflict
from texallon.core.geometry.mesh import MeshError
from texallon.engine.link import EngineUnavailableError
from texallon.packing.manifest import PackError
from texallon.store.files import DiskFullError
from texallon.store.projects import NameTakenError
from texallon.store.quotas import QuotaError
from texallon.store.records import AskFirstError, ConflictError, NotFoundError, NothingToDoError, StaleError

MOST_ITEMS = 40
"""Conflicts or uses that are listed at most."""

RETRY_AFTER = 2
"""Seconds after which to ask again while the database is started."""


class MendItem(BaseModel):
    """A change that would make it right: a JSON Patch for the document as it was refused, by positions."""

    label: str
    patch: list[dict[str, Any]]


class ProblemItem(BaseModel):
    """One thing that is wrong, and where (JSON Pointer)."""

    pointer: str
    reason: str
    hint: str = ""
    character: int | None = None
    mends: list[MendItem] = []


class ConflictItem(BaseModel):
    """A place that two have changed: its JSON Pointer by ids, what people call it, and what it was, is here, and is there (absent where there
    is nothing)."""

    pointer: str
    where: str
    was: Any = None
    mine: Any = None
    theirs: Any = None


class TouchItem(BaseModel):
    """Where another shot would change too."""

    shot_id: int
    shot: str
    look: str
    where: str


class ProblemBody(BaseModel):
    """RFC 9457; `problems` lists places in the document, `revision` is the current one after a stale edit, `conflicts` what two have
    changed, `touches` where other shots would change. `asks`: it is done where it is asked for again with `anyway`."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str = ""
    problems: list[ProblemItem] = []
    revision: int | None = None
    conflicts: list[ConflictItem] = []
    touches: list[TouchItem] = []
    asks: bool = False


def problem(status: int, title: str, detail: str = "", **more: Any) -> Response:
    """A problem+json answer."""
    body = ProblemBody(title=title, status=status, detail=detail, **more)
    text = json.dumps(body.model_dump(exclude_none=True), ensure_ascii=False)
    return Response(text, status, content_type="application/problem+json")


def invalid(error: ValidationError) -> Response:
    """What flask-openapi3 answers for a request that does not have the described form."""
    items = [ProblemItem(pointer=pointer(*each["loc"]), reason=each["msg"]) for each in error.errors()]
    return problem(422, "The request does not have the expected form", problems=items)


def _conflict_items(conflicts: tuple[Conflict, ...], document: Any) -> list[ConflictItem]:
    def plain(value: Any) -> Any:
        return None if value is NOTHING else value

    return [
        ConflictItem(
            pointer=each.pointer,
            where=in_words(document, each.pointer),
            was=plain(each.was),
            mine=plain(each.mine),
            theirs=plain(each.theirs),
        )
        for each in conflicts[:MOST_ITEMS]
    ]


def register_problems(app: Flask) -> None:
    """Handlers for what may go wrong anywhere."""

    @app.errorhandler(DocumentError)
    def _document(error: DocumentError) -> Response:
        items = [ProblemItem(**asdict(each)) for each in error.problems]
        return problem(
            422, f"This change does not fit: {error.problems[0].reason}", str(error.problems[0]), problems=items
        )

    @app.errorhandler(MeshError)
    def _mesh(error: MeshError) -> Response:
        return problem(422, "The mesh can't be used", str(error))

    @app.errorhandler(PackError)
    def _pack(error: PackError) -> Response:
        return problem(422, "The pack can't be used", f"{error}. Nothing was changed.")

    @app.errorhandler(StaleError)
    def _stale(error: StaleError) -> Response:
        where = f"it is at revision {error.current}, and the change was made at {error.based_on}"
        detail = f"Somebody changed the shot meanwhile: {where}."
        return problem(412, "The shot has changed meanwhile", detail, revision=error.current)

    @app.errorhandler(ConflictError)
    def _conflict(error: ConflictError) -> Response:
        return problem(
            409,
            "Somebody has changed the same meanwhile",
            "Your change was left out; what the other has made stands.",
            revision=error.current,
            conflicts=_conflict_items(error.conflicts, error.document),
            problems=[ProblemItem(**asdict(each)) for each in error.problems],
        )

    @app.errorhandler(AskFirstError)
    def _ask_first(error: AskFirstError) -> Response:
        uses = [
            TouchItem(shot_id=each.shot_id, shot=each.shot, look=each.look, where=each.where) for each in error.touches
        ]
        return problem(
            409,
            "This would touch what is not only yours",
            "Nothing was changed.",
            conflicts=_conflict_items(error.conflicts, error.document),
            touches=uses[:MOST_ITEMS],
            asks=True,
        )

    @app.errorhandler(NotFoundError)
    def _not_found(error: NotFoundError) -> Response:
        return problem(404, "Not found", str(error))

    @app.errorhandler(NameTakenError)
    def _name_taken(error: NameTakenError) -> Response:
        return problem(409, "Not done", f"{error}. Nothing was changed.")

    @app.errorhandler(NothingToDoError)
    def _nothing(error: NothingToDoError) -> Response:
        return problem(409, "Nothing to do", str(error))

    @app.errorhandler(EngineUnavailableError)
    def _engine(error: EngineUnavailableError) -> Response:
        response = problem(503, "The renderer is not ready", str(error))
        response.headers["Retry-After"] = str(RETRY_AFTER)
        return response

    @app.errorhandler(QuotaError)
    def _quota(error: QuotaError) -> Response:
        return problem(403, "A quota is used up", f"{error}. Nothing was changed.")

    @app.errorhandler(DiskFullError)
    def _disk(error: DiskFullError) -> Response:
        return problem(507, "The disk is full", f"{error.strerror}. Nothing was changed; make room and try again.")

    @app.errorhandler(DBAPIError)
    @app.errorhandler(PoolTimeoutError)
    def _database(error: Exception) -> Response:
        cause = getattr(error, "orig", None)
        if isinstance(cause, psycopg.errors.DiskFull):
            return problem(
                507, "The disk is full", "The database has no room. Nothing was changed; make room and try again."
            )
        if isinstance(cause, psycopg.errors.DataError):
            app.logger.warning("the database refused a value: %s", cause)
            return problem(422, "The database can't hold that", str(cause).split("\n")[0][:200])
        if not isinstance(error, (OperationalError, InterfaceError, PoolTimeoutError)) and not getattr(
            error, "connection_invalidated", False
        ):
            return _unexpected(error)
        app.logger.warning("the database does not answer: %s", str(error).split("\n")[0][:200])
        response = problem(503, "The database does not answer", "It is being started again; nothing was changed.")
        response.headers["Retry-After"] = str(RETRY_AFTER)
        return response

    @app.errorhandler(RecursionError)
    def _too_deep(error: RecursionError) -> Response:
        # Documents are bounded, so only what was sent can be so deep.
        return problem(422, "The request does not have the expected form", "It is nested too deep.")

    @app.errorhandler(HTTPException)
    def _http(error: HTTPException) -> Response:
        status = error.code or 500
        return problem(status, error.name, error.description or "")

    @app.errorhandler(Exception)
    def _unexpected(error: Exception) -> Response:
        app.logger.exception("unexpected error", exc_info=error)
        return problem(500, "Something went wrong in the server", "The server's log has the details.")
