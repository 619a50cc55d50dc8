"""Volumes: flying, recolouring and refining in the pollen cloud, what its bricks take, and what mist costs a shot.

    python -m bench.volumes

Prints seconds on all processors, by the context and film that the page and the shell use.
"""

import os
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from tests.engine.driven import Driven
from texallon.cli import load_shot
from texallon.core.derived import DerivedStore
from texallon.core.document import shot_json
from texallon.core.document.resolved import resolve
from texallon.core.document.shot import Shot
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.core.render.volume.source_values import Bricks
from texallon.core.render.volume.volumes import AT_ONCE
from texallon.core.signal.run import evaluate
from texallon.demo.write import write_demo
from texallon.engine.stage_picture import HASTILY, ROUGHLY
from texallon.formats.shot_files import ShotFiles

POOL = ThreadPoolExecutor(os.cpu_count() or 1)


def picture(
    shot: Shot, files: ShotFiles, store: DerivedStore, size: tuple[int, int], samples: int = 1, hasty: bool = False
) -> tuple[float, Any]:
    """Seconds for a picture, and its context."""
    begun = time.perf_counter()
    context = FrameGraph(resolve(shot), files, store, POOL).context(*size, final=False)
    if context.volumes is not None:  # as the stage does; in haste while a hand moves
        context = replace(context, volumes=context.volumes.looked_up(ROUGHLY * (HASTILY if hasty else 1), hasty))
    film = Film(*size, len(context.lights.names))
    for _ in range(samples):
        film.add_sample(context, POOL)
        if context.volumes is not None:
            context.volumes.fill_noted(POOL)
    return time.perf_counter() - begun, context


def recoloured(shot: Shot, step: int) -> Shot:
    """The cloud with another gain on its glow."""
    document = shot.model_dump(mode="json", by_alias=True)
    glow = next(look for look in document["looks"] if look["name"] == "pollen")["layers"][1]["channels"][
        "volume_emission"
    ]
    glow["recipe"]["steps"][1]["params"]["by"] *= 1 + 0.1 * step
    return Shot.model_validate(document)


def flight(shot: Shot, files: ShotFiles, size: tuple[int, int]) -> None:
    store = DerivedStore()
    cold, context = picture(shot, files, store, size, hasty=True)
    field = context.volumes.fields[0]
    print(f"{size[0]}×{size[1]}: cold {cold:.2f} s, {field.filled} bricks, {field.nbytes / 1e6:.0f} MB")
    moving = []
    for number in range(1, 11):
        view = shot.model_copy(update={"camera": shot.views[number].camera})
        moving.append(picture(view, files, store, size, hasty=True)[0])
    last = shot.model_copy(update={"camera": shot.views[10].camera})
    still = [picture(last, files, store, size)[0] for _ in range(4)]
    ramps = [picture(recoloured(last, step), files, store, size, hasty=True)[0] for step in range(1, 6)]
    print(
        f"    flying {1 / np.median(moving):.1f} pictures/s, at rest {1 / np.median(still):.1f} samples/s, another gain {1 / np.median(ramps):.1f} pictures/s"
    )


def followed(folder: Path, files: ShotFiles, name: str, gain: bool = False) -> None:
    """Pictures of the stage while a hand moves the camera, or a gain on the glow: a session is driven as the page drives it."""
    document = shot_json(load_shot(folder / f"{name}.json"))
    look = next((k for k, each in enumerate(document["looks"]) if each["name"] == "pollen"), 0)
    session = Driven(files)
    session.change({"do": "document", "document": document, "revision": 1})
    session.change({"do": "view", "width": 640, "height": 360})
    session.advance(lambda: False)
    path = f"/looks/{look}/layers/1/channels/volume_emission/recipe/steps/1/params/by"
    was = (
        document["looks"][look]["layers"][1]["channels"]["volume_emission"]["recipe"]["steps"][1]["params"]["by"]
        if gain
        else 0.0
    )
    taken = []
    for number in range(40):
        patch = [{"op": "replace", "path": path, "value": was * (1 + 0.01 * number)}]
        orbit = {"do": "camera", "move": "orbit", "across": 0.01 * number, "down": 0.0}
        session.change({"do": "preview", "patch": patch} if gain else orbit)
        session.sent.clear()
        begun = time.perf_counter()
        while not any(head["kind"] == "picture" for head in session.sent):
            session.advance(lambda: False)
        taken.append(time.perf_counter() - begun)
    last = session.sent[-1]
    what = "another gain" if gain else "flying"
    print(
        f"{name} on the stage, {what}: {1 / np.median(taken[5:]):.1f} pictures/s, the last {last['width']}×{last['height']}"
    )


def evaluations(shot: Shot, files: ShotFiles) -> None:
    graph = FrameGraph(resolve(shot), files)
    filled = graph.filled
    source, field = filled.source_value(filled.containers[0]).value, filled.field_values[0]
    bricks = graph.store.value(field)
    own = bricks.grid.corners(3, np.arange(2000, 2064, dtype=np.int32))
    begun = time.perf_counter()
    bricks._evaluate(
        own, np.full(own.shape[1], bricks.grid.cell_world * 8, np.float32), Bricks(99, np.arange(64, dtype=np.int32))
    )
    whole = time.perf_counter() - begun
    plan = source.medium.varying
    assert plan is not None
    data = source.space.point_data(
        plan.required_data, own, np.full((1, own.shape[1]), bricks.grid.cell_world * 8, np.float32)
    )
    begun = time.perf_counter()
    evaluate(plan, plan.points(own.shape[1], data), variants=1, chunk=AT_ONCE)
    bare = time.perf_counter() - begun
    print(
        f"one thread: {own.shape[1] / whole / 1e6:.2f} M points/s into bricks, {100 * bare / whole:.0f} % of it the bare recipe"
    )


def mist(name: str, folder: Path, files: ShotFiles) -> None:
    shot = load_shot(folder / f"{name}.json")
    clear = shot.model_copy(update={"atmosphere": None})
    times = []
    for each in (shot, clear):
        store = DerivedStore()
        picture(each, files, store, (480, 270), 2)
        times.append(picture(each, files, store, (480, 270), 4)[0] / 4)
    print(f"{name}: a sample with mist {times[0]:.2f} s, without {times[1]:.2f} s: {times[0] / times[1]:.1f} ×")


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        write_demo(folder)
        files = ShotFiles(root=folder)
        shot = load_shot(folder / "GH190.json")
        for size in ((160, 90), (320, 180), (640, 360)):
            flight(shot, files, size)
        for name in ("GH190", "GH200", "GH210", "GH220"):
            followed(folder, files, name)
        followed(folder, files, "GH190", gain=True)
        evaluations(shot, files)
        for each in ("GH200", "GH210", "GH230"):
            mist(each, folder, files)


if __name__ == "__main__":
    main()
