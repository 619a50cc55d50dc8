"""Made-up edits: each refused as the sender's fault, or saved, drawn tiny, and taken back to the very document."""

import json
import random
from collections import Counter

from bench.campaign.made_up import made_up
from bench.campaign.server import Server
from texallon.core.derived import DerivedStore
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.resolved import resolve
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.formats.shot_files import ShotFiles


def edits(server: Server, count: int, rng: random.Random) -> Counter[str]:
    """Made-up edits, each drawn and taken back."""
    told: Counter[str] = Counter()
    shots = server.shots()
    files, store = ShotFiles(store=server.data / "files"), DerivedStore()
    for number in range(count):
        shot = rng.choice(shots)
        _, before = server.ask("GET", f"/api/shots/{shot}")
        patch = made_up(before["document"], rng)
        headers = {"If-Match": f'"{before["revision"]}"', "Texallon-Window": "campaign0"}
        status, answer = server.ask(
            "PATCH", f"/api/shots/{shot}", json.dumps({"patch": patch, "label": "c"}).encode(), headers
        )
        if status >= 500:
            told["broke"] += 1
            print(f"edit {number} of shot {shot} gave {status}: {json.dumps(patch)[:300]}")
            continue
        if status != 200:
            told["refused"] += 1
            continue
        told["saved"] += 1
        try:
            context = FrameGraph(resolve(read_shot(answer["document"])), files, store).context(16, 9)
            Film(16, 9, len(context.lights.names)).add_sample(context)
            told["drawn"] += 1
        except (DocumentError, MeshError, FileNotFoundError) as error:
            told["told why not"] += 1
            del error
        if answer["revision"] == before["revision"]:
            continue
        status, back = server.ask("POST", f"/api/shots/{shot}/undo?anyway=true", b"{}", headers)
        if status != 200 or back["document"] != before["document"]:
            told["not taken back"] += 1
            print(f"edit {number} of shot {shot} was not taken back ({status}): {json.dumps(patch)[:300]}")
    return told
