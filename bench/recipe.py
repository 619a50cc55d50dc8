"""What an edit of the last of twelve steps costs, against the whole recipe: `python -m bench.recipe`.

640×360 points, one thread and then all; the recipe is run anew in full, and again with only its last step changed, in turn in one run.
"""

import os
import time
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np

from tests.builders import KeptValues
from texallon.core.document import read_shot
from texallon.core.document.recipe import Recipe
from texallon.core.document.resolved import resolve
from texallon.core.signal.planner import Planner
from texallon.core.signal.run import evaluate, fill_missing

COUNT, RUNS = 640 * 360, 15


def steps(last: float) -> list[dict[str, Any]]:
    """Twelve steps of the kinds that masks are made from."""
    return [
        {"op": "twirl", "params": {"angle": 20}},
        {"op": "noise", "params": {"size": 0.4, "octaves": 6}},
        {"op": "remap", "params": {"from_start": 0.3, "from_end": 0.7, "ease": "smooth"}},
        {"op": "multiply", "params": {"by": {"steps": [{"op": "cellular", "params": {"size": 0.2}}]}}},
        {"op": "bias", "params": {"amount": 0.6}},
        {"op": "add", "params": {"by": {"steps": [{"op": "ridged", "params": {"size": 0.7}}]}}},
        {"op": "contrast", "params": {"amount": 1.3}},
        {"op": "curve", "params": {}},
        {"op": "gain", "params": {"amount": 0.4}},
        {"op": "ramp", "params": {"interpolation": "smooth"}},
        {"op": "power", "params": {"exponent": 1.4}},
        {"op": "threshold", "params": {"level": last, "width": 0.2}},
    ]


def main() -> None:
    shot = resolve(read_shot({"schema": 1, "name": "bench", "looks": [{"name": "l", "layers": [{"name": "a"}]}]}))
    position = (np.random.default_rng(0).random((3, COUNT)) * 4).astype(np.float32)

    def plan(last: float) -> Any:
        planner = Planner(shot)
        recipe = Recipe.model_validate({"steps": steps(last)})
        for number, node in enumerate(planner.recipe(recipe, ("bench",))):
            planner.want(str(number), node)  # as the bench wants them: every step, for its picture
        return planner.plan()

    for threads in (1, os.cpu_count() or 2):
        with ThreadPoolExecutor(threads) as pool:
            times = []
            for number in range(RUNS):
                cache = KeptValues()
                before, after = plan(0.3), plan(0.3 + 0.01 * number + 0.01)
                points = before.points(COUNT, fill_missing(before.required_data, {"position": position}, COUNT))
                a = time.perf_counter()
                evaluate(before, points, cache=cache, pool=pool)
                b = time.perf_counter()
                evaluate(after, points, cache=cache, pool=pool)
                times.append((b - a, time.perf_counter() - b))
        whole, edit = np.median(times[2:], axis=0) * 1e3
        ratio = np.median([edit / whole for whole, edit in times[2:]])
        print(f"{threads} thread(s): whole {whole:6.1f} ms   last step changed {edit:5.2f} ms   {ratio:6.1%}")


if __name__ == "__main__":
    main()
