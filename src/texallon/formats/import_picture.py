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


def check_whole(path: Path) -> None:
    """Refuse a JPEG or PNG that ends too early: its reader fills the rest with grey without a word. Raises `PictureError`."""
    from PIL import Image

    from texallon.formats.exr import PictureError

    if path.suffix.lower() not in (".jpg", ".jpeg", ".png"):
        return
    Image.MAX_IMAGE_PIXELS = None  # it was measured before
    try:
        with Image.open(path) as opened:
            opened.load()
    except (OSError, SyntaxError, ValueError) as error:
        raise PictureError("the file is cut short or damaged") from error
    # All pixels may be there without the end that the format asks for (ISO/IEC 15948, 11.2.5).
    if path.suffix.lower() == ".png":
        with path.open("rb") as file:
            file.seek(max(path.stat().st_size - 4096, 0))
            if b"IEND" not in file.read():
                raise PictureError("the file is cut short")


def main() -> int:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    from texallon.formats.exr import PictureError
    from texallon.formats.picture_file import read_picture

    path = Path(sys.argv[1])
    try:
        picture = read_picture(path, raw=True)
        check_whole(path)
    except PictureError as error:
        # The file's name is one of ours for the moment, and nobody's business.
        print(json.dumps({"error": str(error).replace(str(path), "the file").replace(path.name, "the file")}))
        return 0
    except (MemoryError, RecursionError):
        print(json.dumps({"error": "the picture needs more memory than it is given"}))
        return 0
    height, width, channels = picture.shape
    print(json.dumps({"width": width, "height": height, "channels": channels}))
    return 0


if __name__ == "__main__":
    sys.exit(main())
