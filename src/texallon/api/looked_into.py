"""Keeping a file that a form brings, once a process of its own has looked into it."""

from typing import Any, NamedTuple

from texallon.api.people import who
from texallon.formats.look_into import look_into_file
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore


class Sent(NamedTuple):
    """A file as a form brings it: its name, its ending without the dot, and its bytes."""

    name: str
    kind: str
    data: bytes


class KeptFile(NamedTuple):
    """A file that is kept: its SHA-256, who brought it, and what is in it."""

    sha256: str
    author: str
    facts: dict[str, Any]


def keep_looked_into(store: ShotStore, files: FileStore, sent: Sent, module: str, seconds: float) -> KeptFile:
    """Look into a file by `python -m MODULE` and keep it; raises `UnusableFileError`, and keeps nothing then."""
    facts = look_into_file(module, sent.data, sent.kind, seconds)
    author = who().author
    with store.keeping_file(len(sent.data), author):
        digest = files.put(sent.data, f".{sent.kind}")
        store.remember_file(digest, sent.name, sent.kind, len(sent.data), author)
    return KeptFile(digest, author, facts)
