"""Look into a stranger's file of voxel grids in a process of its own: `python -m texallon.formats.import_voxels FILE`.

Prints one JSON object: its grids, or `error`. Memory and time are limited, so that a file made to exhaust them only ends this process.
"""

import json
import resource
import sys
from pathlib import Path

from texallon.formats.voxel_file import list_grids, read_voxels
from texallon.formats.voxel_grids import VoxelError

SECONDS = 240


def main() -> int:
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    path = Path(sys.argv[1])
    try:
        grids = list_grids(path)
        for each in grids:
            read_voxels(path, each.name)
    except VoxelError as error:
        print(json.dumps({"error": str(error).replace(str(path), "the file").replace(path.name, "the file")}))
        return 0
    except (MemoryError, RecursionError):
        print(json.dumps({"error": "the grids need more memory than they are given"}))
        return 0
    print(json.dumps({"grids": [{"name": each.name, "width": each.width, "size": list(each.size)} for each in grids]}))
    return 0


if __name__ == "__main__":
    sys.exit(main())
