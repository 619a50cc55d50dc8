"""Processes that are to last do so, whichever thread asked for them, and end with the process."""

import subprocess
import sys
import threading
from contextlib import suppress

import psutil

from texallon.child_process import begin_lasting

ANSWERS = [sys.executable, "-c", "import sys; print('here', flush=True); sys.stdin.read()"]


def test_a_process_outlives_the_thread_that_wanted_it() -> None:
    begun: list[subprocess.Popen[str]] = []

    def begin() -> None:
        begun.append(begin_lasting(ANSWERS, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True))
        assert begun[0].stdout is not None and begun[0].stdout.readline() == "here\n"

    asking = threading.Thread(target=begin)
    asking.start()
    asking.join()
    (process,) = begun
    try:
        # It answers still: the signal that the thread's end would send comes before its own thread is joined.
        out, _ = process.communicate("", timeout=20)
        assert process.returncode == 0 and out == ""
    finally:
        process.kill()


def test_it_ends_with_the_process_that_began_it() -> None:
    lasting = [sys.executable, "-c", "import time; print('here', flush=True); time.sleep(600)"]
    parent = (
        "import subprocess, sys\n"
        "from texallon.child_process import begin_lasting\n"
        f"child = begin_lasting({lasting!r}, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, text=True)\n"
        "child.stdout.readline()\n"
        "print(child.pid, flush=True)\n"
        "sys.stdin.read()\n"
    )
    process = subprocess.Popen([sys.executable, "-c", parent], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    child = int(process.stdout.readline())
    process.kill()
    process.wait()
    with suppress(psutil.NoSuchProcess):  # it has ended already
        psutil.Process(child).wait(timeout=20)
