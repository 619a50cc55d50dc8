"""What a hand did while the shot played, as keys."""

from typing import Annotated

import numpy as np
from flask import Response, jsonify
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from texallon.api.problems import ProblemBody, problem
from texallon.core.document.base import Finite
from texallon.core.document.keys import Key
from texallon.core.document.recording import keys_of_recording

MOST_MOMENTS = 10_000


class HandMoved(BaseModel):
    """Values at frames, as a hand left them."""

    frames: list[Finite] = Field(min_length=2, max_length=MOST_MOMENTS)
    values: list[Annotated[list[Finite], Field(min_length=1, max_length=8)]] = Field(max_length=MOST_MOMENTS)
    smooth: float = Field(2.0, ge=0, le=200, description="Frames over which trembling is evened out.")
    tolerance: float | None = Field(
        None, ge=0, le=1e9, description="How far keys may lead from it; a hundredth of its extent unless given."
    )


class RecordedKeys(BaseModel):
    """Keys of each number; none where it stayed where it was."""

    keys: list[list[Key]]
    tolerance: float
    off: float


def make_recordings() -> APIBlueprint:
    """The route for movements by hand."""
    routes = APIBlueprint("recordings", __name__, url_prefix="/api/recordings", abp_tags=[Tag(name="shots")])

    @routes.post("", responses={"200": RecordedKeys, "422": ProblemBody}, operation_id="keys_of_recording")
    def keys_of(body: HandMoved) -> Response:
        """A movement by hand, smoothed and thinned to keys."""
        if len(body.values) != len(body.frames) or len({len(each) for each in body.values}) != 1:
            return problem(422, "Not a movement", "As many values as frames, of the same numbers each.")
        try:
            made = keys_of_recording(body.frames, np.array(body.values), body.smooth, body.tolerance)
        except ValueError as error:
            return problem(422, "Not a movement", f"It takes {error}.")
        return jsonify(RecordedKeys(keys=made.keys, tolerance=made.tolerance, off=made.off).model_dump())

    return routes
