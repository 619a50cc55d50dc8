"""Keeps a cluster busy with the frames that a ledger wants: sends them, watches them, takes back what is wanted no more.

The ledger is the truth: a scheduler or a worker may end at any time and start again, and what was on its way then is begun anew. No frame is
lost with them, and as files appear whole under names of their own, none is wrong.
"""

import logging
import queue
import threading
import time
import uuid
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

from distributed import Client, Future
from distributed.scheduler import KilledWorker

from texallon.core.derived import Interrupted
from texallon.core.render.film.division import shares_of
from texallon.farm.cluster import FarmError
from texallon.farm.code_state import OtherCodeError, code_state
from texallon.farm.ledger import Ledger, WantedFrame
from texallon.farm.remote import CODE, TOPIC, finish_frame, render_frame_task, sample_share
from texallon.farm.task import Progress

LOOK_EVERY = 1.0
"""Seconds between two looks at what is wanted, where nobody says that it has changed."""

AGAIN_AFTER = 2.0
"""Seconds before a farm that did not answer is asked again."""

OTHER_CODE = "no worker runs this state of the code, only others: {}"

WATCHED = 30.0
"""Seconds for which a farm is looked for after somebody has asked who works there."""

AHEAD = 1
"""Frames that wait at the scheduler, so that no worker waits for one."""

CONNECTING, CONNECT_LOOK, LONGEST_ANSWER = 60.0, 0.1, 300.0
"""Seconds that may go by before a worker can be asked, between looks at whether it can, and until it has answered."""

_log = logging.getLogger("texallon.farm")


@dataclass
class _Running:
    """A frame on its way: the last future is of its files, the others of its shares."""

    frame: WantedFrame
    futures: list[Future]
    progress: dict[str, Progress] = field(default_factory=dict)

    @property
    def last(self) -> Future:
        return self.futures[-1]


class Dispatcher:
    """Sends frames to a cluster in a thread of its own.

    Parameters
    ----------
    ledger : Ledger
        Which frames are wanted.
    connected : callable
        Gives a connection to the cluster; raises `FarmError` where there is none.
    """

    def __init__(self, ledger: Ledger, connected: Callable[[], Client]) -> None:
        self._ledger, self._connect = ledger, connected
        self._client: Client | None = None
        self._running: dict[str, _Running] = {}
        self._given_back: set[str] = set()
        """Frames that are on their way no more and wait again as soon as the ledger can be reached."""
        self._frame_of_key: dict[str, str] = {}
        self._events: queue.SimpleQueue[Any] = queue.SimpleQueue()
        self._over = threading.Event()
        self._asking = 0
        self._again = self._watched = 0.0
        self.trouble = ""
        """Why no frame is on its way, where a farm does not answer."""
        self.workers: dict[str, dict[str, Any]] = {}
        """The workers there are, by name."""
        self.refused: tuple[str, ...] = ()
        """Names of workers that are sent nothing, as they run another state of the code."""
        self._only: list[str] | None = None
        """Addresses of the workers that may be sent frames, where not all may."""
        self._thread = threading.Thread(target=self._run, name="frames", daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def close(self) -> None:
        """Give up what is on its way, and end."""
        self._over.set()
        self._events.put(None)
        if self._thread.is_alive():
            self._thread.join(10)

    def run_all(self, function: Callable[..., Any], arguments: Sequence[tuple[Any, ...]]) -> list[Any]:
        """Have workers do something else, as soon as one is free; waits for it. Raises `FarmError`, and what the function raises.

        Parameters
        ----------
        function : callable
            Known by name where workers run.
        arguments : sequence of tuple
            Of each call.
        """
        client = self._connected_client()
        futures = [client.submit(function, *each, pure=False, priority=10, workers=self._only) for each in arguments]
        until = time.monotonic() + LONGEST_ANSWER
        try:
            return [each.result(timeout=max(until - time.monotonic(), 0.1)) for each in futures]
        except TimeoutError as error:
            raise FarmError("the workers are busy, and had no time for this yet") from error
        finally:
            client.cancel(futures)

    def _connected_client(self) -> Client:
        """The connection, which is begun where there is none; raises `FarmError`."""
        self._asking += 1  # one of few: a request of the page
        begun = time.monotonic()
        try:
            while (client := self._client) is None or self._only == []:
                self.look()
                if self._over.wait(CONNECT_LOOK) or time.monotonic() - begun > CONNECTING:
                    raise FarmError(self.trouble or "no worker could be reached")
            return client
        finally:
            self._asking -= 1

    def look(self) -> None:
        """Something has changed in the ledger."""
        self._events.put(None)

    def watch(self) -> None:
        """Somebody wants to know who works there, also before a frame is wanted."""
        self._watched = time.monotonic() + WATCHED
        if self._client is None:
            self.look()

    def _run(self) -> None:
        said = ""
        while not self._over.is_set():
            try:
                self._turn()
                said = ""
            except Exception as error:  # the list or the farm may be gone for a while; the thread must not be
                passes = isinstance(error, (OSError, *self._ledger.passing))
                # Once for each trouble: it may last, and this is tried again every few seconds.
                if type(error).__name__ != said:
                    _log.warning("frames can't be looked after: %s", type(error).__name__, exc_info=not passes)
                said = type(error).__name__
                self._over.wait(AGAIN_AFTER)
            try:
                event = self._events.get(timeout=LOOK_EVERY)
                while event is not None:
                    self._take_in(event)
                    event = self._events.get_nowait()
            except queue.Empty:
                pass
        self._give_up_all()

    def _turn(self) -> None:
        self._give_back()
        client = self._client
        if client is not None and client.status not in ("running", "connecting"):
            self._lose_client()
        for key in list(self._ledger.unwanted(list(self._running))):
            self._cancel(key)
        now = time.monotonic()
        asked = self._asking or now < self._watched
        if self._client is None and now >= self._again and (asked or self._ledger.waits()):
            self._begin_client()
        self._settle()
        self._give_back()
        while self._client is not None and len(self._running) < self._room():
            wanted = self._ledger.take()
            if wanted is None:
                return
            self._submit(wanted)

    def _room(self) -> int:
        """How many frames may be on their way."""
        if self._client is None:
            return 0
        found = self._client.scheduler_info(n_workers=-1).get("workers", {})  # empty while a connection ends
        workers, refused, only = {}, [], []
        for address, each in list(found.items()):
            if each.get(CODE) == code_state():
                workers[str(each["name"])] = {"host": each["host"], "memory": each["memory_limit"]}
                only.append(address)
            else:
                refused.append(str(each["name"]))
        self.workers, self.refused = workers, tuple(sorted(refused))
        self._only = only if refused else None
        self.trouble = OTHER_CODE.format(", ".join(self.refused[:4])) if refused and not only else ""
        return len(workers) + AHEAD if workers else 0

    def _begin_client(self) -> None:
        try:
            self._client = self._connect()
            self._client.subscribe_topic(TOPIC, lambda event: self._events.put(event[1]))
            self.trouble = ""
        except (FarmError, OSError) as error:
            self.trouble = str(error)
            self._again = time.monotonic() + AGAIN_AFTER

    def _lose_client(self) -> None:
        """The scheduler has ended: all that was on its way is begun anew elsewhere."""
        client, self._client = self._client, None
        for key in list(self._running):
            self._forget(key)
            self._given_back.add(key)
        if client is not None:
            threading.Thread(target=_closed, args=(client,), daemon=True).start()

    def _submit(self, wanted: WantedFrame) -> None:
        client, task, how = self._client, wanted.task, wanted.task.picture
        assert client is not None
        mark = uuid.uuid4().hex[:8]
        plain: dict[str, Any] = {"pure": False, "retries": 0, "workers": self._only}
        try:
            shares = shares_of(how.size[1], how.samples, how.noise > 0, task.shares)
            if len(shares) == 1:
                futures = [client.submit(render_frame_task, task, key=f"{wanted.id}-{mark}", **plain)]
            else:
                parts = [
                    client.submit(sample_share, task, share, key=f"{wanted.id}-{mark}-{number}", **plain)
                    for number, share in enumerate(shares)
                ]
                whole = client.submit(finish_frame, task, parts, time.time(), key=f"{wanted.id}-{mark}-whole", **plain)
                futures = [*parts, whole]
        except (OSError, RuntimeError, ValueError) as error:
            _log.info("a frame could not be sent: %s", error)
            self._given_back.add(wanted.id)
            return
        self._running[wanted.id] = _Running(wanted, futures)
        for future in futures:
            self._frame_of_key[str(future.key)] = wanted.id
        futures[-1].add_done_callback(lambda future: self._events.put(None))

    def _take_in(self, event: Any) -> None:
        """A message of a worker: how far a frame is, or a share of it."""
        if not isinstance(event, dict) or "key" not in event:
            return
        frame = self._frame_of_key.get(str(event["key"]))
        running = self._running.get(frame) if frame is not None else None
        if running is None:
            return
        said = Progress(*(event[name] for name in ("key", "done", "total", "by", "memory")))
        running.progress[said.key] = said
        parts = max(len(running.futures) - 1, 1)
        done = sum(each.done / max(each.total, 1) for each in running.progress.values()) / parts
        total = running.frame.task.picture.samples
        names = sorted({each.worker for each in running.progress.values()})
        memory = max(each.memory for each in running.progress.values())
        self._ledger.progressed(
            running.frame.id, Progress(said.key, round(done * total), total, ", ".join(names), memory)
        )

    def _settle(self) -> None:
        """Enter what has ended; what the ledger can't take in now is entered at the next turn."""
        for key, running in list(self._running.items()):
            status = running.last.status
            if status == "pending":
                continue
            if status == "finished":
                try:
                    report = running.last.result(timeout=30)
                except (OSError, TimeoutError):  # its worker has just ended: the files are there, and are found again
                    self._given_back.add(key)
                else:
                    self._ledger.done(key, report)
            elif status == "error":
                error = running.last.exception(timeout=30)
                if isinstance(error, (Interrupted, OtherCodeError)):  # a worker of other code may come unannounced
                    self._given_back.add(key)
                else:
                    lost = isinstance(error, KilledWorker)
                    self._ledger.failed(key, f"{error}" or type(error).__name__, lost)
            else:  # cancelled or lost, with the scheduler
                self._given_back.add(key)
            self._forget(key)

    def _give_back(self) -> None:
        """Have frames wait again; the ledger may be away for a while, and none is forgotten until it knows."""
        for key in list(self._given_back):
            self._ledger.put_back(key)
            self._given_back.discard(key)

    def _cancel(self, key: str) -> None:
        running = self._running.get(key)
        if running is None:
            return
        self._forget(key)
        if self._client is not None:
            try:
                self._client.cancel(running.futures, force=True)
            except (OSError, RuntimeError) as error:
                _log.info("a frame could not be taken back: %s", error)
        self._given_back.add(key)

    def _forget(self, key: str) -> None:
        running = self._running.pop(key)
        for future in running.futures:
            self._frame_of_key.pop(str(future.key), None)

    def _give_up_all(self) -> None:
        for key in list(self._running):
            self._cancel(key)
        with suppress(*self._ledger.passing):  # whoever begins next has them wait again
            self._give_back()
        if self._client is not None:
            _closed(self._client)
            self._client = None


def _closed(client: Client) -> None:
    try:
        client.close(timeout=2)
    except Exception as error:  # it is gone either way
        _log.debug("a connection was not closed well: %s", error)
