"""How much memory this machine has for rendering."""

import os

HEADROOM = 0.9
"""Share of the machine's memory that render processes may take at most."""


def machine_limit() -> int:
    """Bytes that rendering may take: what `TEXALLON_RENDER_LIMIT` says, else nine tenths of the machine's."""
    total = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    return int(os.environ.get("TEXALLON_RENDER_LIMIT") or HEADROOM * total)
