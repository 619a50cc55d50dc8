"""Problems: what is wrong with a document, and exactly where (JSON Pointer, RFC 6901)."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass


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


@dataclass(frozen=True)
class Problem:
    """One thing that is wrong.

    `pointer` says where, `reason` is a sentence for a person, and `hint` what would be right (a range, the nearest name).
    `character` is the place within a text that can't be read, counted from 0.
    """

    pointer: str
    reason: str
    hint: str = ""
    character: int | None = None

    def __str__(self) -> str:
        text = f"{self.pointer or '/'}: {self.reason}"
        return f"{text} ({self.hint})" if self.hint else text


class DocumentError(ValueError):
    """A document that can't be used; carries every problem found."""

    def __init__(self, problems: Iterable[Problem]) -> None:
        self.problems: Sequence[Problem] = tuple(problems)
        super().__init__("; ".join(str(problem) for problem in self.problems))
