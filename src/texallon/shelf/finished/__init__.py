"""Finished looks that ship with Texallon: one file for each kind of material, each look a function that gives it with its tags and a note."""

from dataclasses import dataclass
from typing import Any

Json = dict[str, Any]


@dataclass(frozen=True)
class Finished:
    """A look as it ships: `look` and `signals` as plain JSON, tags to find it by, and what is to be known of it."""

    look: Json
    tags: tuple[str, ...]
    note: str
    signals: tuple[Json, ...] = ()

    @property
    def name(self) -> str:
        return str(self.look["name"])
