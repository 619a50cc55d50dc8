"""Print the server's OpenAPI description: `python -m texallon.api.describe`."""

import json
from pathlib import Path

from texallon.api.app import make_app
from texallon.api.settings import Settings
from texallon.engine.link import EngineLink
from texallon.store.database import connect
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore


def description() -> str:
    """The description as JSON; nothing is started or connected to."""
    nowhere = Path("/nonexistent")
    files = FileStore.__new__(FileStore)
    files.folder = nowhere
    store = ShotStore(connect("postgresql://localhost/none"))
    app = make_app(Settings(nowhere, "", 0, ()), EngineLink(nowhere), store, files)
    return json.dumps(app.api_doc, indent=1, sort_keys=True, ensure_ascii=False) + "\n"


if __name__ == "__main__":
    print(description(), end="")
