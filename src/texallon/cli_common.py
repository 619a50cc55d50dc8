"""What all shell commands share: how they fail, how they read a shot, and kinds of options."""

from collections.abc import Callable
from pathlib import Path
from typing import Any, NoReturn

import click

from texallon.core.document import DocumentError, Shot, parse_json, read_shot
from texallon.core.geometry.mesh import MeshError
from texallon.formats.exr import PictureError

LONGEST = 400
"""Characters of a message: what was given may stand in it."""


def fail(message: str) -> NoReturn:
    """Say what is wrong in one line, and end with status 1."""
    line = " ".join(message.split())
    click.echo(f"texallon: {line if len(line) <= LONGEST else line[:LONGEST] + '…'}", err=True)
    raise SystemExit(1)


def plainly(work: Callable[[], None]) -> None:
    """Run, turning every expected kind of failure into one clear line and exit status 1."""
    try:
        work()
    except DocumentError as error:
        more = f" (and {len(error.problems) - 1} more)" if len(error.problems) > 1 else ""
        fail(f"{error.problems[0]}{more}")
    except (MeshError, PictureError, ValueError) as error:
        fail(str(error))
    except OSError as error:
        fail(f"{error.filename}: {error.strerror}" if error.filename and error.strerror else str(error))


def load_shot(path: Path) -> Shot:
    """A shot from a file, checked whole; raises `DocumentError` or `OSError`."""
    from texallon.core.signal.check_recipes import check_shot

    try:
        text = path.read_text(encoding="utf-8")
    except UnicodeDecodeError as error:
        raise ValueError(f"{path} is not a text file") from error
    shot = read_shot(parse_json(text))
    problems = check_shot(shot)
    if problems:
        raise DocumentError(problems)
    return shot


def size_of(text: str, shot: Shot) -> tuple[int, int]:
    """Pixels across and down, as `--size` says or the shot does; raises `ValueError`."""
    if not text:
        return shot.resolution
    parts = text.lower().split("x")
    if len(parts) != 2 or not all(part.isdigit() and 1 <= int(part) <= 16384 for part in parts):
        raise ValueError(f"--size {text}: write width x height in pixels, such as 640x360")
    return int(parts[0]), int(parts[1])


class Share(click.FloatRange):
    """A number from 0 to 1; NaN is none, though it is within no bounds and beyond none."""

    def __init__(self) -> None:
        super().__init__(0, 1)

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> float:
        number: float = super().convert(value, param, ctx)
        if number != number:
            self.fail(f"{value} is not a number from 0 to 1", param, ctx)
        return number


SOME_FAILED = 3
"""Status at the end where some frames of many could not be made."""

FRAME = click.IntRange(-1_000_000, 1_000_000)
