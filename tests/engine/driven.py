"""A session that tests drive by plain messages, in the thread of the test."""

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from texallon.core.derived import DerivedStore
from texallon.core.render.files import Files
from texallon.engine.session import Session
from texallon.messages.from_page import FromPage

MESSAGES: TypeAdapter[Any] = TypeAdapter(FromPage)


class Driven(Session):
    """Keeps what it sends as `sent`."""

    def __init__(self, files: Files, store: DerivedStore | None = None) -> None:
        self.sent: list[dict[str, Any]] = []
        self.values = store or DerivedStore()
        super().__init__("t", 1, files, self.values, ThreadPoolExecutor(2), lambda head, body: self.sent.append(head))

    def change(self, message: dict[str, Any]) -> None:
        """Take in a document, or what a page would say."""
        if message["do"] == "document":
            self.new_document(message["document"], message["revision"])
        else:
            self.said(MESSAGES.validate_python(message))

    @property
    def light(self) -> np.ndarray | None:
        """The light of the picture shown last."""
        return self._shown.light

    def run(self, limit: int = 400) -> None:
        """Work until there is nothing left to do, or for so many pieces of work."""
        for _ in range(limit):
            if self.idle:
                return
            self.advance(lambda: False)
