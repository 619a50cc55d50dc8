"""Placing by what is seen: lamps by their highlight or shadow, and things upon a surface."""

from typing import Annotated

from flask import Response, jsonify
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field, model_validator

from texallon.api.problems import ProblemBody, problem
from texallon.api.windows import Windows
from texallon.core.document.base import Positive, Vector
from texallon.core.render.light.placing import PlacingError, highlight_place, shadow_place, standing_rotation


class Highlight(BaseModel):
    """A point, the surface's normal there, where it is seen from, and how far the lamp is to be, metres."""

    point: Vector
    normal: Vector
    eye: Vector
    distance: Positive


class Shadow(BaseModel):
    """What casts the shadow, where that is to fall, and how far from what casts it the lamp is to be, metres."""

    edge: Vector
    shadow: Vector
    distance: Positive


class Surface(BaseModel):
    """The normal of a surface that something is to stand upon."""

    normal: Vector


class Dropped(BaseModel):
    """Objects that go down as one, or a point in the world where none are named; in which window's shot."""

    shot: int
    session: str = Field(min_length=1, max_length=64)
    objects: list[Annotated[str, Field(max_length=80)]] = Field(default_factory=list, max_length=4096)
    at: Vector | None = None

    @model_validator(mode="after")
    def _something(self) -> "Dropped":
        if bool(self.objects) == (self.at is not None):
            raise ValueError("name objects, or a point: one of the two")
        return self


class RestBody(BaseModel):
    """How far down it is, metres (negative: up), and the unit normal of the surface there."""

    metres: float
    normal: list[float] = Field(min_length=3, max_length=3)


class PlaceBody(BaseModel):
    """A place in metres."""

    position: list[float] = Field(min_length=3, max_length=3)


class RotationBody(BaseModel):
    """Degrees about x, then y, then z."""

    rotation: list[float] = Field(min_length=3, max_length=3)


def make_placing(windows: Windows) -> APIBlueprint:
    """The routes under `/api/placing`."""
    routes = APIBlueprint("placing", __name__, url_prefix="/api/placing", abp_tags=[Tag(name="placing")])

    @routes.errorhandler(PlacingError)
    def _nowhere(error: PlacingError) -> Response:
        return problem(422, "There is no such place", str(error))

    @routes.post("/highlight", responses={"200": PlaceBody, "422": ProblemBody}, operation_id="place_highlight")
    def place_highlight(body: Highlight) -> Response:
        """Where a lamp stands whose highlight is seen at a point."""
        return jsonify({"position": highlight_place(body.point, body.normal, body.eye, body.distance)})

    @routes.post("/shadow", responses={"200": PlaceBody, "422": ProblemBody}, operation_id="place_shadow")
    def place_shadow(body: Shadow) -> Response:
        """Where a lamp stands for one place to cast its shadow onto another."""
        return jsonify({"position": shadow_place(body.edge, body.shadow, body.distance)})

    @routes.post("/rest", responses={"200": RestBody, "404": ProblemBody, "422": ProblemBody}, operation_id="find_rest")
    def find_rest(body: Dropped) -> Response:
        """How far things go straight down until they rest on what is below."""
        head = windows.rest(body.session, body.shot, body.objects, body.at)
        if not head["ready"]:
            return problem(422, "It can't be found out", str(head.get("detail", "the window is gone")))
        if not head["found"]:
            return problem(422, "Nothing is below", "No other object that is shown lies below.")
        return jsonify({"metres": head["metres"], "normal": head["normal"]})

    @routes.post("/standing", responses={"200": RotationBody, "422": ProblemBody}, operation_id="place_standing")
    def place_standing(body: Surface) -> Response:
        """The rotation of what stands upright upon a surface."""
        return jsonify({"rotation": standing_rotation(body.normal)})

    return routes
