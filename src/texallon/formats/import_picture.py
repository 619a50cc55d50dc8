"""Look into a stranger's picture in a process of its own: `python -m texallon.formats.import_picture FILE`.

Prints one JSON object: its width, height and channels, or `error`. Memory and time are limited, so that a file made to exhaust
them only ends this process.
"""

import json
import resource
import sys
from pathlib import Path

MEMORY = 6_000_000_000
SECONDS = 60


def main() -> int:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    from texallon.formats.exr import PictureError
    from texallon.formats.picture_file import read_picture

    try:
        picture = read_picture(Path(sys.argv[1]), raw=True)
    except PictureError as error:
        print(json.dumps({"error": str(error)}))
        return 0
    except (MemoryError, RecursionError):
        print(json.dumps({"error": "the picture needs more memory than it is given"}))
        return 0
    height, width, channels = picture.shape
    print(json.dumps({"width": width, "height": height, "channels": channels}))
    return 0


if __name__ == "__main__":
    sys.exit(main())
