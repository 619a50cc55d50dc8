"""What a window's tasks work on: the shot at its time, and what has been done since the last change."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from pydantic import BaseModel

from texallon.core.derived import DerivedStore
from texallon.core.document.carried_looks import seen_through
from texallon.core.document.resolved import ResolvedShot
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.render.graph import FrameGraph
from texallon.engine.window import WindowState

Send = Callable[[type[BaseModel], dict[str, Any], bytes], None]
"""Sends a message of a kind to the window, with its members and bytes that follow."""


@dataclass
class Work:
    """One state of a window, until it changes."""

    window: WindowState
    epoch: int
    graph: FrameGraph
    later: ResolvedShot
    """The same document at the next frame."""
    send: Send
    wanted: Callable[[], bool]
    done: set[str] = field(default_factory=set)
    """Tasks that have nothing left to do for this state."""

    @property
    def shot(self) -> ResolvedShot:
        return self.graph.shot

    @property
    def store(self) -> DerivedStore:
        return self.graph.store

    @property
    def pool(self) -> ThreadPoolExecutor | None:
        return self.graph.pool

    def gbuffer(self, width: int, height: int, sample: int = 0, detail: float = 1.0) -> GBuffer:
        """What the window's camera sees, as points; volumes are cut where the window cuts them."""
        return self.graph.gbuffer(width, height, sample, detail, self.window.cut)

    def look_index(self, name: str) -> int:
        """A look's position; the first where there is none of that name."""
        names = [look.name for look in self.shot.looks]
        return names.index(name) if name in names else 0

    def seen_index(self, points: GBuffer, name: str) -> int:
        """The look on which one can be seen: itself, or one that carries it as a layer where nothing wears it; itself where neither is in sight."""
        index = self.look_index(name)
        through = seen_through(self.shot.looks, index)
        return next((each for each in through if len(points.batch(each).pixels)), index)


@dataclass
class LastShown:
    """The picture that a window was sent last: as light, and the finished one as it would be rendered."""

    light: np.ndarray | None = None
    plain: np.ndarray | None = None
    revision: int = 0
    samples: int = 0
