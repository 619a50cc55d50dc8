"""The glasshouse's heating: a bent pipe of brass with a flange, and a tap's hand wheel."""

import numpy as np

from texallon.core.geometry.mesh import Mesh
from texallon.demo.cable import Doubles, tube
from texallon.demo.carving import joined

RADIUS = 0.045


def brass_pipe() -> Mesh:
    """A pipe that rises from the ground, bends, and runs along; u goes round, v along in metres."""
    rise = np.stack([np.zeros(60), np.linspace(-0.02, 0.22, 60), np.zeros(60)], axis=1)
    angle = np.linspace(0, np.pi / 2, 50)[1:]
    bend = np.stack([0.16 * (1 - np.cos(angle)), 0.22 + 0.16 * np.sin(angle), np.zeros(49)], axis=1)
    run = np.stack([np.linspace(0.16, 0.95, 120)[1:], np.full(119, 0.38), np.zeros(119)], axis=1)
    line = np.concatenate([rise, bend, run])
    parts = [tube(line, RADIUS, 128)]
    parts += [_flange(line[at], line[at + 1] - line[at]) for at in (24, 152)]
    return joined(parts)


def _flange(centre: Doubles, along: Doubles) -> Mesh:
    """A collar with rounded edges around the pipe."""
    way = along / np.linalg.norm(along)
    t = np.linspace(-1, 1, 41)
    line = centre + way * 0.022 * t[:, None]
    radius = RADIUS + 0.03 * np.clip(1 - np.abs(t) ** 8, 0, 1) ** 0.35
    return tube(line, radius, 128)
