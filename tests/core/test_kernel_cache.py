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


TYPES = "from typing import NamedTuple\n\n\nclass Pair(NamedTuple):\n    a: float\n    b: float\n"
TAKES = "from texallon.core.kernel import kernel\n\n\n@kernel\ndef outer(pair):\n    return pair.a + pair.b\n"


def test_kernels_whose_types_have_moved_are_compiled_anew(tmp_path: Path) -> None:
    package = tmp_path / "tests_made"
    package.mkdir()
    (package / "__init__.py").write_text("")
    (package / "outer.py").write_text(TAKES)
    for name in ("before", "after"):
        (package / f"{name}.py").write_text(TYPES)
        code = f"from tests_made.outer import outer; from tests_made.{name} import Pair; print(outer(Pair(1.0, 2.0)))"
        done = subprocess.run([sys.executable, "-c", code], cwd=tmp_path, capture_output=True, text=True)
        assert done.stdout.strip() == "3.0", done.stderr[-300:]
        (package / f"{name}.py").unlink()
