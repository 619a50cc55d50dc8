"""The processes of a cluster."""

import psutil


def workers_of(pid: int) -> list[psutil.Process]:
    """The processes of a cluster that render."""
    found = []
    for each in psutil.Process(pid).children(recursive=True):
        try:
            if "multiprocessing.spawn" in " ".join(each.cmdline()):
                found.append(each)
        except psutil.Error:  # it has just ended
            continue
    return found
