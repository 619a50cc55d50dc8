"""Print the server's OpenAPI description: `python -m texallon.api.describe`."""

import json
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from texallon.api.app import make_app, make_queue
from texallon.api.security import Gate
from texallon.api.settings import Settings
from texallon.api.windows import Windows
from texallon.engine.pool import EnginePool
from texallon.messages.from_page import FromPage
from texallon.messages.to_page import ToPage
from texallon.store.database import connect
from texallon.store.files import FileStore
from texallon.store.shots import ShotStore


def description() -> str:
    """The description as JSON; nothing is started or connected to."""
    nowhere = Path("/nonexistent")
    files = FileStore.__new__(FileStore)
    files.folder = nowhere
    store = ShotStore(connect("postgresql://localhost/none"))
    pool = EnginePool(nowhere)
    settings = Settings(nowhere, "", 0, ())
    app = make_app(settings, pool, store, files, Windows(pool), Gate(()), make_queue(settings, store))
    described = app.api_doc
    described["components"]["schemas"] |= live_schemas()
    return json.dumps(described, indent=1, sort_keys=True, ensure_ascii=False) + "\n"


def live_schemas() -> dict[str, Any]:
    """Schemas of what goes over the live connection, both ways: `FromPage` and `ToPage` with all that they are made of."""
    found: dict[str, Any] = {}
    for name, union, mode in (("FromPage", FromPage, "validation"), ("ToPage", ToPage, "serialization")):
        schema = TypeAdapter(union).json_schema(ref_template="#/components/schemas/{model}", mode=mode)
        found |= schema.pop("$defs")
        found[name] = schema
    return found


if __name__ == "__main__":
    print(description(), end="")
