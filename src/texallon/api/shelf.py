"""The shelf of looks: what is on it, putting a shot's look there, and how a shot takes one."""

from typing import Annotated, Any

from flask import Response, jsonify, send_file
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from texallon.api.people import who
from texallon.api.problems import ProblemBody, problem
from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.document.shelf_item import ShelfItem, gathered, taken
from texallon.core.signal import sharing
from texallon.core.signal.placement import Places, written_out
from texallon.shelf.finished.all_looks import finished_looks
from texallon.shelf.finished.pictures import picture_of
from texallon.store.files import FileStore
from texallon.store.records import NotFoundError
from texallon.store.shelf import ShelfFullError, ShelfStore, Shelved
from texallon.store.shots import ShotStore

ShelfName = Annotated[str, Field(min_length=1, max_length=80)]
Tag_ = Annotated[str, Field(min_length=1, max_length=40)]


class ShelfPath(BaseModel):
    name: ShelfName


class ShelfLook(BaseModel):
    """A look on the shelf; one that ships can't be changed or taken away."""

    name: str
    version: int
    tags: list[str]
    note: str
    author: str
    ships: bool
    picture: str
    """Where its picture is, from the server's root; empty while there is none."""
    changed: str


class ShelfList(BaseModel):
    looks: list[ShelfLook]


class PutBody(BaseModel):
    """Which look of which shot is put on the shelf, words to find it by, and what is to be known of it."""

    shot: int
    look: ShelfName
    tags: list[Tag_] = Field(default_factory=list, max_length=16)
    note: Annotated[str, Field(max_length=2000)] = ""


class TakeBody(BaseModel):
    """Which shot takes it, whether it stays linked, and a look of the shot whose layers it takes the place of, if any."""

    shot: int
    linked: bool = False
    instead: Annotated[str, Field(max_length=80)] = ""


class TakeResult(BaseModel):
    """How the shot takes it: the name that the look has there, and JSON Patch operations."""

    look: str
    patch: list[dict[str, Any]]


def make_shelf(store: ShotStore, files: FileStore) -> APIBlueprint:
    """The routes under `/api/shelf`."""
    routes = APIBlueprint("shelf", __name__, url_prefix="/api/shelf", abp_tags=[Tag(name="shelf")])
    shelf = ShelfStore(store.engine)

    @routes.errorhandler(ShelfFullError)
    def _full(error: ShelfFullError) -> Response:
        return problem(409, "The shelf is full", str(error))

    @routes.get("", responses={"200": ShelfList}, operation_id="list_shelf")
    def list_shelf() -> Response:
        """Every look on the shelf: those that people put there, then those that ship."""
        return jsonify(
            {"looks": [_shown(each) for each in shelf.all()] + [_shipped(name) for name in finished_looks()]}
        )

    @routes.get("/<string:name>/picture", responses={"404": ProblemBody}, operation_id="show_shelf_picture")
    def show_shelf_picture(path: ShelfPath) -> Response:
        """The look on the test body, as PNG."""
        if path.name in finished_looks():
            return send_file(picture_of(path.name), mimetype="image/png", max_age=3600)
        found = shelf.find(path.name)
        if found.picture is None:
            return problem(404, "No picture yet", f"The picture of “{path.name}” is still to be made.")
        return send_file(files.path(found.picture, ".png"), mimetype="image/png", max_age=0)

    @routes.put(
        "/<string:name>", responses={"200": ShelfLook, "404": ProblemBody, "409": ProblemBody, "422": ProblemBody},
        operation_id="put_on_shelf",
    )  # fmt: skip
    def put_on_shelf(path: ShelfPath, body: PutBody) -> Response:
        """Put a look of a shot on the shelf under its name, with all that it is made from; one that is there becomes its next version."""
        if path.name in finished_looks():
            return problem(
                409, "That name ships", f"“{path.name}” is a look that ships with Texallon; choose another name."
            )
        document = store.current(body.shot).document
        places = Places(resolve(read_shot(document)))

        def place(kind: str, name: str) -> dict[str, Any]:
            return dict(written_out(places.locator(name) if kind == "locator" else places.object(name)))

        item = gathered(document, body.look, body.tags, body.note, sharing.signals_used, place)
        named = item.model_copy(
            update={"looks": [item.looks[0].model_copy(update={"name": path.name, "shelf": None}), *item.looks[1:]]}
        )
        return jsonify(_shown(shelf.put(named, who().author)))

    @routes.delete(
        "/<string:name>", responses={"204": None, "404": ProblemBody, "409": ProblemBody}, operation_id="take_off_shelf"
    )
    def take_off_shelf(path: ShelfPath) -> Response:
        """Take a look off the shelf; shots that took it keep what they have."""
        if path.name in finished_looks():
            return problem(409, "That look ships", f"“{path.name}” ships with Texallon and stays.")
        shelf.take_away(path.name)
        return Response(status=204)

    @routes.post(
        "/<string:name>/take",
        responses={"200": TakeResult, "404": ProblemBody, "422": ProblemBody},
        operation_id="take_from_shelf",
    )
    def take_from_shelf(path: ShelfPath, body: TakeBody) -> Response:
        """The change by which a shot takes a look, as a copy of its own or linked to the shelf; nothing is changed by asking."""
        if path.name in finished_looks():
            item, version = finished_item(path.name), 1
        else:
            found = shelf.find(path.name)
            item, version = found.item, found.version
        link = {"name": path.name, "version": version} if body.linked else None
        name, patch = taken(store.current(body.shot).document, item, sharing.rename, link, body.instead)
        return jsonify({"look": name, "patch": patch})

    return routes


def finished_item(name: str) -> ShelfItem:
    """A look that ships, as the shelf keeps them; raises `NotFoundError`."""
    found = finished_looks().get(name)
    if found is None:
        raise NotFoundError(f"there is no look “{name}” on the shelf")
    return ShelfItem.model_validate(
        {"looks": [found.look], "signals": list(found.signals), "tags": list(found.tags), "note": found.note}
    )


def _shown(each: Shelved) -> dict[str, Any]:
    address = f"api/shelf/{each.name}/picture?version={each.version}" if each.picture else ""
    return {
        "name": each.name, "version": each.version, "tags": each.item.tags, "note": each.item.note, "author": each.author,
        "ships": False, "picture": address, "changed": each.changed,
    }  # fmt: skip


def _shipped(name: str) -> dict[str, Any]:
    found = finished_looks()[name]
    return {
        "name": name, "version": 1, "tags": list(found.tags), "note": found.note, "author": "Texallon", "ships": True,
        "picture": f"api/shelf/{name}/picture", "changed": "",
    }  # fmt: skip
