"""Derived values on disk: what is kept comes back to the bit, and whatever becomes of the folder costs only time."""

import os
from pathlib import Path

import numpy as np
import pytest

from texallon.formats.disk_cache import DiskCache

ARRAYS = {"a": np.arange(12, dtype=np.uint16).reshape(3, 4), "b": np.array([np.pi, -0.0, np.inf], np.float32)}


def test_what_is_kept_comes_back_to_the_bit(tmp_path: Path) -> None:
    DiskCache(tmp_path).keep("k", ARRAYS)
    found = DiskCache(tmp_path).load("k")
    assert found is not None and found.keys() == ARRAYS.keys()
    assert all(
        found[name].tobytes() == each.tobytes() and found[name].dtype == each.dtype for name, each in ARRAYS.items()
    )
    assert DiskCache(tmp_path).load("other") is None


@pytest.mark.parametrize("harm", [lambda data: data[: len(data) // 2], lambda data: b"", lambda data: b"x" * len(data)])
def test_a_damaged_file_counts_as_none_and_goes(tmp_path: Path, harm: object) -> None:
    kept = DiskCache(tmp_path)
    kept.keep("k", ARRAYS)
    (path,) = kept.folder.glob("*.npz")
    path.write_bytes(harm(path.read_bytes()))  # type: ignore[operator]
    assert kept.load("k") is None and not path.exists()


def test_objects_are_not_unpickled(tmp_path: Path) -> None:
    kept = DiskCache(tmp_path)
    kept.keep("k", ARRAYS)
    (path,) = kept.folder.glob("*.npz")
    np.savez(path, a=np.array([{"x": 1}], dtype=object))
    assert kept.load("k") is None


def test_what_was_not_used_for_longest_goes_first(tmp_path: Path) -> None:
    kept = DiskCache(tmp_path, 30_000)
    some = {"a": np.zeros(9_000, np.uint8)}
    for number, key in enumerate("abc"):
        kept.keep(key, some)
        os.utime(kept.folder / f"{key}.npz", (number, number))
    assert kept.load("a") is not None  # used: now the newest
    kept.keep("d", some)
    assert [key for key in "abcd" if kept.load(key) is not None] == ["a", "c", "d"]
    kept.keep("e", {"a": np.zeros(40_000, np.uint8)})
    assert kept.load("e") is None and kept.load("d") is not None, "what is larger than the budget pushes nothing out"


def test_what_other_code_has_left_is_removed(tmp_path: Path) -> None:
    before = tmp_path / "0123"
    before.mkdir()
    (before / "k.npz").write_bytes(b"old")
    DiskCache(tmp_path)
    assert not before.exists()


def test_a_folder_that_cannot_be_written_is_no_fault(tmp_path: Path) -> None:
    (tmp_path / "file").write_text("")
    kept = DiskCache(tmp_path / "file" / "below")
    kept.keep("k", ARRAYS)
    assert kept.load("k") is None
