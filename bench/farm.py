"""What a farm gives and costs: `python -m bench.farm [throughput|overhead|kills]`, all three unless one is named.

* `throughput`: frames an hour with one worker and with two, of one thread each, and the share of twice the first that the second reaches.
* `overhead`: frames of some ten seconds rendered one after the other in this process, and sent to one worker, in turns.
* `kills`: a shot while workers are killed, and now and then the scheduler with all of them; every frame is then rendered again in this process and compared
  bit by bit.
"""

import argparse
import os
import random
import signal
import tempfile
import threading
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

import numpy as np

from tests.farm.processes import workers_of
from texallon.core.document import Shot, parse_json, read_shot
from texallon.demo.write import write_demo
from texallon.document_digest import document_digest
from texallon.farm.cluster import OwnCluster, connect
from texallon.farm.dispatcher import Dispatcher
from texallon.farm.ledger import FramesInMemory, WantedFrame
from texallon.farm.order import Places, put_shot, tasks_of
from texallon.farm.task import FrameReport
from texallon.farm.vault import Vault
from texallon.farm.work import render_frame_task
from texallon.formats.exr import read_channels
from texallon.formats.shot_files import ShotFiles
from texallon.frame_files import Order, RangeOrder


class Farm:
    """A demo shot in a vault of its own, and orders for frames of it."""

    def __init__(self, folder: Path, name: str = "GH240") -> None:
        write_demo(folder / "demo")
        document = parse_json((folder / "demo" / f"{name}.json").read_text())
        self.shot: Shot = read_shot(document)
        self.vault = Vault(str(folder / "vault"))
        self._digest = put_shot(self.vault, self.shot, ShotFiles(root=folder / "demo"))
        self.folder = folder

    def order(self, into: str, frames: Sequence[int], size: tuple[int, int], samples: int) -> list[WantedFrame]:
        """Frames as tasks whose files go into a folder of that name."""
        picture = Order(size, samples, 1, frames[0])
        wanted = RangeOrder(frames, Path(), (".exr",), picture, document_digest(self.shot))
        places = Places(self.vault.url, self._digest, str(self.folder / into))
        return tasks_of(wanted, into, self.shot.name, places)


@contextmanager
def sending(ledger: FramesInMemory, cluster: OwnCluster) -> Iterator[Dispatcher]:
    """Frames of a ledger on their way to a cluster."""
    dispatcher = Dispatcher(ledger, lambda: connect(cluster.address))
    dispatcher.start()
    try:
        yield dispatcher
    finally:
        ledger.stop()
        dispatcher.close()


def finish(frames: list[WantedFrame], cluster: OwnCluster) -> float:
    """Seconds until all are done."""
    ledger, pause = FramesInMemory(frames), threading.Event()
    begun = time.perf_counter()
    with sending(ledger, cluster):
        while not ledger.over:
            pause.wait(0.02)
        took = time.perf_counter() - begun
    assert all(each.state == "done" for each in ledger.entries.values()), [each.why for each in ledger.entries.values()]
    return took


def throughput(folder: Path) -> None:
    """Frames an hour with one worker and with two."""
    farm, size, samples, frames = Farm(folder), (160, 90), 64, range(5, 13)
    clusters = {workers: OwnCluster(workers, 1, folder / f"kept{workers}") for workers in (1, 2)}
    rates: dict[int, list[float]] = {1: [], 2: []}
    try:
        for workers, cluster in clusters.items():
            begun = time.perf_counter()
            assert cluster.address
            print(f"a cluster of {workers}: begun in {time.perf_counter() - begun:.1f} s", flush=True)
            finish(farm.order(f"warm{workers}", [1, 2, 3, 4], size, 2), cluster)
        for turn in range(2):
            for workers, cluster in clusters.items():
                took = finish(farm.order(f"{workers}-{turn}", frames, size, samples), cluster)
                rates[workers].append(3600 * len(frames) / took)
                print(f"{workers} worker(s): {rates[workers][-1]:.0f} frames an hour", flush=True)
    finally:
        for cluster in clusters.values():
            cluster.close()
    one, two = max(rates[1]), max(rates[2])
    print(f"two workers: {two / one:.2f} × one, efficiency {two / one / 2:.0%}")


class Ends(FramesInMemory):
    """Notes when each frame was entered as done."""

    def __init__(self, frames: list[WantedFrame]) -> None:
        super().__init__(frames)
        self.at: list[float] = []

    def done(self, frame: str, report: FrameReport) -> None:
        super().done(frame, report)
        self.at.append(time.perf_counter())


def overhead(folder: Path) -> None:
    """What sending frames costs against rendering them here: the time from one frame's end to the next one's, in turns."""
    farm, size, samples = Farm(folder), (160, 90), 110
    cluster = OwnCluster(1, 1, folder / "kept")
    here, there = [], []
    try:
        finish(farm.order("warm", range(9, 14), size, 2), cluster)
        for each in farm.order("warm-here", range(9, 14), size, 2):
            render_frame_task(each.task)
        for turn in range(3):
            for each in farm.order(f"here{turn}", [11, 12, 13], size, samples):
                begun = time.perf_counter()
                render_frame_task(each.task)
                here.append(time.perf_counter() - begun)
            ledger, pause = Ends(farm.order(f"there{turn}", [10, 11, 12, 13], size, samples)), threading.Event()
            with sending(ledger, cluster):
                while not ledger.over:
                    pause.wait(0.02)
            there += np.diff(ledger.at).tolist()
            print(f"frames here {np.round(here[-3:], 2)} s, by the queue {np.round(there[-3:], 2)} s", flush=True)
    finally:
        cluster.close()
    least, most = np.median(here), np.median(there)
    print(f"overhead of the queue: {most / least - 1:+.1%} of a frame of {least:.1f} s")


def kills(folder: Path, most: int = 50, restarts: int = 10, orders: int = 6) -> None:
    """Kill workers and schedulers while frames are made; none may be lost or wrong."""
    farm, size, chance = Farm(folder), (48, 27), random.Random(11)
    # Orders of the shot's 48 frames, in folders of their own, each task with a delay of its own.
    wanted = [
        WantedFrame(f"{number}-{each.id}", replace(each.task, delay=chance.uniform(0.2, 1.2)))
        for number in range(orders)
        for each in farm.order(f"made{number}", range(1, 49), size, 2)
    ]
    ledger, pause = FramesInMemory(wanted), threading.Event()
    cluster = OwnCluster(4, 1, folder / "kept")
    killed = ended = 0
    begun = time.perf_counter()
    try:
        with sending(ledger, cluster):
            while not ledger.over:
                pause.wait(0.5)
                busy = any(each.state == "running" and each.progress for each in ledger.entries.values())
                pid = cluster.pid
                if not busy or pid is None:
                    continue
                if killed >= (ended + 1) * most // (restarts + 1) and ended < restarts:
                    os.kill(pid, signal.SIGKILL)
                    ended += 1
                elif killed < most and (there := [each.pid for each in workers_of(pid)]):
                    os.kill(chance.choice(there), signal.SIGKILL)
                    killed += 1
    finally:
        cluster.close()
    took = time.perf_counter() - begun
    entries = list(ledger.entries.values())
    lost = sum(each.state != "done" for each in entries)
    alone = {each.task.picture.frame: each.task for each in farm.order("alone", range(1, 49), size, 2)}
    for task in alone.values():
        render_frame_task(task)
    wrong = 0
    for each in entries:
        task = each.wanted.task
        path = Path(task.results) / task.files[0]
        truth = read_channels(Path(alone[task.picture.frame].results) / task.files[0])
        made = read_channels(path) if path.is_file() else {}
        same = made.keys() == truth.keys() and all(np.array_equal(made[name], truth[name]) for name in truth)
        wrong += not same
    left = sum(1 for path in folder.glob("made*/.*") if path.is_file())
    print(
        f"{len(entries)} frames, {killed} workers and {ended} schedulers killed in {took:.0f} s: {lost} lost, {wrong} wrong, {left} files left over"
    )


def main() -> None:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("what", nargs="?", choices=("throughput", "overhead", "kills"))
    given = options.parse_args()
    for measure in (throughput, overhead, kills):
        if given.what in (None, measure.__name__):
            with tempfile.TemporaryDirectory() as folder:
                measure(Path(folder))


if __name__ == "__main__":
    main()
