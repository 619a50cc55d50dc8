"""Voxel grids from OpenVDB files, read by the reference library where the machine has it."""

import json
import os
import resource
import shutil
import subprocess
import tempfile
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from texallon.formats.voxel_grids import MOST_VOXELS, GridFacts, StoredGrid, VoxelError

SECONDS = 120
MEMORY, LEAST, PER_BYTE = 8_000_000_000, 2_500_000_000, 60
"""Bytes that the reader may take (setrlimit(2)): so many for each of the file's, between these bounds. A damaged file makes the library ask for all that it is given."""

SCRIPT = Path(__file__).with_name("openvdb_process.py")
SETTING = "TEXALLON_OPENVDB_PYTHON"
"""Names another Python that has `pyopenvdb`."""


@cache
def reader() -> str | None:
    """The Python that has the library, if there is one."""
    for each in (os.environ.get(SETTING), "/usr/bin/python3", shutil.which("python3")):
        if each and Path(each).is_file():
            done = subprocess.run([each, "-I", "-c", "import pyopenvdb"], capture_output=True, check=False, timeout=60)
            if done.returncode == 0:
                return each
    return None


def _limit(size: int) -> None:
    _, most = resource.getrlimit(resource.RLIMIT_DATA)
    wanted = min(max(size * PER_BYTE, LEAST), MEMORY)
    least = wanted if most == resource.RLIM_INFINITY else min(wanted, most)
    resource.setrlimit(resource.RLIMIT_DATA, (least, least))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _ask(*words: str) -> dict[str, Any]:
    python = reader()
    if python is None:
        raise VoxelError(
            "OpenVDB files are read by Debian's package python3-openvdb, which is not here: as root, run apt-get install python3-openvdb"
        )
    command, size = [python, "-I", str(SCRIPT), *words], os.path.getsize(words[1])
    try:
        done = subprocess.run(
            command,
            capture_output=True,
            text=True,
            timeout=SECONDS,
            check=False,
            preexec_fn=lambda: _limit(size),
            cwd="/",
        )
        answer: dict[str, Any] = json.loads(done.stdout.splitlines()[-1])
    except subprocess.TimeoutExpired as error:
        raise VoxelError("the OpenVDB file takes too long to read") from error
    except (ValueError, IndexError) as error:
        raise VoxelError("the OpenVDB file broke its reader: it is damaged or far too large") from error
    if "error" in answer:
        raise VoxelError(answer["error"])
    return answer


def list_vdb(path: Path) -> list[GridFacts]:
    """What grids an OpenVDB file has; raises `VoxelError`."""
    found = []
    for each in _ask("list", str(path.resolve()))["grids"]:
        size = tuple(b - a + 1 for a, b in zip(each["low"], each["high"], strict=True))
        found.append(GridFacts(each["name"], each["width"], (size[0], size[1], size[2])))
    return found


def read_vdb(path: Path, grid: str) -> StoredGrid:
    """A grid of an OpenVDB file; raises `VoxelError`."""
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "values.npy"
        answer = _ask("read", str(path.resolve()), grid, str(MOST_VOXELS), str(out))
        values = np.load(out, allow_pickle=False)
    to_place = np.zeros((3, 4))
    to_place[:, :3] = np.array(answer["columns"]).T
    to_place[:, 3] = answer["start"]
    return StoredGrid(values.reshape(*values.shape[:3], -1), to_place, np.array(answer["background"], np.float32))
