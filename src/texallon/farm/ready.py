"""Run in each worker as it begins, by the library: loads what frames need before the first comes."""

import os
import threading

from distributed import Worker

from texallon.farm.code_state import code_state
from texallon.farm.remote import CODE


def dask_setup(worker: Worker) -> None:
    """Called by name.

    Parameters
    ----------
    worker : Worker
        That has begun.
    """
    worker.startup_information[CODE] = lambda worker: code_state()
    os.nice(10)  # who works at the page of the same machine comes first
    threading.Thread(target=_load, daemon=True).start()


def _load() -> None:
    import texallon.farm.work  # noqa: F401
