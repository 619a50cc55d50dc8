"""Processes that end with the one that made them."""

import ctypes
import signal
import subprocess
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from typing import Any

_PR_SET_PDEATHSIG = 1

_BEGINS = ThreadPoolExecutor(1, thread_name_prefix="begins processes")


def end_with_parent() -> None:
    """Called in a new process: it is asked to stop when the thread that made it is gone, and with it when its process is, even by a kill that can't be
    caught (prctl(2))."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)


def begin_lasting(command: Sequence[str], **how: Any) -> "subprocess.Popen[Any]":
    """Begin a process that lasts as long as this one, whatever becomes of the thread that wants it: it is begun by one that ends with the process.

    Parameters
    ----------
    command : sequence of str
        What is run.
    **how : Any
        As for `subprocess.Popen`.
    """
    return _BEGINS.submit(subprocess.Popen, command, preexec_fn=end_with_parent, **how).result()
