"""Look into a stranger's mesh file in a process of its own: `python -m texallon.formats.import_mesh FILE KIND`.

Prints one JSON object: what the mesh has, or `error`. Memory and time are limited, so that a file made to exhaust them
only ends this process.
"""

import json
import resource
import sys
from pathlib import Path

MEMORY = 6_000_000_000
SECONDS = 120


def main() -> int:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    from texallon.core.geometry.mesh import MeshError
    from texallon.formats.import_report import ImportReport
    from texallon.formats.mesh_file import parse_mesh

    report = ImportReport()

    try:
        mesh = parse_mesh(Path(sys.argv[1]).read_bytes(), sys.argv[2], report)
    except MeshError as error:
        print(json.dumps({"error": str(error)}))
        return 0
    except (MemoryError, RecursionError):
        print(json.dumps({"error": "the file needs more memory than it is given"}))
        return 0
    low, high = mesh.bounds
    print(
        json.dumps(
            {
                "triangles": len(mesh.faces),
                "points": len(mesh.vertices),
                "attributes": sorted(mesh.attributes),
                "has_uv": mesh.uv is not None,
                "low": [float(x) for x in low],
                "high": [float(x) for x in high],
                "report": report.as_json(),
            }
        )
    )
    return 0


if __name__ == "__main__":
    sys.exit(main())
