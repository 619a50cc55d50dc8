"""Writing the demo as files: documents, geometry and light."""

import hashlib
import json
from pathlib import Path

from texallon.demo.basin import stone_basin, water_sheet
from texallon.demo.flagstones import flagstones
from texallon.demo.night_sky import night_sky
from texallon.demo.shot_gh010 import gh010
from texallon.formats.exr import write_exr
from texallon.formats.mesh_file import write_glb


def write_demo(folder: Path) -> list[Path]:
    """Write *Midwinter Glasshouse* into a folder; gives the shots' documents."""
    (folder / "geometry").mkdir(parents=True, exist_ok=True)
    (folder / "light").mkdir(exist_ok=True)
    meshes = {"basin": stone_basin, "water": water_sheet, "flagstones": flagstones}
    for name, make in meshes.items():
        write_glb(folder / "geometry" / f"{name}.glb", make())
    write_exr(folder / "light" / "night-sky.exr", night_sky())
    files = [path for path in folder.glob("*/*") if path.suffix in (".glb", ".exr")]
    digests = {str(path.relative_to(folder)): hashlib.sha256(path.read_bytes()).hexdigest() for path in files}
    shot = folder / "GH010.json"
    shot.write_text(json.dumps(gh010(digests), indent=2, ensure_ascii=False) + "\n")
    project = {"schema": 1, "name": "Midwinter Glasshouse", "shots": ["GH010"]}
    (folder / "project.json").write_text(json.dumps(project, indent=2) + "\n")
    return [shot]
