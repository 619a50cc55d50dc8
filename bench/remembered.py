"""What remembering costs at 100 000 points: growth, springs, contact; and waves against their transforms alone.

    python -m bench.remembered

Prints milliseconds; each the least of some rounds.
"""

import time
from collections.abc import Callable

import numpy as np
import scipy.fft

from texallon.core.document import read_shot
from texallon.core.document.ids import complete_ids
from texallon.core.document.remembered import Growth, Springs
from texallon.core.document.resolved import resolve
from texallon.core.geometry.mesh import Mesh
from texallon.core.motion.growth import grown, growth_at
from texallon.core.motion.point_graph import surface_graph
from texallon.core.motion.springs import advance, propagator
from texallon.core.motion.touches import Block
from texallon.core.ops.wave_spectrum import Sea, wave_modes
from texallon.core.ops.wave_surface import folds, water_at
from texallon.core.render.files import Files
from texallon.core.render.graph import FrameGraph

ACROSS, RATE = 317, 24.0


def least(run: Callable[[], object], rounds: int = 5) -> float:
    """The least time of some rounds, milliseconds, after one that does not count."""
    run()
    times = []
    for _ in range(rounds):
        begun = time.perf_counter()
        run()
        times.append(time.perf_counter() - begun)
    return 1e3 * min(times)


def square() -> Mesh:
    """A level square of a metre."""
    x, z = np.meshgrid(np.linspace(0, 1, ACROSS), np.linspace(0, 1, ACROSS))
    places = np.stack([x.ravel(), 0 * x.ravel(), z.ravel()], axis=1).astype(np.float32)
    at = np.arange(ACROSS * ACROSS).reshape(ACROSS, ACROSS)
    a, b, c, d = at[:-1, :-1], at[1:, :-1], at[1:, 1:], at[:-1, 1:]
    faces = np.concatenate([np.stack([a, b, c], -1).reshape(-1, 3), np.stack([a, c, d], -1).reshape(-1, 3)])
    return Mesh(places, faces.astype(np.int32), np.tile(np.array([0, 1, 0], np.float32), (len(places), 1)))


def main() -> None:
    """Measure and print."""
    mesh, here = square(), np.eye(4, dtype=np.float32)[:3]
    graph = surface_graph(mesh, here)
    print(f"{len(graph.places):,} points; their graph {least(lambda: surface_graph(mesh, here), 2):.0f} ms")

    growth = Growth(kind="growth", name="a", signal="s", speed=0.2)
    away = np.hypot(graph.places[:, 0] - 0.5, graph.places[:, 2] - 0.5)
    first = np.where(away < 0.2, away, np.inf)
    block = Block({"first": first, "since": first})
    covered = grown(graph, (block,), growth, None, RATE)
    history = least(lambda: grown(graph, (block,), growth, None, RATE))
    frame = least(lambda: growth_at(graph, covered, (), growth, 20.0, RATE), 20)
    print(f"growth: {history:.0f} ms a history of {int(np.isfinite(first).sum()):,} touches, {frame:.2f} ms a frame")

    for spread in (0.1, 0.3, 1.0):
        springs = Springs(kind="springs", name="a", signal="s", frequency=2.0, damping=0.1, spread=spread)
        by = propagator(springs, graph, RATE)
        height, velocity, signal = (np.random.default_rng(n).normal(size=len(graph.places)) for n in (1, 2, 3))
        took = least(lambda by=by, h=height, v=velocity, s=signal: advance(by, h, v, s, s), 10)
        print(f"springs, rings at {spread:g} m/s: {took:.0f} ms a frame, {len(by.coefficients)} terms")

    touch = {
        "name": "touch",
        "recipe": {"steps": [{"op": "contact", "params": {"to": {"object": "ball"}, "end": 0.1}}]},
    }
    shot = read_shot(complete_ids({
        "schema": 2, "name": "B", "frames": {"first": 1, "last": 48}, "signals": [touch],
        "objects": [
            {
                "name": "pond", "look": "l", "geometry": {"shape": "plane", "width": 1.0, "depth": 1.0, "segments": ACROSS - 1},
                "remembers": [{"kind": "growth", "name": "frost", "signal": "touch"}],
            },
            {"name": "ball", "id": "ball", "look": "l", "geometry": {"shape": "sphere", "radius": 0.1}},
        ],
        "tracks": [{"at": "/objects/ball/position/0", "keys": [{"frame": 1, "value": -0.4}, {"frame": 48, "value": 0.4}]}],
        "looks": [{"name": "l", "layers": [{"name": "a"}]}],
    }))  # fmt: skip

    def whole() -> None:
        made = FrameGraph(resolve(shot, 48), NoFiles())
        made.store.value(made.shapes.remembered(made.shot.objects[0])["frost"])

    print(f"a shot of 48 frames with contact to a ball of 4 096 triangles, from nothing: {least(whole, 2) / 1e3:.1f} s")

    modes = wave_modes(Sea(6.0, 30.0, 500.0, 10.0, 0.5, 20.0, 512, 0.0, 1))
    water = least(lambda: water_at(modes, 3.0, 0.8), 20)
    half = np.stack([modes.even] * 6)
    transforms = least(lambda: scipy.fft.irfft2(half, (512, 512), norm="forward", workers=2), 20)
    foam = least(lambda: folds(modes, 3.0, 0.8, 0.6), 10)
    print(
        f"waves of 512²: {water:.1f} ms a moment, six transforms alone {transforms:.1f} ms: {water / transforms:.2f} ×; folds {foam:.1f} ms"
    )


class NoFiles(Files):
    """For a shot that needs none."""


if __name__ == "__main__":
    main()
