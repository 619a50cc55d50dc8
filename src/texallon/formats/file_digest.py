"""What tells a file's contents from all others."""

import hashlib
from pathlib import Path


def digest_of(path: Path) -> str:
    """SHA-256 of a file; raises `OSError`."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
