"""Volumes that overlap anyhow, seen from anywhere, within them too: against the closed form along each ray of the picture.

Where nothing scatters, light along a ray is a sum over pieces of ∫ j exp(−σ s) ds, which is j/σ (1 − exp(−σ d)), behind what the pieces before let through
(Beer–Lambert).
"""

from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from tests.volumes import NO_SCATTER, ball, box, seen, volume_look, volume_shot
from texallon.core.document.resolved import ResolvedShot
from texallon.core.signal.placement import Places

LENS, FILM, ACROSS = 4000.0, 36.0, 8


def random_bodies(chance: np.random.Generator) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Looks and the bodies that are filled with them, one or two of each look."""
    looks, objects = [], []
    for number in range(int(chance.integers(1, 4))):
        name = f"look {number}"
        channels: dict[str, Any] = {
            "density": float(chance.choice([0.0, 0.02, 0.4, 3.0])),
            "absorption_color": chance.uniform(0, 1, 3).round(3).tolist(),
            **NO_SCATTER,
        }
        if chance.random() < 0.6:
            channels |= {
                "volume_emission": float(chance.uniform(0.1, 3)),
                "volume_emission_color": chance.uniform(0, 1, 3).round(3).tolist(),
            }
        looks.append(volume_look(name, **channels))
        for which in range(int(chance.integers(1, 3))):
            placed = {
                "position": chance.uniform(-0.6, 0.6, 3).round(3).tolist(),
                "rotation": chance.uniform(-180, 180, 3).round(1).tolist(),
                "stretch": chance.uniform(0.4, 2, 3).round(3).tolist(),
                "scale": float(chance.uniform(0.5, 1.5)),
            }
            made = box if chance.random() < 0.5 else ball
            objects.append({**made(f"body {number} {which}", name), **placed})
    return looks, objects


def crossed(item: Any, matrix: np.ndarray, origin: np.ndarray, direction: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """From where to where rays `(3, n)` run in a body, in lengths of their directions; the same twice where they miss it."""
    turned = np.linalg.inv(matrix[:, :3].astype(np.float64))
    o, d = turned @ (origin - matrix[:, 3])[:, None], turned @ direction
    geometry = item.geometry
    if geometry.shape == "sphere":
        o = o - np.array([0, geometry.radius, 0])[:, None]
        a, b, c = (d * d).sum(0), (o * d).sum(0), (o * o).sum(0) - geometry.radius**2
        root = np.sqrt(np.maximum(b * b - a * c, 0))
        near, far = (-b - root) / a, (-b + root) / a
    else:
        half = np.array([geometry.width / 2, geometry.height / 2, geometry.depth / 2])[:, None]
        o = o - np.array([0, geometry.height / 2, 0])[:, None]
        ends = np.sort(np.stack([(-half - o) / d, (half - o) / d]), axis=0)
        near, far = ends[0].max(axis=0), ends[1].min(axis=0)
    near, far = np.maximum(near, 0), np.maximum(far, 0)
    return near, np.maximum(far, near)


def expected(made: ResolvedShot, looks: list[dict[str, Any]], light: float) -> np.ndarray:
    """The mean over the picture's rays, by colour."""
    origin, target = np.array(made.camera.position), np.array(made.camera.target)
    ahead = (target - origin) / np.linalg.norm(target - origin)
    right = np.cross(ahead, [0, 1, 0])
    right /= np.linalg.norm(right)
    up = np.cross(right, ahead)
    at = ((np.arange(2 * ACROSS) + 0.5) / (2 * ACROSS) - 0.5) * FILM / LENS
    x, y = (each.ravel() for each in np.meshgrid(at, at))
    direction = ahead[:, None] + right[:, None] * x + up[:, None] * y
    direction /= np.linalg.norm(direction, axis=0)
    places = Places(made)
    fills = {}
    for each in looks:
        given = {
            key: np.array(channel["recipe"]["steps"][0]["params"]["value"])
            for key, channel in each["layers"][0]["channels"].items()
        }
        absorbs = given["density"] * given["absorption_color"]
        shines = given.get("volume_emission", np.zeros(1)) * given.get("volume_emission_color", np.zeros(3))
        fills[each["name"]] = absorbs, shines
    spans = [
        (crossed(item, places.object(item.name)[:3], origin, direction), fills[item.look]) for item in made.objects
    ]
    ends = np.sort(np.concatenate([np.stack(span) for span, _ in spans]), axis=0)
    seen_so_far, through = np.zeros((3, len(x))), np.ones((3, len(x)))
    for low, high in pairwise(ends):
        middle, length = (low + high) / 2, high - low
        sigma, j = np.zeros((3, len(x))), np.zeros((3, len(x)))
        for (near, far), (absorbs, shines) in spans:
            within = (near < middle) & (middle < far)
            sigma += absorbs[:, None] * within
            j += shines[:, None] * within
        depth = sigma * length
        # (1 − exp(−x)) / x, which is 1 at 0.
        share = np.where(depth > 1e-9, -np.expm1(-depth) / np.maximum(depth, 1e-9), 1)
        seen_so_far += through * j * length * share
        through *= np.exp(-depth)
    return (seen_so_far + through * light).mean(axis=1)


@pytest.mark.parametrize("seed", range(16))
def test_bodies_anywhere_are_seen_as_the_closed_form_says(seed: int) -> None:
    chance = np.random.default_rng(seed)
    looks, objects = random_bodies(chance)
    away = chance.normal(size=3)
    away *= chance.uniform(4, 7) / np.linalg.norm(away) if seed % 2 else 0.3 / np.linalg.norm(away)
    camera = {
        "position": away.round(3).tolist(),
        "target": (chance.uniform(-0.2, 0.2, 3) - away * (seed % 2 == 0) * 9).round(3).tolist(),
        "focal_length": LENS,
        "film_width": FILM,
    }
    light = float(chance.choice([0.0, 1.0]))
    made = volume_shot(*looks, objects=objects, light=light, camera=camera)
    want = expected(made, looks, light)
    assert seen(made, samples=512, size=ACROSS) == pytest.approx(want, rel=0.03, abs=0.004)
