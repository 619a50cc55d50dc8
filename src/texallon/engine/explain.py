"""What is computed for a shot, and what an edit computes anew: a window without a page, and the store's own account of it."""

from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from os import cpu_count
from typing import Any

from texallon.core.derived import Access, DerivedStore
from texallon.core.document.ids import by_id
from texallon.core.render.files import Files
from texallon.engine.session import Session
from texallon.messages.from_page import OpenRecipe, ReadMessage, ViewMessage

SIZE = (320, 180)
"""Of the picture that is made to be explained, pixels."""


@dataclass
class KindUse:
    """How often values of one kind were asked for: distinct ones that were computed, and that were reused."""

    kind: str
    computed: int = 0
    reused: int = 0
    seconds: float = 0.0
    bytes: int = 0


@dataclass
class Account:
    """Everything that a window asked the store for, in the order in which kinds were first asked for."""

    kinds: dict[str, KindUse] = field(default_factory=dict)
    _seen: set[str] = field(default_factory=set)

    def note(self, access: Access) -> None:
        """Take down one access; a value counts once."""
        use = self.kinds.setdefault(access.kind, KindUse(access.kind))
        if not access.reused:
            use.computed += 1
            use.seconds += access.seconds
            use.bytes += access.bytes
        elif access.key not in self._seen:
            use.reused += 1
        self._seen.add(access.key)

    @property
    def computed(self) -> set[str]:
        """The kinds of which any value was computed."""
        return {each.kind for each in self.kinds.values() if each.computed}


class ProblemError(ValueError):
    """The shot can't be shown, in a sentence for a person."""


class ExplainedWindow:
    """A window that shows a shot as a page would: the picture with its first sample, an open recipe, its look's sheet, a reading, advice.

    Parameters
    ----------
    files : Files
        Where the shot's files are read from.
    store : DerivedStore, optional
        One of its own unless given.
    """

    def __init__(self, files: Files, store: DerivedStore | None = None) -> None:
        self.store = DerivedStore() if store is None else store
        self._sent: list[dict[str, Any]] = []
        pool = ThreadPoolExecutor(cpu_count() or 1)
        self._session = Session("explain", 0, files, self.store, pool, lambda head, body: self._sent.append(head))

    def show(self, document: Mapping[str, Any], frame: int | None = None) -> Account:
        """Show a document, until there is nothing left to compute but more samples.

        Returns
        -------
        Account
            What was asked for, and what of it was kept from before.

        Raises
        ------
        ProblemError
            Where the document can't be shown.
        """
        account = Account()
        stop = self.store.listen(account.note)
        self._sent.clear()
        try:
            sampling = {**document.get("sampling", {}), "samples": 1}
            session = self._session
            session.new_document({**document, "sampling": sampling}, 0)
            width, height = SIZE
            session.said(ViewMessage(do="view", width=width, height=height, bench=first_recipe(document), frame=frame))
            session.said(ReadMessage(do="read", across=0.5, down=0.5))
            while not session.idle:
                session.advance(lambda: False)
        finally:
            stop()
        for message in self._sent:
            if message["kind"] == "problem":
                raise ProblemError(
                    "; ".join(f"{each['pointer'] or '/'}: {each['reason']}" for each in message["problems"])
                )
        return account


def first_recipe(document: Mapping[str, Any]) -> OpenRecipe:
    """The first recipe of a document's first look: its lowest layer's first channel, or its mask."""
    look = document["looks"][0]
    for index, layer in enumerate(look["layers"]):
        if layer.get("where"):
            return OpenRecipe(look=look["name"], recipe=by_id(document, ("looks", 0, "layers", index, "where")))
        for channel in layer.get("channels", {}):
            return OpenRecipe(
                look=look["name"], recipe=by_id(document, ("looks", 0, "layers", index, "channels", channel, "recipe"))
            )
    return OpenRecipe(look=look["name"])


def table(account: Account) -> list[str]:
    """An account as lines of text: kind, values computed and reused, milliseconds, megabytes."""
    lines = [f"{'derived value':<28}{'computed':>9}{'reused':>8}{'ms':>10}{'MB':>9}"]
    for use in account.kinds.values():
        seconds = f"{use.seconds * 1e3:.1f}" if use.computed else ""
        size = f"{use.bytes / 1e6:.2f}" if use.computed else ""
        lines.append(f"{use.kind:<28}{use.computed or '':>9}{use.reused or '':>8}{seconds:>10}{size:>9}")
    return lines
