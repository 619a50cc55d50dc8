"""A finished picture of a shot, from start to end."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

from texallon.core.document.shot import Shot
from texallon.core.render.camera import make_view
from texallon.core.render.files import Files
from texallon.core.render.film import Film
from texallon.core.render.integrator import Job
from texallon.core.render.lights import make_lights
from texallon.core.render.materials import make_materials
from texallon.core.render.scene import Scene


def make_job(
    shot: Shot, files: Files, width: int, height: int, scene: Scene | None = None, frame: int | None = None
) -> Job:
    """Everything a render of the shot needs; raises `DocumentError`, `MeshError` or `FileNotFoundError`."""
    placed = scene or Scene(shot, files)
    lights = make_lights(shot, files, placed.radius)
    view = make_view(shot.camera, width, height)
    return Job(placed, make_materials(shot, frame), lights, view, shot.bounces, shot.limits, shot.seed)


def render_still(
    shot: Shot,
    files: Files,
    width: int,
    height: int,
    samples: int,
    threads: int,
    progress: Callable[[int], None] = lambda done: None,
    frame: int | None = None,
) -> Film:
    """The film after `samples` samples; the same every time, whatever the number of threads."""
    job = make_job(shot, files, width, height, frame=frame)
    film = Film(width, height)
    with ThreadPoolExecutor(threads) as pool:
        for done in range(samples):
            film.add_sample(job, pool)
            progress(done + 1)
    return film
