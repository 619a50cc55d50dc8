"""Derived values: everything that is computed, kept by what it was computed from.

A derived value is a pure function of its arguments. Its key is a hash of the function's name, its version and the keys of its
arguments, so no list of what an edit touches is written by hand anywhere. See `docs/architecture.md`.
"""

from texallon.core.derived.content import content_key
from texallon.core.derived.disk import Disk
from texallon.core.derived.interrupt import Interrupted, checkpoint, interruptible
from texallon.core.derived.progress import ReportProgress, progress_reporter, report_progress_to
from texallon.core.derived.store import DEFAULT_BUDGET, Access, DerivedStore
from texallon.core.derived.value import Cost, Derived, DerivedFunction, Given, derived

__all__ = [
    "DEFAULT_BUDGET",
    "Access",
    "Cost",
    "Derived",
    "DerivedFunction",
    "DerivedStore",
    "Disk",
    "Given",
    "Interrupted",
    "ReportProgress",
    "checkpoint",
    "content_key",
    "derived",
    "interruptible",
    "progress_reporter",
    "report_progress_to",
]
