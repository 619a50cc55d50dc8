"""Processes that end with the one that made them."""

import ctypes
import signal

_PR_SET_PDEATHSIG = 1


def end_with_parent() -> None:
    """Called in a new process: it is asked to stop when the one that made it is gone, even by a kill that can't be caught (prctl(2))."""
    ctypes.CDLL(None).prctl(_PR_SET_PDEATHSIG, signal.SIGTERM)
