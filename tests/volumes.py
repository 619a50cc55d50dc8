"""Shots of volumes that tests look at, and what is seen of them."""

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np

from tests.builders import MadeFiles, layer, look, shot, value
from texallon.core.document.resolved import ResolvedShot
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import FrameOptions, render_frame

NO_SCATTER = {"scattering_color": value([0, 0, 0])}


def volume_look(name: str = "mist", points: dict[str, Any] | None = None, **channels: Any) -> dict[str, Any]:
    """A look of the volume domain; numbers and colours stand for constants."""
    given = {key: each if isinstance(each, dict) else value(each) for key, each in channels.items()}
    more = {} if points is None else {"points": points}
    return {"name": name, "domain": "volume", "layers": [layer("base", **given)], **more}


def box(name: str = "box", look: str = "mist", size: float = 1.0, **members: Any) -> dict[str, Any]:
    """A sharp box about the origin."""
    geometry = {"shape": "box", "width": size, "height": size, "depth": size, "rounding": 0}
    return {"name": name, "look": look, "geometry": geometry, "position": [0, -size / 2, 0], **members}


def ball(name: str = "ball", look: str = "mist", radius: float = 0.5, **members: Any) -> dict[str, Any]:
    """A ball about the origin."""
    geometry = {"shape": "sphere", "radius": radius}
    return {"name": name, "look": look, "geometry": geometry, "position": [0, -radius, 0], **members}


def volume_shot(
    *looks: dict[str, Any], objects: list[dict[str, Any]], light: float = 1.0, **members: Any
) -> ResolvedShot:
    """Seen from 5 m through a lens so long that the picture is a few centimetres wide, before even surroundings."""
    camera = {"position": [0, 0, 5], "target": [0, 0, 0], "focal_length": 4000.0}
    made = {"camera": camera, "environment": {"intensity": light}, **members}
    return shot(looks=[look("plain"), *looks], objects=objects, **made)


def seen(
    made: ResolvedShot, samples: int = 16, size: int = 8, files: MadeFiles | None = None, threads: int = 2
) -> np.ndarray:
    """The mean radiance of the picture."""
    film = render_frame(made, files or MadeFiles(), size, size, samples, threads, FrameOptions(write_aovs=True))
    return film.picture().mean(axis=(0, 1))


def violations(made: ResolvedShot, samples: int = 4, size: int = 16) -> int:
    """How often a bound was exceeded while a picture was rendered."""
    context = FrameGraph(made, MadeFiles()).context(size, size)
    film = Film(size, size, len(context.lights.names))
    with ThreadPoolExecutor(2) as pool:
        for _ in range(samples):
            film.add_sample(context, pool)
    assert context.volumes is not None
    return context.volumes.counts["violations"]
