"""The cluster that ships with the server: `python -m texallon.farm.own_cluster WORKERS THREADS`. Prints its address once it runs."""

import os
import signal
import sys
import threading
from multiprocessing import forkserver
from typing import Any

SETTINGS = {
    # A worker that ends is reported at once; whoever asked counts how often.
    "distributed.scheduler.allowed-failures": 0,
    # What waits does so at the scheduler, not at a worker that may end.
    "distributed.scheduler.worker-saturation": 1.0,
    # Memory is reckoned before a frame begins: nothing is spilled to disk, paused or killed by the library.
    "distributed.worker.memory.target": False,
    "distributed.worker.memory.spill": False,
    "distributed.worker.memory.pause": False,
    "distributed.worker.memory.terminate": False,
    "distributed.comm.timeouts.connect": "5s",
    "distributed.comm.retry.count": 0,
    # Nothing is served over HTTP.
    "distributed.scheduler.http.routes": [],
    "distributed.worker.http.routes": [],
    # Nobody looks at where threads spend their time, and looking a hundred times a second takes some of it.
    "distributed.worker.profile.enabled": False,
    "distributed.admin.low-level-log-length": 100,
}
"""How the library is set for frames: few large tasks."""


NO_PAGES: dict[str, Any] = {"dashboard": False, "dashboard_address": "127.0.0.1:0"}
"""For a scheduler, which would else look for a port that others know."""

READY = "texallon.farm.ready"
"""Loaded by every worker."""

FORKED = {"distributed.worker.multiprocessing-method": "forkserver"}
"""A worker is a copy of a process that has loaded all there is: it takes a tenth of a second, not three, also after one has ended."""

ALONE = {"OMP_NUM_THREADS": "1", "MKL_NUM_THREADS": "1", "OPENBLAS_NUM_THREADS": "1"}
"""As the library would have it for workers, which use threads of their own."""


def main() -> int:
    """Run until asked to end."""
    workers, threads = int(sys.argv[1]), int(sys.argv[2])
    os.environ.update(ALONE, TEXALLON_WORKER_THREADS=str(threads))
    # Only the address goes to whoever began this: what workers print belongs into the log, or a pipe that nobody reads fills up.
    address_out = os.fdopen(os.dup(sys.stdout.fileno()), "w")
    os.dup2(sys.stderr.fileno(), sys.stdout.fileno())
    # What workers are copied from loads while the library is loaded here.
    forkserver.set_forkserver_preload(["texallon.farm.preloaded"])
    forkserver.ensure_running()
    import dask
    from distributed import LocalCluster

    over = threading.Event()
    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, lambda *_: over.set())
    with (
        dask.config.set(SETTINGS | FORKED),
        LocalCluster(
            n_workers=workers, threads_per_worker=1, processes=True, host="127.0.0.1", dashboard_address=None,
            silence_logs=50, preload=READY, scheduler_kwargs=NO_PAGES,
        ) as cluster,
    ):  # fmt: skip
        print(cluster.scheduler_address, file=address_out, flush=True)
        over.wait()
    return 0


if __name__ == "__main__":
    sys.exit(main())
