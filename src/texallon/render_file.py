"""One frame of a shot into a picture file: what `texallon render` does."""

from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from texallon.core.derived import DerivedStore, Disk
from texallon.core.document.resolved import resolve
from texallon.core.document.shot import Shot
from texallon.core.render.coverage import MOST_SAMPLES, coverage
from texallon.core.render.film.bloom import bloomed
from texallon.core.render.film.display import view_bytes
from texallon.core.render.film.division import ShareOfFilm
from texallon.core.render.film.film import Film
from texallon.core.render.film.passes import Passes, check_signals, data_passes
from texallon.core.render.graph import FrameGraph
from texallon.core.render.needs import check_needs, held, reckon, volumes_of
from texallon.core.render.render_frame import FrameOptions, group_weights, render_frame
from texallon.core.render.transport.light_aovs import LIGHT_AOVS
from texallon.core.render.velocity import velocity_pass
from texallon.formats.burn_in import burnt_in
from texallon.formats.exr import write_exr
from texallon.formats.id_masks import id_layers
from texallon.formats.shot_files import ShotFiles
from texallon.frame_files import Order
from texallon.memory import machine_limit

Bytes = np.typing.NDArray[np.uint8]


def render_file(
    document: Shot,
    files: ShotFiles,
    order: Order,
    out: Path,
    comments: dict[str, str],
    progress: Callable[[int, Film], None],
    disk: Disk | None = None,
    store: DerivedStore | None = None,
) -> Film:
    """Render and write `.exr` or `.png`; raises `DocumentError`, `MeshError`, `TooLargeError`, `FileNotFoundError`
    or `OSError`. The file says what it was made from (`comments`), and appears whole or not at all."""
    store = DerivedStore(disk=disk) if store is None else store
    film = sample(document, files, order, store, progress)
    develop(document, files, order, film, [out], comments, store)
    return film


def sample(
    document: Shot,
    files: ShotFiles,
    order: Order,
    store: DerivedStore,
    progress: Callable[[int, Film], None],
    share: ShareOfFilm | None = None,
    wanted: Callable[[], bool] = lambda: True,
) -> Film:
    """Sample a frame, or a share of it; raises as `render_file`, and `Interrupted` when it is not wanted any more."""
    shot = resolve(document, order.frame)
    check_signals(shot, order.signals)
    width, height = order.size
    needs = reckon(files, held(shot.objects), width, height, order.passes, volumes_of(shot))
    check_needs(needs, machine_limit())
    options = FrameOptions(order.passes, order.noise, order.region, store, share, wanted, progress)
    film = render_frame(shot, files, width, height, order.samples, order.threads, options)
    FrameGraph(shot, files, store).filled.keep_on_disk()
    return film


def develop(
    document: Shot,
    files: ShotFiles,
    order: Order,
    film: Film,
    outs: Sequence[Path],
    comments: dict[str, str],
    store: DerivedStore,
) -> Bytes:
    """Make the picture of a film that is sampled, with the passes that are wanted, and write it as `.exr` or `.png` files; gives it as shown."""
    shot = resolve(document, order.frame)
    weights = group_weights(shot)
    smooth = film.denoised(weights=weights, quality="high") if order.denoise else None
    picture = bloomed(film.picture(weights) if smooth is None else smooth, shot.bloom)
    shown = view_bytes(picture, shot.camera.exposure)
    parts, names = _parts(FrameGraph(shot, files, store), order, film)
    if order.passes:
        parts["light"] |= {"noisy": film.picture(weights)} | ({} if smooth is None else {"denoised": smooth})
    words = f"{document.name}   {order.frame:04d}   {comments.get('texallon:document', '')[:12]}".rstrip()
    for out in outs:
        if out.suffix.lower() == ".exr":
            said = {**comments, **exposure_words(shot), **names}
            write_exr(out, picture, said, parts, order.beyond, order.compression)
        else:
            write_png(out, burnt_in(shown, words) if order.burn_in else shown, comments)
    return shown


def _parts(graph: FrameGraph, order: Order, film: Film) -> tuple[dict[str, Passes], dict[str, str]]:
    """What stands beside the picture in an EXR, a part for each kind (`light`, `data`, `ids`), and what its header says of that."""
    if not (order.passes or order.signals):
        return {}, {}
    shot, (width, height) = graph.shot, order.size
    data, names = data_passes(shot, graph.gbuffer(width, height), order.signals), dict[str, str]()
    if not order.passes:
        return {"data": data}, names
    data["velocity"] = velocity_pass(graph, width, height)
    ids: Passes = {}
    named = {"object": [each.name for each in shot.objects], "look": [each.name for each in shot.looks]}
    for kind, found in coverage(graph, width, height, order.samples).items():
        masks, said = id_layers(kind, named[kind], found.numbers, found.shares)
        ids, names = ids | masks, names | said
    names["idMaskSamples"] = str(min(order.samples, MOST_SAMPLES))
    return {"light": light_layers(shot, film), "data": data, "ids": ids}, names


def write_png(path: Path, pixels: Bytes, comments: dict[str, str]) -> None:
    """Write `(height, width, 3)` with text beside it; the file appears whole or not at all."""
    said = PngInfo()
    for name, words in comments.items():
        said.add_text(name, words)
    temporary = path.with_name(f".{path.name}.part")
    try:
        Image.fromarray(pixels).save(temporary, format="PNG", pnginfo=said)
        temporary.replace(path)
    finally:
        temporary.unlink(missing_ok=True)


def exposure_words(shot: Shot) -> dict[str, str]:
    """What an EXR's header says of the camera's exposure: the file holds light as it is, before any exposure."""
    stops = shot.camera.exposure
    return {
        "exposureStops": f"{stops:g}",
        "exposureNote": f"not applied: scene-linear light; multiply by {2.0**stops:.6g} to see it as the camera does",
    }


def light_layers(shot: Shot, film: Film) -> Passes:
    """The albedo, each way that light came, and each light group as it was rendered, not weighted."""
    layers = {"albedo": film.albedo()} | {f"light.{name}": film.part(name) for name in LIGHT_AOVS}
    for number, name in enumerate(["", *(group.name for group in shot.light_groups)]):
        layers[f"group.{name or 'others'}"] = film.group(number)
    return layers
