"""Problems: what is wrong with a document, and exactly where (JSON Pointer, RFC 6901)."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

Path = tuple[str | int, ...]
"""Names of members and positions in lists, from the document inwards."""


def pointer(*path: str | int) -> str:
    """A JSON Pointer to a place in a document (RFC 6901).

    Parameters
    ----------
    *path : str or int
        Names of members and positions in lists.

    Examples
    --------
    >>> pointer("looks", 0, "a/b")
    '/looks/0/a~1b'
    """
    return "".join("/" + str(part).replace("~", "~0").replace("/", "~1") for part in path)


def tokens_of(path: str) -> list[str]:
    """The names and positions that a JSON Pointer goes by, as `pointer` takes them.

    Parameters
    ----------
    path : str
        A JSON Pointer.

    Examples
    --------
    >>> tokens_of("/looks/0/a~1b")
    ['looks', '0', 'a/b']
    """
    return [part.replace("~1", "/").replace("~0", "~") for part in path.split("/")[1:]]


@dataclass(frozen=True)
class Mend:
    """What would make a document right: a few words, and a JSON Patch for it as it stands, by positions."""

    label: str
    patch: tuple[dict[str, Any], ...]


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong.

    `pointer` says where, `reason` is a sentence for a person, and `hint` what would be right (a range, the nearest name).
    `character` is the place within a text that can't be read, counted from 0; `mends` are changes that are offered.
    """

    pointer: str
    reason: str
    hint: str = ""
    character: int | None = None
    mends: tuple[Mend, ...] = ()

    def __str__(self) -> str:
        text = f"{self.pointer or '/'}: {self.reason}"
        return f"{text} ({self.hint})" if self.hint else text


class DocumentError(ValueError):
    """A document that can't be used; carries every problem found."""

    def __init__(self, problems: Iterable[Problem]) -> None:
        self.problems: Sequence[Problem] = tuple(problems)
        super().__init__("; ".join(str(problem) for problem in self.problems))
