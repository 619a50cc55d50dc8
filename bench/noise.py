"""Every fractal noise against the pyfastnoiselite package: `python -m bench.noise`.

One thread, eight octaves, 640×360 points in chunks, both in turn in one run; the ratio is the median of paired ratios. Kinds that
the package lacks (billow, hybrid) are held against its own sum of octaves (fBm) of the same noise.
"""

import time

import numpy as np
from pyfastnoiselite.pyfastnoiselite import FastNoiseLite, FractalType, NoiseType

from texallon.core.ops.billow import Billow
from texallon.core.ops.cellular import Cellular
from texallon.core.ops.hybrid import Hybrid
from texallon.core.ops.noise import Noise
from texallon.core.ops.op import Source
from texallon.core.ops.points import Points
from texallon.core.ops.ridged import Ridged
from texallon.core.signal.run import CHUNK

COUNT, OCTAVES, RUNS = 640 * 360, 8, 9

FBM, RIDGED = FractalType.FractalType_FBm, FractalType.FractalType_Ridged
PERLIN, VALUE, CELLS = NoiseType.NoiseType_Perlin, NoiseType.NoiseType_Value, NoiseType.NoiseType_Cellular

PAIRS = [
    ("noise", Noise(octaves=OCTAVES, size=1.0), PERLIN, FBM, OCTAVES),
    ("noise, value", Noise(octaves=OCTAVES, size=1.0, basis="value"), VALUE, FBM, OCTAVES),
    ("noise, evolving", Noise(octaves=OCTAVES, size=1.0, evolution=0.37), PERLIN, FBM, OCTAVES),
    ("billow", Billow(octaves=OCTAVES, size=1.0), PERLIN, FBM, OCTAVES),
    ("ridged", Ridged(octaves=OCTAVES, size=1.0), PERLIN, RIDGED, OCTAVES),
    ("hybrid", Hybrid(octaves=OCTAVES, size=1.0), PERLIN, FBM, OCTAVES),
    ("cellular", Cellular(size=1.0), CELLS, None, 1),
]


def ours(op: Source, chunks: list[Points], out: np.ndarray) -> None:
    for number, points in enumerate(chunks):
        op.fill(points, out[:, number * CHUNK : number * CHUNK + points.count])


def main() -> None:
    position = (np.random.default_rng(0).random((3, COUNT)) * 20).astype(np.float32)
    whole = Points(COUNT, {"position": position, "footprint": np.zeros((1, COUNT), np.float32)})
    chunks = [whole.chunk(start, min(start + CHUNK, COUNT)) for start in range(0, COUNT, CHUNK)]
    out = np.empty((1, COUNT), np.float32)
    print(f"{'':<18}{'texallon':>10}{'package':>10}  ns per sample and octave, and the package's over ours")
    for name, op, basis, fractal, octaves in PAIRS:
        theirs = FastNoiseLite(1)
        theirs.noise_type, theirs.frequency = basis, 1.0
        if fractal is not None:
            theirs.fractal_type, theirs.fractal_octaves = fractal, octaves
        times = []
        for _ in range(RUNS + 1):
            a = time.perf_counter()
            ours(op, chunks, out)
            b = time.perf_counter()
            theirs.gen_from_coords(position)
            times.append((b - a, time.perf_counter() - b))
        measured = np.array(times[1:]) / COUNT / octaves * 1e9
        one, other = np.median(measured, axis=0)
        print(f"{name:<18}{one:10.1f}{other:10.1f}{np.median(measured[:, 1] / measured[:, 0]):8.1f}×")


if __name__ == "__main__":
    main()
