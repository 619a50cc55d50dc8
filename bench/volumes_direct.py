"""What bricks are worth: light that the pollen cloud itself sends to the eye, from bricks and from its recipe evaluated anew at each point, to the same error.

    python -m bench.volumes_direct

Both look at one random point of each stretch as long as a brick; scattering is left out of both, as are bright points. Prints seconds on all processors, filling included.
"""

import os
import tempfile
import time
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from texallon.cli import load_shot
from texallon.core.derived import DerivedStore
from texallon.core.document.resolved import ResolvedShot, resolve
from texallon.core.document.shot import Shot
from texallon.core.render.camera.view import camera_rays
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.core.render.volume.quantities import ABSORPTION, DENSITY, EMISSION
from texallon.core.render.volume.volumes import SAMPLES_ACROSS
from texallon.demo.write import write_demo
from texallon.formats.shot_files import ShotFiles

SIZE = (320, 180)
CELLS_OF_A_BRICK = 8
WAVE = 1 << 16
POOL = ThreadPoolExecutor(os.cpu_count() or 1)


def glowing_only(shot: Shot) -> ResolvedShot:
    """The cloud alone, without scattering, bright points and surroundings."""
    document = shot.model_dump(mode="json", by_alias=True)
    look = next(each for each in document["looks"] if each["name"] == "pollen")
    black = {"recipe": {"steps": [{"op": "constant", "params": {"value": [0.0, 0.0, 0.0]}}]}}
    look["points"] = None
    for layer in look["layers"]:
        layer["channels"] = {name: each for name, each in layer["channels"].items() if not name.startswith("point_")}
        if {"density", "scattering_color"} & set(layer["channels"]):
            layer["channels"]["scattering_color"] = black
    document["objects"] = [each for each in document["objects"] if each["name"] == "cloud"]
    document["environment"]["intensity"] = 0.0
    return resolve(Shot.model_validate(document))


def from_bricks(graph: FrameGraph, samples: int) -> tuple[float, float, np.ndarray]:
    """Seconds of the first sample and of each later one, and the samples."""
    begun = time.perf_counter()
    context = graph.context(*SIZE, final=True)
    film, kept, total, times = Film(*SIZE, len(context.lights.names)), [], 0.0, [begun]
    for number in range(samples):
        film.add_sample(context, POOL)
        times.append(time.perf_counter())
        now = film.picture().astype(np.float64) * (number + 1)
        kept.append(now - total)
        total = now
    return times[1] - begun, float(np.median(np.diff(times[1:]))), np.array(kept)


def evaluated(graph: FrameGraph, samples: int) -> tuple[float, np.ndarray]:
    """Seconds of each sample, and the samples."""
    filled, view = graph.filled, graph.view(*SIZE)
    container = filled.containers[0]
    source = replace(filled.source_value(container).value, values=None)
    inverse = np.linalg.inv(np.vstack([container.matrix, [0, 0, 0, 1]]).astype(np.float64))[:3]
    centre, radius = (container.low + container.high)[:, None].astype(np.float64) / 2, float(container.high[0])
    pixels = np.arange(SIZE[0] * SIZE[1], dtype=np.int32)
    random, kept, times = np.random.default_rng(1), [], []

    def wave(part: tuple[np.ndarray, float]) -> Any:
        own, footprint = part
        return source.quantities(own, footprint)[
            [DENSITY, ABSORPTION, ABSORPTION + 1, ABSORPTION + 2, EMISSION, EMISSION + 1, EMISSION + 2]
        ]

    for number in range(samples):
        begun = time.perf_counter()
        origin, direction = (each.astype(np.float64) for each in camera_rays(view, pixels, number, 1))
        origin, way = inverse[:, :3] @ origin + inverse[:, 3:], inverse[:, :3] @ direction
        away, speed = origin - centre, (way**2).sum(axis=0)
        middle = -(away * way).sum(axis=0) / speed
        half = np.sqrt(np.maximum((radius**2 - (away**2).sum(axis=0)) / speed + middle**2, 0))
        at, end = np.maximum(middle - half, 1e-3), middle + half
        light, left = np.zeros((3, len(pixels))), np.ones((3, len(pixels)))
        while True:
            going = np.flatnonzero(at < end)
            if not len(going):
                break
            # As bricks are: of cells that are some samples wide, in sizes that double.
            level = 2.0 ** np.floor(np.log2(np.maximum(at[going] * view.pixel_angle * SAMPLES_ACROSS, 1e-4)))
            span = np.minimum(level * CELLS_OF_A_BRICK, end[going] - at[going])
            own = origin[:, going] + way[:, going] * (at[going] + span * random.random(len(going)))
            own = own.astype(np.float32)
            width = float(np.median(level))
            parts = [(np.ascontiguousarray(own[:, i : i + WAVE]), width) for i in range(0, len(going), WAVE)]
            made = np.concatenate(list(POOL.map(wave, parts)), axis=1)
            light[:, going] += left[:, going] * made[4:7] * span
            left[:, going] *= np.exp(-made[0] * made[1:4] * span)
            at[going] += span
        times.append(time.perf_counter() - begun)
        kept.append(light.T.reshape(SIZE[1], SIZE[0], 3))
    return float(np.median(times)), np.array(kept)


def error_of_one(samples: np.ndarray) -> float:
    """Relative error of a picture of one sample: of pixels that are not dark, in the root of the mean square, without the worst hundredth."""
    mean = samples.mean(axis=(0, 3))
    lit = mean > 0.1 * mean.mean()
    return float(np.sqrt(np.quantile((samples.mean(axis=3).std(axis=0)[lit] / mean[lit]) ** 2, 0.5)))


def main() -> None:
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        write_demo(folder)
        shot = glowing_only(load_shot(folder / "GH190.json"))
        files = ShotFiles(root=folder)
        first, each, bricks = from_bricks(FrameGraph(shot, files, DerivedStore(), POOL), 24)
        direct, anew = evaluated(FrameGraph(shot, files, DerivedStore(), POOL), 8)
        print(f"means: {bricks.mean():.5f} from bricks, {anew.mean():.5f} evaluated")
        print(
            f"a sample at {SIZE[0]}×{SIZE[1]}: {each:.2f} s from bricks after {first:.2f} s for the first, {direct:.2f} s evaluated: {direct / each:.1f} ×"
        )
        one, other = error_of_one(bricks), error_of_one(anew)
        print(f"relative error of one sample: {one:.2f} from bricks, {other:.2f} evaluated")
        for error in (0.03, 0.01):
            cached, uncached = first + each * (one / error) ** 2, direct * (other / error) ** 2
            print(f"to {error}: {cached:.0f} s from bricks, {uncached:.0f} s evaluated: {uncached / cached:.1f} ×")


if __name__ == "__main__":
    main()
