"""What is wrong with what an object remembers."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from texallon.core.document.object import Object
from texallon.core.document.problem import Problem, pointer
from texallon.core.document.remembered import remembered_names

if TYPE_CHECKING:
    from texallon.core.document.shot import Frames

MOST_FRAMES = 20_000
"""Of a shot in which something remembers: each is looked at."""


def remembered_problems(item: Object, index: int, frames: "Frames") -> Iterator[Problem]:
    """Names that stand for two attributes, points that differ from frame to frame, copies that are none, and shots that are too long.

    Parameters
    ----------
    item : Object
        Whose remembered attributes are looked at.
    index : int
        Its position.
    frames : Frames
        Of the shot.

    Yields
    ------
    Problem
        With a pointer to what is wrong.
    """
    taken: dict[str, str] = {}
    for number, each in enumerate(item.remembers):
        here = ("objects", index, "remembers", number)
        for name in remembered_names(each):
            if name in taken:
                reason = f"“{name}” is an attribute that “{taken[name]}” gives already"
                yield Problem(pointer(*here, "name"), reason, "another name")
                break
            taken[name] = each.name
        if each.of == "copies" and item.array is None:
            yield Problem(pointer(*here, "of"), f"“{item.name}” has no copies", "surface, or give it an array")
        if each.of == "surface" and item.subdivision is not None and item.subdivision.edge_pixels is not None:
            reason = f"“{each.name}” is remembered at points of “{item.name}”, whose number changes with the camera"
            hint = "leave edge_pixels out, so that its levels are the same in each frame"
            yield Problem(pointer("objects", index, "subdivision", "edge_pixels"), reason, hint)
        if each.of == "surface" and item.particles is not None:
            reason = f"“{item.name}” is seen as particles, which come and go"
            yield Problem(pointer(*here, "of"), reason, "an object with faces")
    count = frames.last - frames.first + 1
    if item.remembers and count > MOST_FRAMES:
        reason = f"“{item.name}” would remember {count:,} frames"
        yield Problem(pointer("frames", "last"), reason, f"at most {MOST_FRAMES:,} frames where something remembers")
