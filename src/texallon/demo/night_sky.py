"""A winter night seen through the ribs of a glasshouse roof, as a latitude-longitude picture in scene-linear light."""

import numpy as np
import numpy.typing as npt

MOON = (0.42, 0.62, -0.66)
"""The way to the moon (not normalised)."""


FINER = 2
"""Times as finely as it is kept the sky is looked at, so that still water shows ribs with smooth edges and not with steps."""


def night_sky(width: int = 1024) -> npt.NDArray[np.float32]:
    """Radiance `(width / 2, width, 3)`: a blue dusk that pales towards the horizon, a soft moon, dark iron ribs."""
    fine = _radiance(width * FINER)
    blocks = fine.reshape(width // 2, FINER, width, FINER, 3)
    return np.ascontiguousarray(blocks.mean(axis=(1, 3)), np.float32)


def _radiance(width: int) -> npt.NDArray[np.float64]:
    height = width // 2
    theta = (np.arange(height) + 0.5) / height * np.pi
    phi = ((np.arange(width) + 0.5) / width - 0.5) * 2 * np.pi
    y = np.cos(theta)[:, None] * np.ones(width)
    x, z = np.sin(theta)[:, None] * np.sin(phi), -np.sin(theta)[:, None] * np.cos(phi)
    up = np.clip(y, 0, 1)[..., None]
    zenith, horizon = np.array([0.030, 0.052, 0.105]), np.array([0.105, 0.150, 0.225])
    sky = horizon + (zenith - horizon) * up**0.55
    way = np.array(MOON) / np.linalg.norm(MOON)
    cosine = x * way[0] + y * way[1] + z * way[2]
    glow = 0.14 * np.exp((cosine - 1) * 9) + 16.0 * np.clip((cosine - 0.9972) / 0.0012, 0, 1)
    sky = sky + glow[..., None] * np.array([0.62, 0.78, 1.0])
    # Ribs run over the roof like staves of a barrel; purlins lie across them.
    with np.errstate(divide="ignore", invalid="ignore"):
        across, along = x / np.maximum(y, 1e-3), z / np.maximum(y, 1e-3)
    rib = np.abs((across * 1.1 + 0.5) % 1.0 - 0.5) < 0.045 * np.clip(1 + np.abs(across), 1, 4)
    purlin = np.abs((along * 0.55 + 0.5) % 1.0 - 0.5) < 0.03 * np.clip(1 + np.abs(along), 1, 4)
    iron = np.where((rib | purlin) & (y > 0.12), 0.12, 1.0)[..., None]
    floor = np.array([0.020, 0.026, 0.036])
    radiance: npt.NDArray[np.float64] = np.where(y[..., None] > 0, sky * iron, floor)
    return radiance
