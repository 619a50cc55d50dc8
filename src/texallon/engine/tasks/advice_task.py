"""Advice by the rules of the craft, anew in every state of the shot."""

from dataclasses import asdict

from texallon.core.advice.look_over import advice_on
from texallon.core.derived import Cost, Given
from texallon.engine.schedule import Importance
from texallon.engine.tasks.bench_task import SMALL
from texallon.engine.work import Work
from texallon.messages.to_page import AdviceMessage


class AdviceOnShot:
    """Sends what rules notice, where it is not what the window has."""

    name = "advice"
    cost, importance = Cost.SLOW, Importance.USEFUL

    def __init__(self) -> None:
        self._sent: tuple[str, int] | None = None

    def pending(self, work: Work) -> bool:
        return True

    def step(self, work: Work) -> None:
        points = work.gbuffer(*SMALL, detail=SMALL[0] / work.shot.resolution[0])
        wanted = advice_on.of(work.shot, work.later, Given(points, points.content_key))
        state = (wanted.content_key, work.window.forgotten)
        if self._sent != state:
            found = work.store.value(wanted)
            self._sent = state
            work.send(AdviceMessage, {"items": [asdict(each) for each in found]}, b"")
        work.done.add(self.name)
