"""Placing by what is seen: lamps by their highlight or shadow, and things upon a surface."""

from flask import Response, jsonify
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from texallon.api.problems import ProblemBody, problem
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


class PlaceBody(BaseModel):
    """A place in metres."""

    position: list[float] = Field(min_length=3, max_length=3)


class RotationBody(BaseModel):
    """Degrees about x, then y, then z."""

    rotation: list[float] = Field(min_length=3, max_length=3)


def make_placing() -> APIBlueprint:
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

    @routes.post("/standing", responses={"200": RotationBody, "422": ProblemBody}, operation_id="place_standing")
    def place_standing(body: Surface) -> Response:
        """The rotation of what stands upright upon a surface."""
        return jsonify({"rotation": standing_rotation(body.normal)})

    return routes
