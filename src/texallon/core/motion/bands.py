"""Work on rows, divided into bands that as many threads do as the process may use processors."""

import os
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager

Work = Callable[[int, int], None]
"""Does the rows from the first up to the second; waits for no lock of the interpreter, or is not worth dividing."""


@contextmanager
def bands(count: int, least: int) -> Iterator[Callable[[Work], None]]:
    """While it lasts, a function that has work done on all rows, one time after another.

    Parameters
    ----------
    count : int
        Rows.
    least : int
        So many that one thread is done with them before another has begun.

    Examples
    --------
    >>> squares = [0] * 6
    >>> def square(first, end):
    ...     squares[first:end] = [k * k for k in range(first, end)]
    >>> with bands(6, least=2) as each:
    ...     each(square)
    >>> squares
    [0, 1, 4, 9, 16, 25]
    """
    threads = max(min(len(os.sched_getaffinity(0)), count // max(least, 1)), 1)
    if threads == 1:
        yield lambda work: work(0, count)
        return
    edges = [count * k // threads for k in range(threads + 1)]
    with ThreadPoolExecutor(threads) as pool:

        def run(work: Work) -> None:
            for _ in pool.map(work, edges[:-1], edges[1:]):  # so that errors are heard of
                pass

        yield run
