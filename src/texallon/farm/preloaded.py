"""Loaded once, in the process that the cluster's workers are forked from: each has what frames need from its first moment on, and the state of the
code is that of what was loaded, whatever becomes of the sources."""

import distributed  # noqa: F401

import texallon.farm.ready
import texallon.farm.work  # noqa: F401
from texallon.farm.code_state import code_state

code_state()
