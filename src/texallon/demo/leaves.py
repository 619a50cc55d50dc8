"""A picture of fallen leaves that repeats without a seam: what is drawn into the drain."""

import numpy as np
import numpy.typing as npt

SIZE = 1024
COLOURS = np.array([[196, 98, 34], [168, 58, 30], [214, 148, 58], [122, 92, 40], [150, 116, 62], [92, 48, 34]], float)
WET_GROUND = np.array([38, 40, 44], float)


def fallen_leaves(count: int = 130) -> npt.NDArray[np.uint8]:
    """`(1024, 1024, 4)`: leaves over dark ground; alpha is 255 on leaves and 0 between."""
    random = np.random.Generator(np.random.Philox(79))
    picture = np.zeros((SIZE, SIZE, 4))
    picture[..., :3] = WET_GROUND
    for _ in range(count):
        _draw(picture, random)
    return np.rint(picture).astype(np.uint8)


def _draw(picture: npt.NDArray[np.floating], random: np.random.Generator) -> None:
    length = float(random.uniform(62, 118))
    slim = float(random.uniform(0.30, 0.46))
    turn = float(random.uniform(0, 2 * np.pi))
    centre = random.uniform(0, SIZE, 2)
    tone = COLOURS[int(random.integers(len(COLOURS)))] * float(random.uniform(0.75, 1.15))
    reach = int(length) + 2
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1].astype(float)
    along = (np.cos(turn) * x + np.sin(turn) * y) / length
    bend = float(random.uniform(-0.25, 0.25))
    across = (np.cos(turn) * y - np.sin(turn) * x) / length - bend * (along**2 - 0.3)
    half = slim * np.cos(np.clip(along, -1, 1) * np.pi / 2) ** 0.85 * (1 - 0.25 * along)
    half = half * (1 + 0.06 * np.sin(along * 34) * (np.abs(along) < 0.9))
    inside = np.clip((half - np.abs(across)) * length * 0.7, 0, 1) * (np.abs(along) < 1)
    stalk = np.clip(1.8 - np.abs(across) * length, 0, 1) * ((along < -0.9) & (along > -1.25))
    vein = np.exp(-((across * length / 1.6) ** 2)) + 0.55 * np.exp(
        -(((np.abs(across) - 0.9 * ((along * 6) % 1) * half) * length / 1.6) ** 2)
    )
    shade = (0.86 + 0.3 * (across / np.maximum(half, 1e-3)) * 0.5)[..., None] - 0.22 * vein[..., None]
    colour = np.clip(tone * shade, 0, 255)
    cover = np.maximum(inside, stalk)[..., None]
    rows = (np.arange(-reach, reach + 1) + int(centre[1])) % SIZE
    columns = (np.arange(-reach, reach + 1) + int(centre[0])) % SIZE
    window = picture[np.ix_(rows, columns)]
    window[..., :3] += cover * (colour - window[..., :3])
    window[..., 3:] += cover * (255 - window[..., 3:])
    picture[np.ix_(rows, columns)] = window
