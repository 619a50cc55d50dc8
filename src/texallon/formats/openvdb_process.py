"""Reads OpenVDB files by the reference library, in a process of the Python that has it: `python3 openvdb_process.py list|read …`.

Debian's `python3-openvdb` is built for the system's Python, not for ours: so this file imports nothing of Texallon. It prints one line of JSON.
"""

import json
import sys

LONGEST = 200
FAR = 1 << 20


def listed(path):
    """What grids a file has: name, width, and the indices between which voxels are active."""
    import pyopenvdb as vdb

    grids = []
    for found in vdb.readAllGridMetadata(path):
        grid = vdb.read(path, found.name)
        low, high = grid.evalActiveVoxelBoundingBox()
        empty = any(a > b for a, b in zip(low, high, strict=False))
        kind = type(grid).__name__
        grids.append(
            {
                "name": found.name[:LONGEST],
                "kind": kind,
                "width": 3 if kind.startswith("Vec3") else 1,
                "low": [0, 0, 0] if empty else list(low),
                "high": [0, 0, 0] if empty else list(high),
            }
        )
    return grids


def read(path, name, most, out):
    """Write a grid's values between its active voxels to a file of NumPy's; gives its place."""
    import numpy as np
    import pyopenvdb as vdb

    names = [each.name for each in vdb.readAllGridMetadata(path)]
    if name not in names:
        return {
            "error": f"there is no grid “{name}” in the file; it has {', '.join(f'“{each[:40]}”' for each in names[:12]) or 'none'}"
        }
    grid = vdb.read(path, name)
    low, high = grid.evalActiveVoxelBoundingBox()
    if any(a > b for a, b in zip(low, high, strict=False)):
        low = high = (0, 0, 0)
    size = [b - a + 1 for a, b in zip(low, high, strict=False)]
    count = size[0] * size[1] * size[2]
    if count > most:
        return {
            "error": f"the grid “{name}” has {size[0]} × {size[1]} × {size[2]} voxels; at most {most // 10**6} million are read"
        }
    wide = type(grid).__name__.startswith("Vec3")
    values = np.zeros((*size, 3) if wide else tuple(size), np.float32)
    try:
        grid.copyToArray(values, ijk=tuple(low))
    except (TypeError, ValueError):
        whole = np.zeros(values.shape, bool if "Bool" in type(grid).__name__ else np.int32)
        grid.copyToArray(whole, ijk=tuple(low))
        values[:] = whole
    place = grid.transform.indexToWorld
    start = place(tuple(low))
    # Far apart, so that the shift takes no digits from the steps.
    steps = [place(tuple(a + FAR * (axis == k) for k, a in enumerate(low))) for axis in range(3)]
    far = place(tuple(a + n for a, n in zip(low, size, strict=False)))
    columns = [[(b - a) / FAR for a, b in zip(start, step, strict=False)] for step in steps]
    straight = [start[row] + sum(columns[axis][row] * size[axis] for axis in range(3)) for row in range(3)]
    scale = max(abs(each) for each in (*far, *straight, 1e-12))
    if any(abs(a - b) > 1e-6 * scale for a, b in zip(far, straight, strict=False)):
        return {"error": f"the grid “{name}” lies in a bent space (a frustum), which is not read"}
    np.save(out, values)
    beyond = grid.background
    return {
        "start": list(start),
        "columns": columns,
        "background": [float(each) for each in beyond] if wide else [float(beyond)],
    }


def main():
    try:
        if sys.argv[1] == "list":
            answer = {"grids": listed(sys.argv[2])}
        else:
            answer = read(sys.argv[2], sys.argv[3], int(sys.argv[4]), sys.argv[5])
    except (MemoryError, RecursionError):
        answer = {"error": "the file is damaged, or its grid needs more memory than it is given"}
    except Exception as error:  # whatever the library says of a damaged file
        said = str(error).replace(sys.argv[2], "the file").strip(" '\"\n").split("\n")[0]
        answer = {"error": f"the OpenVDB file can't be read: {said[:LONGEST] or 'it is damaged'}"}
    print(json.dumps(answer))


if __name__ == "__main__":
    main()
