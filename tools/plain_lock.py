"""Take download and funding addresses out of the page's lock file: `python -m tools.plain_lock`."""

import json
from pathlib import Path

LOCK = Path(__file__).parents[1] / "web" / "package-lock.json"


def main() -> None:
    lock = json.loads(LOCK.read_text())
    for package in lock["packages"].values():
        package.pop("funding", None)
        package.pop("resolved", None)
    LOCK.write_text(json.dumps(lock, indent=2, ensure_ascii=False) + "\n")


if __name__ == "__main__":
    main()
