"""The cells of the look sheet: those that changed since the window was last sent them."""

from texallon.core.derived import Cost, Given
from texallon.engine.measure import draw_cell, sheet_plans
from texallon.engine.schedule import Importance
from texallon.engine.tasks.bench_task import SMALL
from texallon.engine.work import Work
from texallon.messages.to_page import Sheet


class SheetCells:
    """Remembers by key what the window has."""

    name = "sheet"
    cost, importance = Cost.SLOW, Importance.ON_SCREEN

    def __init__(self) -> None:
        self._sent: dict[str, str] = {}
        self._look = ""
        self._forgotten = 0

    def pending(self, work: Work) -> bool:
        return any(look.name == work.window.bench.look for look in work.shot.looks)

    def step(self, work: Work) -> None:
        name = work.window.bench.look
        if self._forgotten != work.window.forgotten or self._look != name:
            self._forgotten, self._look, self._sent = work.window.forgotten, name, {}
        index = work.look_index(name)
        points = work.gbuffer(*SMALL)
        given = Given(points, points.content_key)
        seen = work.seen_index(points, name)
        plans = sheet_plans(work.shot, work.shot.looks[index])
        drawn = {}
        for cell, plan in plans.items():
            wanted = draw_cell.of(given, seen, cell, plan)
            if self._sent.get(cell) != wanted.content_key:
                drawn[cell] = work.store.value(wanted)
                self._sent[cell] = wanted.content_key
        gone = [cell for cell in self._sent if cell not in plans]
        for cell in gone:
            del self._sent[cell]
        if drawn or gone:
            work.send(Sheet, {"look": name, "cells": drawn, "gone": gone}, b"")
        work.done.add(self.name)
