"""Threads for short pieces of work on whole pictures, kept because starting them takes longer than the work."""

import os
from concurrent.futures import ThreadPoolExecutor
from functools import cache


@cache
def workers() -> ThreadPoolExecutor:
    """One thread for each processor. Work given to them must not wait for other work given to them."""
    return ThreadPoolExecutor(os.cpu_count() or 1, thread_name_prefix="picture")


# A process forked off has none of its parent's threads.
os.register_at_fork(after_in_child=workers.cache_clear)
