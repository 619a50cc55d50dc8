"""What the store of derived values holds, for the settings."""

from texallon.core.derived import Cost
from texallon.engine.schedule import Importance
from texallon.engine.work import Work
from texallon.messages.to_page import MemoryMessage

NOTICED = 1_000_000
"""Bytes by which it must have changed to be reported."""


class MemoryReport:
    """Told once a state, when it has changed."""

    name = "memory"
    cost, importance = Cost.SLOW, Importance.USEFUL

    def __init__(self) -> None:
        self._last_sent: tuple[int, int, int] | None = None

    def pending(self, work: Work) -> bool:
        return True

    def step(self, work: Work) -> None:
        work.done.add(self.name)
        store = work.store
        now = (store.bytes // NOTICED, store.budget, work.window.forgotten)
        if now == self._last_sent:
            return
        self._last_sent = now
        kinds = [{"kind": kind, "count": count, "bytes": size} for kind, (count, size) in store.holds().items()]
        work.send(MemoryMessage, {"budget": store.budget, "bytes": store.bytes, "kinds": kinds}, b"")
