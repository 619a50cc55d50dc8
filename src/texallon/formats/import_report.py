"""What became of everything in a file that was brought in: kept, made, changed or dropped, and why."""

from dataclasses import asdict, dataclass, field
from typing import Literal

Outcome = Literal["kept", "made", "changed", "dropped"]
MOST_LINES = 60
"""Lines of one kind; a file with a thousand attributes is summed up after that."""


@dataclass
class ImportReport:
    """A line for each thing in a file, in words for a person, under what became of it.

    `kept` came in as it was; `made` was missing and is worked out; `changed` came in otherwise than it lay in the file; `dropped`
    did not come in.
    """

    kept: list[str] = field(default_factory=list)
    made: list[str] = field(default_factory=list)
    changed: list[str] = field(default_factory=list)
    dropped: list[str] = field(default_factory=list)

    def add(self, outcome: Outcome, line: str) -> None:
        """Say one thing once.

        Parameters
        ----------
        outcome : {"kept", "made", "changed", "dropped"}
            What became of it.
        line : str
            What it is, and why where that is not plain; at most 300 characters of it are kept.
        """
        lines: list[str] = getattr(self, outcome)
        line = "".join(c if c.isprintable() else "�" for c in line)[:300]
        if line in lines or len(lines) > MOST_LINES:
            return
        lines.append(line if len(lines) < MOST_LINES else "and more of the kind")

    def as_json(self) -> dict[str, list[str]]:
        """The lists under their names."""
        return asdict(self)


def count(number: int, one: str, many: str | None = None) -> str:
    """A number with its noun: `1 face`, `12,000 faces`."""
    return f"{number:,} {one if number == 1 else many or one + 's'}"
