"""A finished picture of a shot at a time, from start to end."""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from texallon.core.derived import DerivedStore
from texallon.core.document.resolved import ResolvedShot
from texallon.core.document.shot import Shot
from texallon.core.kernel import Array
from texallon.core.render.files import Files
from texallon.core.render.film.division import Region, ShareOfFilm
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.core.render.shutter import open_shutter
from texallon.core.render.transport.context import RenderContext


@dataclass(frozen=True)
class FrameOptions:
    """How a picture is made, beside its size and samples.

    Attributes
    ----------
    write_aovs : bool
        Whether light is also kept by the way it came.
    noise : float
        Parts whose relative error is smaller are left as they are; 0 samples all alike.
    region : tuple, optional
        Left, top, right and bottom, 0…1: the only part that is sampled.
    store : DerivedStore, optional
        Where what the picture is made from is kept.
    share : ShareOfFilm, optional
        The only part that is rendered, by itself.
    wanted : callable
        Asked often, from several threads; when it says no, `Interrupted` is raised.
    progress : callable
        Told the number of samples and the film, after each.
    """

    write_aovs: bool = False
    noise: float = 0.0
    region: Region | None = None
    store: DerivedStore | None = None
    share: ShareOfFilm | None = None
    wanted: Callable[[], bool] = lambda: True
    progress: Callable[[int, Film], None] = lambda done, film: None


def make_context(shot: ResolvedShot, files: Files, width: int, height: int) -> RenderContext:
    """Everything a render of the shot needs, for a picture of some pixels.

    Parameters
    ----------
    shot : ResolvedShot
        A shot.
    files : Files
        Where meshes and pictures are read from.
    width : int
        Pixels across.
    height : int
        Pixels down.

    Raises
    ------
    DocumentError, MeshError, FileNotFoundError
        Where a look can't be planned or a file can't be read.
    """
    return FrameGraph(shot, files).context(width, height)


def group_weights(shot: Shot) -> Array:
    """How light groups are weighted, `(groups, 3)`; the first is for lights without a group.

    Parameters
    ----------
    shot : Shot
        A shot.

    Returns
    -------
    Array
        `(groups, 3)`.
    """
    rows = [(1.0, 1.0, 1.0)]
    for each in shot.light_groups:
        scale = each.intensity * each.on
        rows.append((each.colour[0] * scale, each.colour[1] * scale, each.colour[2] * scale))
    return np.array(rows, np.float32)


def render_frame(
    shot: ResolvedShot,
    files: Files,
    width: int,
    height: int,
    samples: int,
    threads: int,
    options: FrameOptions = FrameOptions(),
) -> Film:
    """Render a picture; always the same, whatever the number of threads.

    Parameters
    ----------
    shot : ResolvedShot
        A shot.
    files : Files
        Where meshes and pictures are read from.
    width, height : int
        Pixels.
    samples : int
        Most for each pixel.
    threads : int
        Number of threads.
    options : FrameOptions
        Which passes to make, how often to look at the noise, and what to say on the way.

    Returns
    -------
    Film
        After `samples` samples, or when it is no noisier than wanted.
    """
    graph = FrameGraph(shot, files, options.store)

    def context_of(moment: FrameGraph) -> RenderContext:
        return replace(moment.context(width, height, options.write_aovs), wanted=options.wanted)

    source = open_shutter(graph, (width, height), context_of) or context_of(graph)
    share = options.share or ShareOfFilm((0, height), 0, samples)
    film = Film(
        width, height, len(shot.light_groups) + 1, options.write_aovs, options.noise, options.region, share.rows,
        share.first,
    )  # fmt: skip
    with ThreadPoolExecutor(threads) as pool:
        for done in range(share.first, min(share.last, samples)):
            film.add_sample(source, pool)
            options.progress(done + 1, film)
            if film.done:
                break
    film.volumes = source.volume_use()
    return film
