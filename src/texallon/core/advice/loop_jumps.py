"""Keys that are looped and end at another value than they begin with: once a turn everything jumps."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Fix, Rule

SMALL = 0.01
"""Of the range of the keys: less is not seen."""


class LoopJumps(Rule):
    name: ClassVar[str] = "loop that jumps"
    about: ClassVar[str] = "A loop closes where its last value is its first (definition of a period)."

    def _check(self, facts: Facts) -> Iterator[Advice]:
        for number, track in enumerate(facts.shot.tracks):
            if not track.keys:
                continue
            apart = abs(track.keys[-1].value - track.keys[0].value)
            low, high = track.bounds(facts.shot.frames.clock)
            if "loop" not in (track.before, track.after) or apart <= SMALL * (high - low):
                continue
            if _turns_round(track.at, apart):
                continue
            sides = [side for side in ("before", "after") if getattr(track, side) == "loop"]
            patch = tuple({"op": "replace", "path": f"/tracks/{number}/{side}", "value": "ping-pong"} for side in sides)
            reason = f"What changes {track.at} ends {apart:.3g} away from where it begins, and is looped: it jumps once a turn."
            fix = Fix("go back and forth", patch)
            yield Advice(self.name, "warning", "", f"/tracks/{track.id}", f"keys · {track.at}", None, reason, fix)


def _turns_round(at: str, apart: float) -> bool:
    """Whether it is an angle that comes round to where it began."""
    return "rotation" in at and abs(apart / 360 - round(apart / 360)) < 1e-6
