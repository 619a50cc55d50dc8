"""Gradient noise against the pyfastnoiselite package: `python -m bench.noise`.

One thread, eight octaves, 640×360 points, both in turn in one run; the ratio is the median of paired ratios.
"""

import time

import numpy as np
from pyfastnoiselite.pyfastnoiselite import FastNoiseLite, FractalType, NoiseType

from texallon.core.ops.noise import Noise
from texallon.core.ops.points import Points

COUNT, OCTAVES, RUNS = 640 * 360, 8, 15


def main() -> None:
    position = (np.random.default_rng(0).random((3, COUNT)) * 20).astype(np.float32)
    points = Points(COUNT, {"position": position, "footprint": np.zeros((1, COUNT), np.float32)})
    ours, out = Noise(octaves=OCTAVES, size=1.0), np.empty((1, COUNT), np.float32)
    theirs = FastNoiseLite(1)
    theirs.noise_type, theirs.fractal_type = NoiseType.NoiseType_Perlin, FractalType.FractalType_FBm
    theirs.fractal_octaves, theirs.frequency = OCTAVES, 1.0
    times = []
    for _ in range(RUNS + 1):
        a = time.perf_counter()
        ours.fill(points, out)
        b = time.perf_counter()
        theirs.gen_from_coords(position)
        times.append((b - a, time.perf_counter() - b))
    measured = np.array(times[1:]) / COUNT / OCTAVES * 1e9
    print(f"texallon          {np.median(measured[:, 0]):6.1f} ns per sample and octave")
    print(f"pyfastnoiselite   {np.median(measured[:, 1]):6.1f} ns per sample and octave")
    print(f"ratio             {np.median(measured[:, 1] / measured[:, 0]):6.1f}")


if __name__ == "__main__":
    main()
