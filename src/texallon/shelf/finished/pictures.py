"""The pictures of the looks that ship; they lie beside this file, and are drawn by `python -m texallon.shelf.draw`."""

from pathlib import Path

FOLDER = Path(__file__).parent / "pictures"


def picture_of(name: str) -> Path:
    """Where a look's picture lies."""
    return FOLDER / f"{name.replace(' ', '-')}.png"
