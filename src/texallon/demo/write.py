"""Writing the demo as files: documents, geometry, pictures and light."""

import hashlib
import json
from collections.abc import Callable
from pathlib import Path

import numpy as np
import numpy.typing as npt

from texallon.core.document.ids import complete_ids
from texallon.core.geometry.mesh import Mesh
from texallon.demo.basin import stone_basin, water_sheet
from texallon.demo.cable import rope
from texallon.demo.document import Demo, Json
from texallon.demo.flagstones import flagstones
from texallon.demo.flame import flame_shell, stove_iron
from texallon.demo.flower import petals, stem
from texallon.demo.ground import (
    drain_floor,
    moulded_pillar,
    pebbles,
    pillar,
    pond_bed,
    pond_water,
    slate_hill,
    spilled_pebbles,
)
from texallon.demo.leaves import fallen_leaves
from texallon.demo.night_sky import night_sky
from texallon.demo.packet import flower_label, night_label, seed_packet
from texallon.demo.pipe import brass_pipe
from texallon.demo.pods import glass_pods, pod_stalks, spores
from texallon.demo.rain import rain_drops
from texallon.demo.shot_gh010 import gh010
from texallon.demo.shot_gh020 import gh020
from texallon.demo.shot_gh030 import gh030
from texallon.demo.shot_gh040 import gh040
from texallon.demo.shot_gh050 import gh050
from texallon.demo.shot_gh060 import gh060
from texallon.demo.shot_gh070 import gh070
from texallon.demo.shot_gh080 import gh080
from texallon.demo.shot_gh090 import gh090
from texallon.demo.shot_gh100 import gh100
from texallon.demo.shot_gh110 import gh110
from texallon.demo.shot_gh120 import gh120
from texallon.demo.shot_gh130 import gh130
from texallon.demo.shot_gh140 import gh140
from texallon.demo.shot_gh150 import gh150
from texallon.demo.shot_gh160 import gh160
from texallon.demo.shot_gh170 import gh170
from texallon.demo.shot_gh180 import gh180
from texallon.demo.shot_gh190 import gh190
from texallon.demo.shot_gh200 import gh200
from texallon.demo.shot_gh210 import gh210
from texallon.demo.shot_gh220 import gh220
from texallon.demo.shot_gh230 import gh230
from texallon.demo.shot_gh240 import gh240
from texallon.demo.shot_gh250 import gh250
from texallon.demo.shot_gh260 import gh260
from texallon.demo.shot_gh270 import gh270
from texallon.demo.shot_gh280 import gh280
from texallon.demo.spore_cloud import spore_cloud
from texallon.demo.steam import steam
from texallon.formats.exr import write_exr
from texallon.formats.mesh_file import write_glb
from texallon.formats.particles_csv import write_csv
from texallon.formats.picture_file import write_png
from texallon.formats.write_voxels import write_voxels

MESHES: dict[str, Callable[[], Mesh]] = {
    "basin": stone_basin,
    "water": water_sheet,
    "flagstones": flagstones,
    "petals": petals,
    "stem": stem,
    "drain-floor": drain_floor,
    "rope": rope,
    "slate-hill": slate_hill,
    "pond-bed": pond_bed,
    "pebbles": pebbles,
    "spilled-pebbles": spilled_pebbles,
    "pond-water": pond_water,
    "pillar": pillar,
    "moulded-pillar": moulded_pillar,
    "flame-shell": flame_shell,
    "stove-iron": stove_iron,
    "spores": spores,
    "glass-pods": glass_pods,
    "pod-stalks": pod_stalks,
    "seed-packet": seed_packet,
    "brass-pipe": brass_pipe,
}

PICTURES: dict[str, Callable[[], npt.NDArray[np.uint8]]] = {
    "fallen-leaves": fallen_leaves,
    "day-flower": flower_label,
    "night-flower": night_label,
}

PARTICLES: dict[str, Callable[[], Mesh]] = {"spore-cloud": spore_cloud, "rain-drops": rain_drops}

SHOTS: tuple[Callable[[Demo], Json], ...] = (
    gh010,
    gh020,
    gh030,
    gh040,
    gh050,
    gh060,
    gh070,
    gh080,
    gh090,
    gh100,
    gh110,
    gh120,
    gh130,
    gh140,
    gh150,
    gh160,
    gh170,
    gh180,
    gh190,
    gh200,
    gh210,
    gh220,
    gh230,
    gh240,
    gh250,
    gh260,
    gh270,
    gh280,
)


def write_demo(folder: Path) -> list[Path]:
    """Write *Midwinter Glasshouse* into a folder; gives the shots' documents."""
    for kind in ("geometry", "light", "pictures", "voxels"):
        (folder / kind).mkdir(parents=True, exist_ok=True)
    for name, make in MESHES.items():
        write_glb(folder / "geometry" / f"{name}.glb", make())
    write_exr(folder / "light" / "night-sky.exr", night_sky())
    for name, particles in PARTICLES.items():
        write_csv(folder / "geometry" / f"{name}.csv", particles())
    for name, picture in PICTURES.items():
        write_png(folder / "pictures" / f"{name}.png", picture())
    density, to_place = steam()
    write_voxels(folder / "voxels" / "steam.npz", {"density": density}, to_place)
    files = [path for path in folder.glob("*/*") if path.suffix in (".glb", ".csv", ".exr", ".png", ".npz")]
    demo = Demo({str(path.relative_to(folder)): hashlib.sha256(path.read_bytes()).hexdigest() for path in files})
    written = []
    for make_shot in SHOTS:
        document = make_shot(demo)
        path = folder / f"{document['name']}.json"
        path.write_text(json.dumps(complete_ids(document), indent=2, ensure_ascii=False) + "\n")
        written.append(path)
    project = {"schema": 1, "name": "Midwinter Glasshouse", "shots": [path.stem for path in written]}
    (folder / "project.json").write_text(json.dumps(project, indent=2) + "\n")
    return written
