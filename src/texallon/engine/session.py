"""One window's work: the state it shows, and the next piece of what is still to be done for it.

Any change starts again from the first picture, but whatever the change did not touch lies in the store of derived values and is
found there.
"""

import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict
from typing import Any

import numpy as np
from pydantic import BaseModel

from texallon.core.derived import Cost, DerivedStore, Interrupted, ReportProgress, interruptible, report_progress_to
from texallon.core.document import DocumentError, Problem, read_shot
from texallon.core.document.base import Vector
from texallon.core.document.resolved import resolve
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.files import Files
from texallon.core.render.graph import FrameGraph
from texallon.core.render.needs import check_needs, held, reckon, volumes_of
from texallon.core.render.resting import Rest, find_rest
from texallon.engine.encode import png
from texallon.engine.faults import Faults
from texallon.engine.schedule import PAUSE, Task, next_task
from texallon.engine.stage_picture import StagePicture
from texallon.engine.tasks.advice_task import AdviceOnShot
from texallon.engine.tasks.bench_task import Bench
from texallon.engine.tasks.memory_task import MemoryReport
from texallon.engine.tasks.picture_tasks import FirstPicture, HalfPicture, PictureMaker, Samples
from texallon.engine.tasks.reading_task import Reading
from texallon.engine.tasks.sheet_task import SheetCells
from texallon.engine.tasks.signal_tasks import CoarseSignal, FirstSignal, SignalPainter, SmoothEdges
from texallon.engine.window import WindowState
from texallon.engine.work import LastShown, Work
from texallon.memory import machine_limit
from texallon.messages.from_page import CameraMessage, PreviewMessage, ReadMessage, ViewMessage
from texallon.messages.to_page import CameraMoved, Loading, ProblemMessage, Working

Emit = Callable[[dict[str, Any], bytes], None]

FOLLOWED = 1.5
"""Seconds that a picture which follows a hand may take before a newer state is begun with instead."""

TOLD = 0.3
"""Seconds of one piece of work between two words on how far it is."""

LOADING = 0.2
"""Seconds after which a window hears that its geometry is being read."""


class Session:
    """Owned by the render thread; `window` is changed from the thread that receives messages.

    Parameters
    ----------
    name : str
        Of the window.
    shot_id : int
        Told with every message, so that what comes late can be dropped.
    files : Files
        Where geometry and pictures are read from.
    store : DerivedStore
        Shared by all windows.
    pool : ThreadPoolExecutor
        Likewise.
    emit : callable
        Sends a message, as plain JSON values and bytes.
    """

    def __init__(
        self, name: str, shot_id: int, files: Files, store: DerivedStore, pool: ThreadPoolExecutor, emit: Emit
    ) -> None:
        self.name, self.shot_id = name, shot_id
        self.window = WindowState()
        self.not_before = 0.0
        """By the monotonic clock: nothing is done until then, so that a hand can move."""
        self.seconds = 0.0
        """Of the processors' time that it has had."""
        self.picture = StagePicture(store, pool)
        self._files, self._store, self._pool, self._emit = files, store, pool, emit
        self._shown = LastShown()
        maker, painter = PictureMaker(self.picture, self._shown), SignalPainter()
        self._tasks: tuple[Task, ...] = (
            FirstPicture(maker),
            CoarseSignal(painter),
            FirstSignal(painter),
            Reading(self._shown),
            Bench(),
            HalfPicture(maker),
            SheetCells(),
            AdviceOnShot(),
            MemoryReport(),
            Samples(maker),
            SmoothEdges(painter),
        )
        self._work: Work | None = None
        self._begun = -1
        self._idle = False
        self._rested = False
        self._at_once = True
        """Whether what is worked on is to be seen at once."""
        self._state = 0, 0
        """Serial and revision of what is worked on: a hand may have moved on since."""
        self._faults = Faults(name, shot_id)

    def new_document(self, document: dict[str, Any], revision: int) -> None:
        """Take in another revision of the shot; the work in progress is dropped."""
        self.window.new_document(document, revision)
        self.not_before = 0.0

    def said(self, message: ViewMessage | PreviewMessage | CameraMessage | ReadMessage) -> None:
        """Take in what the window said; the work in progress is dropped."""
        self.window.said(message)
        self.not_before = 0.0

    def do_again(self, task: str) -> None:
        """Let a task be done once more for the same state."""
        if self._work is not None:
            self._work.done.discard(task)
            self._idle = False

    def snapshot(self) -> tuple[bytes, int, int] | None:
        """The finished picture last shown, as PNG, with its revision and samples."""
        shown = self._shown
        if shown.plain is None or self.window.preview:
            return None
        return png(shown.plain), shown.revision, shown.samples

    def rest(self, objects: frozenset[str], at: Vector | None) -> Rest | None:
        """How far objects of the document, or a point, go down until they rest, at the frame that is shown."""
        shot = resolve(read_shot(self.window.document), self.window.frame)
        return find_rest(shot, objects, self._files, None if at is None else np.array(at))

    @property
    def idle(self) -> bool:
        """Whether there is nothing to do."""
        return self._idle and not self.fresh

    @property
    def fresh(self) -> bool:
        """Whether a change has come in that no work has begun on."""
        return self._begun != self.window.epoch

    def advance(self, preempted: Callable[[], bool]) -> None:
        """Do the next piece of work; leaves quietly when a newer change or another window asks for the processor."""
        epoch = self.window.epoch
        started = time.perf_counter()

        self._at_once = True

        def wanted() -> bool:
            if preempted():
                return False
            # A hand moves faster than pictures are made: were each given up for the next, none would be seen until it rests.
            follows = self._at_once and self.window.follows and time.perf_counter() - started < FOLLOWED
            return self.window.epoch == epoch or follows

        try:
            with interruptible(wanted), report_progress_to(self._progress_listener()):
                if self._begun != epoch:
                    self._begin(epoch)
                self._step(wanted)
        except Interrupted:
            pass
        except (DocumentError, MeshError, FileNotFoundError, ValueError) as error:
            self._idle, self._begun = True, epoch
            problems = error.problems if isinstance(error, DocumentError) else [Problem("", str(error))]
            self._send(ProblemMessage, {"problems": [asdict(each) for each in problems]}, b"")
        except Exception as error:  # of this window alone: the others go on
            self.fault(epoch, error)
        spent = time.perf_counter() - started
        self.picture.seconds += spent
        self.seconds += spent

    def fault(self, epoch: int, error: Exception) -> None:
        """Something unforeseen: reported, tried again after a pause, and set aside after three times until something is changed."""
        message, again = self._faults.failed(epoch, error)
        self._emit(message.model_dump(mode="json"), b"")
        self._work = None
        if again is None:
            self._idle, self._begun = True, epoch
        else:
            self._begun, self.not_before = -1, again

    def _begin(self, epoch: int) -> None:
        self.not_before, self._rested, self._idle = 0.0, False, False
        self._state = self.window.serial, self.window.revision
        document, moved = self.window.shot()
        if moved is not None:
            self._send(CameraMoved, {"camera": moved.model_dump(mode="json")}, b"")
        shot = resolve(document, self.window.frame)
        graph = FrameGraph(shot, self._files, self._store, self._pool)
        problems = graph.problems()
        if problems:
            raise DocumentError(problems)
        needs = reckon(graph.files, held(shot.objects), *self.window.size, volumes=volumes_of(shot))
        check_needs(needs, machine_limit())
        self._load(graph)
        later = resolve(document, shot.time.frame + 1)

        def wanted() -> bool:
            return self.window.epoch == epoch

        self._work = Work(self.window, epoch, graph, later, self._send, wanted)
        self._begun = epoch

    def _load(self, graph: FrameGraph) -> None:
        """Read geometry, and tell of it where it takes long."""
        missing = [item for item in graph.shown if not self._store.known(graph.files.mesh_value(item.geometry))]
        begun, announced = time.monotonic(), False
        for number, item in enumerate(missing):
            if announced or time.monotonic() - begun > LOADING or number == 0:
                announced = announced or number > 0
                self._send(Loading, {"done": number, "total": len(missing), "what": item.name}, b"")
            self._store.value(graph.files.mesh_value(item.geometry))

    def _progress_listener(self) -> ReportProgress:
        """Tells the page how far work is that lasts longer than one should wait without a word."""
        spoken = time.monotonic()

        def report(what: str, done: int, total: int) -> None:
            nonlocal spoken
            now = time.monotonic()
            if now - spoken > TOLD:
                spoken = now
                self._send(Working, {"done": done, "total": total, "what": what}, b"")

        return report

    def _step(self, wanted: Callable[[], bool]) -> None:
        work = self._work
        assert work is not None
        task = next_task(self._tasks, work)
        if task is None:
            self._idle = True
            return
        if task.cost > Cost.INSTANT and not self._rested:
            # During a drag every picture triggers the next edit, so nothing slow may be in its way.
            self._rested = True
            self.not_before = (time.monotonic() if self.window.preview else self.window.touched) + PAUSE
            return
        work.wanted = wanted
        self._at_once = task.cost == Cost.INSTANT
        task.step(work)
        self._idle = next_task(self._tasks, work) is None

    def _send(self, kind: type[BaseModel], members: dict[str, Any], body: bytes) -> None:
        serial, revision = self._state
        about = {"session": self.name, "shot": self.shot_id, "serial": serial, "revision": revision}
        self._emit(kind.model_validate({**members, **about}).model_dump(mode="json"), body)
