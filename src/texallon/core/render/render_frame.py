"""A finished picture of a shot, from start to end."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from texallon.core.document.shot import Shot
from texallon.core.kernel import Array
from texallon.core.render.camera.view import make_view
from texallon.core.render.files import Files
from texallon.core.render.film.film import Film, Region
from texallon.core.render.light.lights import make_lights
from texallon.core.render.light.mesh_lights import join_emitters, make_mesh_lights
from texallon.core.render.scene.scene import Scene
from texallon.core.render.surface.materials import make_materials
from texallon.core.render.transport.context import RenderContext, frame_seed


def make_context(
    shot: Shot,
    files: Files,
    width: int,
    height: int,
    scene: Scene | None = None,
    frame: int | None = None,
    write_aovs: bool = False,
) -> RenderContext:
    """Everything a render of the shot needs; raises `DocumentError`, `MeshError` or `FileNotFoundError`."""
    placed = scene or Scene(shot, files)
    lights = make_lights(shot, files, placed.radius)
    materials = make_materials(shot, frame)
    sources = join_emitters(lights, make_mesh_lights(placed, materials), placed)
    view = make_view(shot.camera, width, height)
    behind = backdrop_picture(shot, files)
    seed = frame_seed(shot.seed, shot.frames.first if frame is None else frame)
    return RenderContext(
        placed,
        materials,
        lights,
        sources,
        view,
        shot.bounces,
        shot.limits,
        seed,
        write_aovs=write_aovs,
        backdrop=behind,
    )


def backdrop_picture(shot: Shot, files: Files) -> Array | None:
    """What stands behind everything, `(h, w, 3)`; nothing where the surroundings do."""
    if shot.backdrop is None:
        return None
    picture = np.ones((1, 1, 3), np.float32) if shot.backdrop.image is None else files.image(shot.backdrop.image)
    return np.ascontiguousarray(picture * np.array(shot.backdrop.colour, np.float32), np.float32)


def group_weights(shot: Shot) -> Array:
    """How light groups are weighed, `(groups, 3)`; the first is for lights without a group."""
    rows = [(1.0, 1.0, 1.0)]
    for each in shot.light_groups:
        scale = each.intensity * each.on
        rows.append((each.colour[0] * scale, each.colour[1] * scale, each.colour[2] * scale))
    return np.array(rows, np.float32)


def render_frame(
    shot: Shot,
    files: Files,
    width: int,
    height: int,
    samples: int,
    threads: int,
    progress: Callable[[int, Film], None] = lambda done, film: None,
    frame: int | None = None,
    write_aovs: bool = False,
    noise: float = 0.0,
    region: Region | None = None,
) -> Film:
    """The film after `samples` samples, or when it is no noisier than `noise`; always the same, whatever the number of threads."""
    context = make_context(shot, files, width, height, frame=frame, write_aovs=write_aovs)
    film = Film(width, height, len(context.lights.names), write_aovs, noise, region)
    with ThreadPoolExecutor(threads) as pool:
        for done in range(samples):
            film.add_sample(context, pool)
            progress(done + 1, film)
            if film.done:
                break
    return film
