"""Compiled kernels on disk are dropped when anything that was merged into them changes."""

import subprocess
import sys
from pathlib import Path

INNER = """from texallon.core.kernel import inlined


@inlined
def inner(x):
    return x + {number}
"""

OUTER = """from texallon.core.kernel import kernel
from tests_made.inner import inner


@kernel
def outer(x):
    return inner(x) * 10.0
"""


def run(folder: Path) -> str:
    # The made package takes the place of `tests`, whose files are followed.
    code = "import texallon.core.kernel_cache as c; c.OURS = ('tests_made', 'texallon'); from tests_made.outer import outer; outer(1.0); print(outer(1.0), sum(outer.stats.cache_hits.values()))"
    done = subprocess.run([sys.executable, "-c", code], cwd=folder, capture_output=True, text=True, check=True)
    return done.stdout.strip()


def test_a_change_in_a_merged_function_is_noticed(tmp_path: Path) -> None:
    package = tmp_path / "tests_made"
    package.mkdir()
    (package / "__init__.py").write_text("")
    (package / "inner.py").write_text(INNER.format(number=1.0))
    (package / "outer.py").write_text(OUTER)
    assert run(tmp_path) == "20.0 0"
    assert run(tmp_path) == "20.0 1", "from disk"
    (package / "inner.py").write_text(INNER.format(number=2.0))
    assert run(tmp_path) == "30.0 0", "compiled anew"
