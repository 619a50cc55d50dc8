"""Frames of a shot by several workers: what `texallon shot` does."""

import tempfile
import time
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

from texallon.core.document.shot import Shot
from texallon.farm.cluster import FarmSettings, OwnCluster, connect
from texallon.farm.dispatcher import Dispatcher
from texallon.farm.ledger import Entry, FramesInMemory
from texallon.farm.order import Places, put_shot, tasks_of
from texallon.farm.vault import Vault
from texallon.formats.shot_files import ShotFiles
from texallon.frame_files import RangeOrder, kept_frames

LOOK_EVERY = 0.2
"""Seconds between two looks at how far frames are."""


class HowFar(NamedTuple):
    """Of an order: frames done, kept, failed, and all; how much of a frame runs; and seconds left, where that can be said."""

    done: int
    kept: int
    failed: int
    total: int
    running: float
    left: float | None


def render_shot(
    shot: Shot,
    files: ShotFiles,
    order: RangeOrder,
    farm: FarmSettings,
    report: Callable[[HowFar], None],
    store: str = "",
) -> list[Entry]:
    """Render frames by the workers of a cluster; gives what became of each.

    Parameters
    ----------
    shot : Shot
        Checked.
    files : ShotFiles
        Where its files are.
    order : RangeOrder
        What is wanted.
    farm : FarmSettings
        A farm's address, or how many workers of this machine's own.
    report : callable
        Told how far it is, now and then.
    store : str, optional
        Where workers find files; a temporary folder unless given.

    Raises
    ------
    FileExistsError
        Before anything is rendered, where files stand that were made from something else.
    FarmError, VaultError, FileNotFoundError
        Where no worker can be reached, or a file can't be put.
    """
    order.folder.mkdir(parents=True, exist_ok=True)
    kept_frames(order, shot.name)  # workers find out again what is kept; here it is about what is not
    own = None if farm.address else OwnCluster(farm.workers, farm.threads)
    with tempfile.TemporaryDirectory() as folder:
        vault = Vault(store or folder)
        places = Places(vault.url, put_shot(vault, shot, files), str(order.folder.resolve()))
        into = order._replace(folder=Path())
        ledger = FramesInMemory(
            tasks_of(into, uuid.uuid4().hex[:12], shot.name, places, 0 if own is None else farm.workers)
        )
        dispatcher = Dispatcher(ledger, lambda: connect(farm.address if own is None else own.address, farm.tls))
        try:
            dispatcher.start()
            begun = time.monotonic()
            while not ledger.over:
                time.sleep(LOOK_EVERY)
                report(how_far(ledger, begun))
                if dispatcher.trouble and own is None:
                    raise OSError(dispatcher.trouble)
            report(how_far(ledger, begun))
        finally:
            ledger.stop()
            dispatcher.close()
            if own is not None:
                own.close()
    return list(ledger.entries.values())


def how_far(ledger: FramesInMemory, begun: float) -> HowFar:
    """How far an order is.

    Parameters
    ----------
    ledger : FramesInMemory
        Of its frames.
    begun : float
        When, by the monotonic clock.
    """
    entries = list(ledger.entries.values())
    done = [each for each in entries if each.state == "done"]
    kept = sum(each.report is not None and each.report.kept for each in done)
    failed = sum(each.state == "failed" for each in entries)
    running = sum(
        each.progress.done / max(each.progress.total, 1)
        for each in entries
        if each.state == "running" and each.progress is not None
    )
    made = len(done) - kept + running
    left = None
    if made >= 0.5:
        left = (time.monotonic() - begun) / made * (len(entries) - failed - len(done) - running)
    return HowFar(len(done), kept, failed, len(entries), running, left)
