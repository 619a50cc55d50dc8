"""What tells a document from others, in headers of files that were made from it."""

import hashlib
import json

from texallon.core.document import Shot, shot_json


def document_digest(shot: Shot) -> str:
    """SHA-256 of a shot's canonical JSON."""
    canonical = json.dumps(shot_json(shot), sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(canonical.encode()).hexdigest()
