"""A folder of immutable files under their SHA-256."""

import hashlib
import os
import tempfile
from pathlib import Path


class FileStore:
    """Content-addressed files: the same bytes are kept once, and appear whole or not at all."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        folder.mkdir(parents=True, exist_ok=True)

    def path(self, sha256: str, suffix: str) -> Path:
        return self.folder / f"{sha256}{suffix}"

    def put(self, data: bytes, suffix: str) -> str:
        """Keep some bytes; gives their SHA-256."""
        digest = hashlib.sha256(data).hexdigest()
        target = self.path(digest, suffix)
        if not target.is_file():
            handle, name = tempfile.mkstemp(dir=self.folder, prefix=".part-")
            with os.fdopen(handle, "wb") as file:
                file.write(data)
            os.chmod(name, 0o644)
            os.replace(name, target)
        return digest
