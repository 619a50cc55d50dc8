"""Where a worker keeps what it has fetched, and what it may need again."""

import os
import tempfile
from pathlib import Path


def kept_folder() -> Path:
    """A folder of this machine: as `TEXALLON_WORKER_FOLDER` says, else among the files that come and go."""
    return Path(
        os.environ.get("TEXALLON_WORKER_FOLDER") or Path(tempfile.gettempdir()) / f"texallon-worker-{os.getuid()}"
    )
