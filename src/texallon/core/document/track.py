"""Tracks: numbers of a shot that change over time, by keys or by a formula.

What stands in the document in a track's place stays what it is, as with named numbers; `resolve` puts the track's value over it. A track of a named number moves all that
uses it.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from math import isfinite
from typing import Any

from pydantic import Field, ValidationError, model_validator

from texallon.core.document.base import LARGEST
from texallon.core.document.ids import NOTHING, Identified, by_id, found_at
from texallon.core.document.keys import Beyond, Key, speed_at, value_at
from texallon.core.document.names import nearest
from texallon.core.document.number_use import PLACES, NumberUse
from texallon.core.document.problem import Problem, pointer, tokens_of
from texallon.core.document.put_number import put_number
from texallon.core.document.time_formula import Clock, TimeFormulaError, formula_bounds, parse_time_formula

MOVED = PLACES | {"atmosphere", "backdrop", "looks", "numbers", "signals"}
"""Members of a shot that hold numbers which may have keys."""

FIXED = frozenset({"frame", "seed", "version"})
"""Numbers that stay what they are."""


class Track(Identified):
    """Keys of one number of the shot, or a formula in their place."""

    at: str = Field(
        min_length=2,
        max_length=400,
        pattern="^/",
        description="JSON Pointer by ids, such as /objects/cd34/position/1 or /numbers/ef56/value.",
    )
    keys: list[Key] = Field(default_factory=list, max_length=10_000, description="Their frames rise.")
    formula: str | None = Field(
        None,
        min_length=1,
        max_length=1000,
        description="Of frame and time, in place of keys: such as 0.2 + 0.1 * sin(time * 3).",
    )
    before: Beyond = "hold"
    after: Beyond = "hold"

    @model_validator(mode="after")
    def _one_of_both(self) -> "Track":
        if bool(self.keys) == (self.formula is not None):
            raise ValueError("keys, or a formula in their place")
        return self

    def value(self, frame: float, clock: Clock) -> float:
        """The value at a frame.

        Parameters
        ----------
        frame : float
            Of the shot.
        clock : Clock
            The shot's frames.
        """
        if self.formula is None:
            return value_at(self.keys, frame, self.before, self.after)
        found = parse_time_formula(self.formula)(clock.at(frame))
        return found if isfinite(found) else self.bounds(clock)[0]

    def speed(self, frame: float, clock: Clock) -> float:
        """Change per second at a frame.

        Parameters
        ----------
        frame : float
            Of the shot.
        clock : Clock
            The shot's frames.
        """
        if self.formula is None:
            return speed_at(self.keys, frame, self.before, self.after) * clock.rate
        return (self.value(frame + 0.01, clock) - self.value(frame - 0.01, clock)) * clock.rate / 0.02

    def bounds(self, clock: Clock) -> tuple[float, float]:
        """The lowest and highest of its keys, or of what its formula gives over the shot.

        Parameters
        ----------
        clock : Clock
            The shot's frames.
        """
        if self.formula is not None:
            return formula_bounds(self.formula, clock)
        return min(key.value for key in self.keys), max(key.value for key in self.keys)


def with_tracks(
    members: Mapping[str, Any], tracks: Sequence[Track], value_of: Callable[[Track], float], clock: Clock
) -> dict[str, Any]:
    """Members of a shot with the values of tracks in their places.

    A value that its place can't have, as a slope overshoots or goes on beyond a limit, is held between the track's lowest and highest key.

    Parameters
    ----------
    members : mapping
        Parts of a shot by the names of its fields.
    tracks : sequence of Track
        Checked, as `track_problems` does.
    value_of : callable
        The value of a track.
    clock : Clock
        The shot's frames.
    """
    made = dict(members)
    for track in tracks:
        first, *rest = tokens_of(track.at)
        value = value_of(track)
        try:
            made[first] = put_number(made[first], rest, value)
        except ValidationError:
            low, high = track.bounds(clock)
            made[first] = put_number(made[first], rest, min(max(value, low), high))
    if tracks:
        made["camera"] = _apart(made["camera"])
        made["lights"] = [_apart(each) for each in made["lights"]]
    return made


def number_limits(members: Mapping[str, Any], tracks: Sequence[Track], clock: Clock) -> dict[str, tuple[float, float]]:
    """Between which values the keys of named numbers lie, by name.

    Parameters
    ----------
    members : mapping
        Parts of a shot by the names of its fields; of them `numbers`.
    tracks : sequence of Track
        Of the shot.
    clock : Clock
        The shot's frames.
    """
    at = {f"/numbers/{each.id}/value": each.name for each in members["numbers"]}
    return {at[track.at]: track.bounds(clock) for track in tracks if track.at in at}


def _apart(placed: Any) -> Any:
    """What faces its own position, as it may at a moment of its way, faces down from there."""
    if placed.position != placed.target:
        return placed
    x, y, z = placed.position
    return placed.model_copy(update={"target": (x, y - 1.0, z - 1e-3)})


def track_problems(
    members: Mapping[str, Any], tracks: Sequence[Track], uses: Sequence[NumberUse], clock: Clock
) -> Iterator[Problem]:
    """Tracks of what is not there or is no number, of what a named number drives, keys out of order, and values that a place can't have.

    Parameters
    ----------
    members : mapping
        Parts of a shot by the names of its fields.
    tracks : sequence of Track
        Of the shot.
    uses : sequence of NumberUse
        Of the shot.
    clock : Clock
        The shot's frames.
    """
    driven = {use.at for use in uses}
    taken = set[str]()
    for index, track in enumerate(tracks):
        at = pointer("tracks", index, "at")
        tokens = tokens_of(track.at)
        found = found_at(members, tokens)
        for number, (a, b) in enumerate(zip(track.keys, track.keys[1:], strict=False)):
            if b.frame <= a.frame:
                reason = f"the key at frame {b.frame:g} comes after the one at frame {a.frame:g}"
                yield Problem(
                    pointer("tracks", index, "keys", number + 1, "frame"), reason, "frames rise from key to key"
                )
                break
        amiss = _wrong_formula(track, clock)
        if amiss is not None:
            yield Problem(pointer("tracks", index, "formula"), *amiss)
        elif tokens[0] not in MOVED:
            yield Problem(at, f"“{tokens[0]}” has no numbers that can have keys", nearest(tokens[0], MOVED))
        elif "remembers" in tokens or "floats" in tokens:
            reason = "what is remembered depends on all frames, so its settings are the same in each"
            yield Problem(at, reason, "keys on the signal that it reads")
        elif found is NOTHING:
            yield Problem(
                at, f"there is nothing at {track.at}", "an address that goes by ids, of something that is there"
            )
        elif by_id(members, tuple(tokens)) != track.at:
            yield Problem(at, f"{track.at} does not go by ids", by_id(members, tuple(tokens)))
        elif isinstance(found, bool) or not isinstance(found, (int, float)) or tokens[-1] in FIXED:
            yield Problem(at, f"what stands at {track.at} is not a number that can have keys", "the place of a number")
        elif track.at in taken:
            yield Problem(at, f"there are keys for {track.at} already", "one track for each place")
        elif track.at in driven:
            yield Problem(
                at, f"a named number drives {track.at}", "keys of the named number, or a place that it does not drive"
            )
        else:
            taken.add(track.at)
            yield from _refused(members, tokens, track, index, clock)


def _wrong_formula(track: Track, clock: Clock) -> tuple[str, str] | None:
    """What is wrong with a formula, and what would be right."""
    if track.formula is None:
        return None
    try:
        parse_time_formula(track.formula)
    except TimeFormulaError as error:
        return str(error), "such as 0.2 + 0.1 * sin(time * 3)"
    low, high = track.bounds(clock)
    if not isfinite(low):
        return (
            "it gives no finite number at some frame of the shot",
            "nothing divided by 0, no root or logarithm below 0",
        )
    if max(abs(low), abs(high)) > LARGEST:
        return f"it gives {low:.3g} … {high:.3g}", f"values within ±{LARGEST:g}"
    return None


def _refused(
    members: Mapping[str, Any], tokens: list[str], track: Track, index: int, clock: Clock
) -> Iterator[Problem]:
    for end in dict.fromkeys(track.bounds(clock)):
        try:
            put_number(members[tokens[0]], tokens[1:], end)
        except ValidationError as error:
            reason = f"{' '.join(tokens[-2:])} can't be {end:.6g}"
            number = next((at for at, key in enumerate(track.keys) if key.value == end), None)
            at = (
                pointer("tracks", index, "formula")
                if number is None
                else pointer("tracks", index, "keys", number, "value")
            )
            yield Problem(at, reason, error.errors()[0]["msg"])
            return
