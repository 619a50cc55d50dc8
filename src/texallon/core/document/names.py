"""Looking things up by name, and suggesting the nearest name where there is none."""

from collections.abc import Iterable
from difflib import get_close_matches


def nearest(wanted: str, known: Iterable[str]) -> str:
    """A hint for a name that does not exist: the nearest known one, or all of them where none is near.

    Parameters
    ----------
    wanted : str
        The name that does not exist.
    known : sequence of str
        Those that do.
    """
    names = sorted(known)
    close = get_close_matches(wanted, names, n=1, cutoff=0.5)
    if close:
        return f"did you mean “{close[0]}”?"
    return "there is none yet" if not names else "there are: " + ", ".join(names[:12])


def duplicates(names: Iterable[str]) -> list[int]:
    """The positions at which a name stands for the second time or more.

    Parameters
    ----------
    names : sequence of str
        In their order.
    """
    seen: set[str] = set()
    again = []
    for index, name in enumerate(names):
        if name in seen:
            again.append(index)
        seen.add(name)
    return again
