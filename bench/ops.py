"""Nanoseconds per sample of every op with its defaults: `python -m bench.ops`. One thread, 640×360 points in chunks."""

import time

import numpy as np
from pydantic import ValidationError

from texallon.core.ops.points import Points
from texallon.core.ops.pyramid import make_pyramid
from texallon.core.ops.registry import ops
from texallon.core.signal.run import CHUNK, fill_missing

COUNT, RUNS = 640 * 360, 7
NEEDED = {"image": {"file": {"file": "any.png"}}}


def main() -> None:
    rng = np.random.default_rng(0)
    position = (rng.random((3, COUNT)) * 20).astype(np.float32)
    unit = position / np.linalg.norm(position, axis=0)
    data = {"position": position, "normal": unit, "view": unit, "uv": position[:2] / 20}
    values = rng.random((1, COUNT)).astype(np.float32)
    picture = make_pyramid(rng.random((1024, 1024, 3)).astype(np.float32))
    for name, kind in ops().items():
        try:
            op = kind.model_validate(NEEDED.get(name, {}))
        except ValidationError:
            continue  # a named signal costs what its recipe costs
        camera = {"camera": np.eye(4, dtype=np.float32)[:3]}
        points = Points(COUNT, fill_missing(op.required_data(), data, COUNT), camera, lambda ref, raw: picture)
        width = op.result_width(1 if op.kind == "step" else 0, dict.fromkeys(op.inputs(), 1))
        times = []
        for _ in range(RUNS + 1):
            spent = 0.0
            for start in range(0, COUNT, CHUNK):
                stop = min(start + CHUNK, COUNT)
                part, incoming = points.chunk(start, stop), values[:, start:stop].copy()
                inputs = dict.fromkeys(op.inputs(), incoming)
                out = np.empty((width, stop - start), np.float32)
                with np.errstate(all="ignore"):
                    before = time.perf_counter()
                    op.run(part, incoming, inputs, out)
                spent += time.perf_counter() - before
            times.append(spent)
        print(f"{name:<22} {np.median(times[1:]) / COUNT * 1e9:7.2f} ns per sample")


if __name__ == "__main__":
    main()
