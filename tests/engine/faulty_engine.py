"""A render process that does what a shot's title says: raises, dies, or hangs. For tests only."""

import os
import time
from collections.abc import Callable

from texallon.engine import __main__ as engine
from texallon.engine.session import Session

advance = Session.advance


def misbehave(self: Session, preempted: Callable[[], bool]) -> None:
    title = self.window.document.get("title", "")
    if title == "dies":
        os._exit(9)
    if title == "hangs":
        time.sleep(1000)
    advance(self, preempted)


Session.advance = misbehave  # type: ignore[method-assign]
engine.warm_up = lambda: None  # type: ignore[attr-defined]

if __name__ == "__main__":
    engine.main()
