"""One frame of a shot into a picture file: what `texallon render` does."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from texallon.core.derived import DerivedStore
from texallon.core.document.resolved import resolve
from texallon.core.document.shot import Shot
from texallon.core.render.film.bloom import bloomed
from texallon.core.render.film.display import view_bytes
from texallon.core.render.film.film import Film, Region
from texallon.core.render.film.passes import Passes, data_passes
from texallon.core.render.graph import FrameGraph
from texallon.core.render.needs import check_needs, held, reckon, volumes_of
from texallon.core.render.render_frame import FrameOptions, group_weights, render_frame
from texallon.core.render.transport.light_aovs import LIGHT_AOVS
from texallon.formats.exr import Beyond, write_exr
from texallon.formats.shot_files import ShotFiles
from texallon.memory import machine_limit


@dataclass(frozen=True)
class Order:
    """How a picture is made: `samples` at most, ended sooner below `noise` (0 never), of a `region` only."""

    size: tuple[int, int]
    samples: int
    threads: int
    frame: int
    noise: float = 0.0
    region: Region | None = None
    denoise: bool = False
    passes: bool = False
    signals: Sequence[str] = ()
    beyond: Beyond = "float"


def render_file(
    document: Shot,
    files: ShotFiles,
    order: Order,
    out: Path,
    comments: dict[str, str],
    progress: Callable[[int, Film], None],
) -> Film:
    """Render and write `.exr` or `.png`; raises `DocumentError`, `MeshError`, `TooLargeError`, `FileNotFoundError`
    or `OSError`."""
    shot = resolve(document, order.frame)
    width, height = order.size
    needs = reckon(files, held(shot.objects), width, height, order.passes, volumes_of(shot))
    check_needs(needs, machine_limit())
    layers: Passes = {}
    store = DerivedStore()
    if order.passes or order.signals:
        layers = data_passes(shot, FrameGraph(shot, files, store).gbuffer(width, height), order.signals)
    options = FrameOptions(order.passes, order.noise, order.region, store, progress)
    film = render_frame(shot, files, width, height, order.samples, order.threads, options)
    weights = group_weights(shot)
    if order.passes:
        layers |= light_layers(shot, film, weights)
    smooth = film.denoised(weights=weights, quality="high") if order.denoise else None
    if order.passes and smooth is not None:
        layers["denoised"] = smooth
    picture = bloomed(film.picture(weights) if smooth is None else smooth, shot.bloom)
    if out.suffix.lower() == ".exr":
        write_exr(out, picture, {**comments, **exposure_words(shot)}, layers, order.beyond)
    else:
        Image.fromarray(view_bytes(picture, shot.camera.exposure)).save(out)
    return film


def exposure_words(shot: Shot) -> dict[str, str]:
    """What an EXR's header says of the camera's exposure: the file holds light as it is, before any exposure."""
    stops = shot.camera.exposure
    return {
        "exposureStops": f"{stops:g}",
        "exposureNote": f"not applied: scene-linear light; multiply by {2.0**stops:.6g} to see it as the camera does",
    }


def light_layers(shot: Shot, film: Film, weights: np.typing.NDArray[np.float32]) -> Passes:
    """The noisy picture, each way that light came, and each light group as it was rendered, not weighted."""
    layers = {"noisy": film.picture(weights), "albedo": film.albedo()}
    layers |= {f"light.{name}": film.part(name) for name in LIGHT_AOVS}
    for number, name in enumerate(["", *(group.name for group in shot.light_groups)]):
        layers[f"group.{name or 'others'}"] = film.group(number)
    return layers
