"""Where workers find what they render from, and put what they have made: a folder, a shared one, or an object store.

Contents lie under their SHA-256 (`files/`), so that a worker that has one need not fetch it again; results under names (`renders/`). Any
file system of the `fsspec` library will do, by its URL.
"""

import hashlib
import os
import tempfile
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from functools import lru_cache
from pathlib import Path

import fsspec
from fsspec.implementations.local import LocalFileSystem

from texallon.formats.file_digest import digest_of

PART = ".part-"
"""How the names of files begin that are not whole yet."""


@lru_cache(maxsize=4096)
def _known_digest(path: str, changed: int, size: int) -> str:
    """Of a file that has not changed since, worked out once."""
    return digest_of(Path(path))


class VaultError(OSError):
    """Something that can't be fetched or put, in a sentence for a person."""


class Vault:
    """A place for contents and results, by a folder's path or a URL such as `s3://bucket/texallon`; results go to a place of their own where
    one is given."""

    def __init__(self, url: str, results: str = "") -> None:
        self.url = url
        try:
            self._fs, root = fsspec.core.url_to_fs(url)
            self._root = str(root).rstrip("/")
            if results:
                results_fs, results_root = fsspec.core.url_to_fs(results)
                if type(results_fs) is not type(self._fs):
                    raise ValueError("contents and results lie in file systems of one kind")
                self._results = str(results_root).rstrip("/")
            else:
                self._results = f"{self._root}/renders"
        except (ValueError, ImportError) as error:
            raise VaultError(f"“{(results or url)[:100]}” is no place for files: {error}") from error
        self.local = isinstance(self._fs, LocalFileSystem)
        """Whether paths in it can be opened as they are."""

    def put(self, data: bytes, suffix: str) -> str:
        """Keep some bytes; gives their SHA-256."""
        digest = hashlib.sha256(data).hexdigest()
        if not self._holds(digest, suffix):
            self._write(data, self._content(digest, suffix))
        return digest

    def put_file(self, path: Path, digest: str) -> None:
        """Keep a file that is known by its SHA-256; raises `VaultError` where it has another by now."""
        suffix = path.suffix.lower()
        if self._holds(digest, suffix):
            return
        data = path.read_bytes()
        if hashlib.sha256(data).hexdigest() != digest:
            raise VaultError(f"{path.name} is damaged: it does not have the digest that the document names")
        self._write(data, self._content(digest, suffix))

    def fetch(self, digest: str, suffix: str, kept: Path) -> Path:
        """A content as a file of this machine: fetched once into the folder `kept`; raises `FileNotFoundError` or `VaultError`."""
        there = self._content(digest, suffix)
        if self.local:
            if not Path(there).is_file():
                raise FileNotFoundError(f"{digest[:12]}…{suffix} is not in {self.url}")
            if not self._holds(digest, suffix):
                raise VaultError(f"{digest[:12]}…{suffix} is damaged in {self.url}")
            return Path(there)
        here = kept / f"{digest}{suffix}"
        if not here.is_file():
            data = self._read(there)
            if hashlib.sha256(data).hexdigest() != digest:
                raise VaultError(f"{digest[:12]}…{suffix} came damaged from {self.url}")
            kept.mkdir(parents=True, exist_ok=True)
            handle, name = tempfile.mkstemp(dir=kept)
            with os.fdopen(handle, "wb") as file:
                file.write(data)
            os.replace(name, here)
        return here

    def name_of(self, name: str) -> str:
        """Where a result lies, for `local` vaults a path."""
        return f"{self._results}/{name}"

    @contextmanager
    def opened(self, name: str) -> Iterator[Path]:
        """A result as a file of this machine, for as long as the block lasts; raises as `read`."""
        if self.local:
            if not Path(self.name_of(name)).is_file():
                raise FileNotFoundError(f"{self.name_of(name)} is not there")
            yield Path(self.name_of(name))
            return
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / Path(name).name
            path.write_bytes(self.read(name))
            yield path

    def read(self, name: str) -> bytes:
        """A result; raises `FileNotFoundError` or `VaultError`."""
        return self._read(self.name_of(name))

    def exists(self, name: str) -> bool:
        """Whether there is such a result."""
        return bool(self._fs.exists(self.name_of(name)))

    def write(self, name: str, data: bytes) -> None:
        """Put a result: under another name first, read back, then under its own. Raises `VaultError`."""
        self._write(data, self.name_of(name))

    def remove(self, name: str) -> None:
        """Remove a result, or a folder of them, where it is there."""
        if self.exists(name):
            self._fs.rm(self.name_of(name), recursive=True)

    def _holds(self, digest: str, suffix: str) -> bool:
        """Whether a content is there, and whole where that can be looked after in passing."""
        path = self._content(digest, suffix)
        if not self.local:
            return bool(self._fs.exists(path))
        try:
            found = os.stat(path)
            return _known_digest(path, found.st_mtime_ns, found.st_size) == digest
        except FileNotFoundError:
            return False

    def _content(self, digest: str, suffix: str) -> str:
        return f"{self._root}/files/{digest}{suffix}"

    def _read(self, path: str) -> bytes:
        try:
            data: bytes = self._fs.cat_file(path)
        except FileNotFoundError as error:
            raise FileNotFoundError(f"{path} is not there") from error
        except OSError as error:
            raise VaultError(f"{path} can't be read: {error}") from error
        return data

    def _write(self, data: bytes, path: str) -> None:
        folder, _, own = path.rpartition("/")
        # A name of its own also among several machines.
        temporary = f"{folder}/{PART}{uuid.uuid4().hex[:12]}-{own}"
        try:
            self._fs.makedirs(folder, exist_ok=True)
            self._fs.pipe_file(temporary, data)
            if self._fs.cat_file(temporary) != data:
                raise VaultError(f"{path}: what was written can't be read again")
            self._fs.mv(temporary, path)
        except OSError as error:
            try:
                self._fs.rm_file(temporary)
            except OSError:
                pass
            if isinstance(error, VaultError):
                raise
            raise VaultError(f"{path} can't be written: {error}") from error
