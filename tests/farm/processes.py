"""The processes of a cluster."""

import psutil


def workers_of(pid: int) -> list[psutil.Process]:
    """The processes of a cluster that render."""
    found = []
    for each in psutil.Process(pid).children(recursive=True):
        try:
            parent = each.parent()
            if parent is not None and _forks(each) and _forks(parent):
                found.append(each)
        except psutil.Error:  # it has just ended
            continue
    return found


def _forks(process: psutil.Process) -> bool:
    """Whether it is the one that workers are copies of, or a copy."""
    return "multiprocessing.forkserver" in " ".join(process.cmdline())
