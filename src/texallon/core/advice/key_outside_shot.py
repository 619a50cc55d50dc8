"""A key that stands before the shot's first frame or after its last: nobody will see it."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Rule


class KeyOutsideShot(Rule):
    name: ClassVar[str] = "key outside the shot"
    about: ClassVar[str] = "What happens outside of a shot's frames is not seen (definition of a frame range)."

    def _check(self, facts: Facts) -> Iterator[Advice]:
        frames = facts.shot.frames
        for track in facts.shot.tracks:
            outside = [key.frame for key in track.keys if not frames.first <= key.frame <= frames.last]
            if not outside or "loop" in (track.before, track.after) or "ping-pong" in (track.before, track.after):
                continue
            keys = f"the key at frame {outside[0]:g} lies" if len(outside) == 1 else f"{len(outside)} keys lie"
            reason = f"Of what changes {track.at}, {keys} outside of the shot, which goes from {frames.first} to {frames.last}."
            yield Advice(self.name, "note", "", f"/tracks/{track.id}", f"keys · {track.at}", None, reason)
