"""What tracks give over time, for the page to draw: values by frame, how fast they change, and the slopes at their keys."""

from collections.abc import Sequence
from itertools import pairwise

from flask import Response, jsonify
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from texallon.api.problems import ProblemBody
from texallon.api.shapes import ShotPath
from texallon.core.advice.too_fast import FAST
from texallon.core.document.keys import Key, slopes_at
from texallon.core.document.reading import read_shot
from texallon.core.document.shot import Frames
from texallon.core.document.track import Track
from texallon.store.shots import ShotStore

MOST_SAMPLES, MOST_IN_ALL = 2000, 100_000
"""Of a track, and of all: a longer shot, or one of very many tracks, is sampled less finely, as `step` says."""

MOST_TRIED = 200
"""Tracks that may be tried at once."""


class KeySlopes(BaseModel):
    """How steeply a curve comes to a key and leaves it, per frame."""

    before: float
    after: float


class Curve(BaseModel):
    """A track's values at frames that are `step` apart, from the shot's first to its last, and their change per second."""

    id: str
    at: str
    values: list[float]
    speeds: list[float] = Field(description="Per second, halfway to the next frame.")
    slopes: list[KeySlopes] = Field(description="At each key; none where a formula stands in the place of keys.")
    fastest: float = Field(description="Change per second beyond which it is too fast to watch.")


class Curves(BaseModel):
    revision: int
    first: int
    step: int
    curves: list[Curve]


class TriedTracks(BaseModel):
    """Tracks as they are in hand, not saved yet; those with a formula are left out."""

    frames: Frames
    tracks: list[Track] = Field(max_length=MOST_TRIED)


def make_curves(store: ShotStore) -> APIBlueprint:
    """The routes for curves."""
    routes = APIBlueprint("curves", __name__, url_prefix="/api", abp_tags=[Tag(name="shots")])

    @routes.get("/shots/<int:shot_id>/curves", responses={"200": Curves, "404": ProblemBody}, operation_id="get_curves")
    def get_curves(path: ShotPath) -> Response:
        """What each track of the shot as it is now gives over the shot's frames."""
        current = store.current(path.shot_id)
        shot = read_shot(current.document)
        return jsonify(_curves(current.revision, shot.frames, shot.tracks).model_dump())

    @routes.post("/curves", responses={"200": Curves, "422": ProblemBody}, operation_id="try_curves")
    def try_curves(body: TriedTracks) -> Response:
        """What tracks that are not saved would give over the frames of a shot."""
        return jsonify(_curves(0, body.frames, [each for each in body.tracks if _rises(each.keys)]).model_dump())

    return routes


def _rises(keys: Sequence[Key]) -> bool:
    """Whether there are keys and their frames rise: what is in hand may stand otherwise for a moment."""
    return bool(keys) and all(a.frame < b.frame for a, b in pairwise(keys))


def _curves(revision: int, frames: Frames, tracks: Sequence[Track]) -> Curves:
    first, last = frames.first, max(frames.last, frames.first)
    most = max(min(MOST_SAMPLES, MOST_IN_ALL // max(len(tracks), 1)), 2)
    step = -(-(last - first + 1) // most)
    sampled = range(first, last + 1, step)
    curves = []
    for track in tracks:
        values = [track.value(frame, frames.clock) for frame in sampled]
        speeds = [track.speed(frame + 0.5, frames.clock) for frame in sampled]
        low, high = track.bounds(frames.clock)
        slopes = [KeySlopes(before=into, after=out) for into, out in slopes_at(track.keys)]
        curves.append(
            Curve(
                id=track.id,
                at=track.at,
                values=values,
                speeds=speeds,
                slopes=slopes,
                fastest=FAST * max(high - low, 1e-9),
            )
        )
    return Curves(revision=revision, first=first, step=step, curves=curves)
