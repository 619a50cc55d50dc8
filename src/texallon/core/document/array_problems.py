"""What is wrong with an array that follows another object, or is of several."""

from collections.abc import Iterator, Sequence

from texallon.core.document.array import LineArray, OnOther
from texallon.core.document.body import Tube
from texallon.core.document.names import nearest
from texallon.core.document.object import Object
from texallon.core.document.problem import Problem, pointer


def array_problems(item: Object, index: int, objects: Sequence[Object]) -> Iterator[Problem]:
    """That a body is not there or twice; that what it follows is not there, is the object itself, or has no line.

    Parameters
    ----------
    item : Object
        Whose array is looked at.
    index : int
        Its position.
    objects : sequence of Object
        All of the shot.

    Yields
    ------
    Problem
        With a pointer to what is wrong.
    """
    named = {each.name: each for each in objects}
    for number, name in enumerate(item.bodies):
        here = pointer("objects", index, "bodies", number)
        if name not in named:
            yield Problem(here, f"there is no object “{name}”", nearest(name, named))
        elif name == item.name or name in item.bodies[:number]:
            yield Problem(here, f"“{name}” is among them already", "another object")
    if not isinstance(item.array, OnOther):
        return
    at = pointer("objects", index, "array", "object")
    other = named.get(item.array.object)
    if other is None:
        yield Problem(at, f"there is no object “{item.array.object}”", nearest(item.array.object, named))
    elif other is item:
        yield Problem(at, "copies can't stand on the object that they are copies of", "another object")
    elif isinstance(item.array, LineArray) and not isinstance(other.geometry, Tube):
        tubes = [each.name for each in objects if isinstance(each.geometry, Tube)]
        hint = "a tube: " + ", ".join(tubes[:12]) if tubes else "make a tube first"
        yield Problem(at, f"“{other.name}” is no tube: it has no line to stand along", hint)
