"""Frames of a shot side by side in one picture: what `texallon contact-sheet` does."""

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import NamedTuple

from PIL import Image, ImageDraw

from texallon.core.derived import DerivedStore
from texallon.core.document.resolved import resolve
from texallon.core.document.shot import Shot
from texallon.core.render.film.bloom import bloomed
from texallon.core.render.film.display import view_bytes
from texallon.core.render.needs import check_needs, held, reckon, volumes_of
from texallon.core.render.render_frame import FrameOptions, group_weights, render_frame
from texallon.formats.shot_files import ShotFiles
from texallon.memory import machine_limit

BACK, INK = (13, 16, 20), (230, 180, 90)
MOST_PIXELS = 200_000_000
"""Of a sheet."""


class SheetOrder(NamedTuple):
    """Which frames, how large each is, and how it is made."""

    frames: Sequence[int]
    size: tuple[int, int]
    columns: int
    samples: int
    threads: int


def spread_over(shot: Shot, count: int) -> list[int]:
    """As many frames as are wanted, evenly over a shot, the first and the last among them.

    Parameters
    ----------
    shot : Shot
        Whose frames they are.
    count : int
        From 1; no frame comes twice.
    """
    first, last = shot.frames.first, shot.frames.last
    if count == 1:
        return [first]
    return sorted({round(first + (last - first) * at / (count - 1)) for at in range(count)})


def contact_sheet(
    document: Shot, files: ShotFiles, order: SheetOrder, out: Path, progress: Callable[[int, int], None]
) -> None:
    """Render frames into one `.png`; raises as `render_file` does.

    Parameters
    ----------
    document : Shot
        Checked.
    files : ShotFiles
        Where its geometry is.
    order : SheetOrder
        What is wanted.
    out : Path
        The file.
    progress : callable
        Told how many frames are done, of how many.
    """
    width, height = order.size
    columns = min(order.columns, len(order.frames))
    rows = -(-len(order.frames) // columns)
    if width * columns * height * rows > MOST_PIXELS:
        raise ValueError(f"a sheet of {width * columns} × {height * rows} pixels: take fewer frames, or smaller ones")
    sheet = Image.new("RGB", (width * columns, height * rows), BACK)
    pen = ImageDraw.Draw(sheet)
    # What frames have in common is made once: meshes, plans, and what remembers.
    store = DerivedStore()
    for number, frame in enumerate(order.frames):
        shot = resolve(document, frame)
        needs = reckon(files, held(shot.objects), width, height, False, volumes_of(shot))
        check_needs(needs, machine_limit())
        film = render_frame(shot, files, width, height, order.samples, order.threads, FrameOptions(store=store))
        picture = bloomed(film.denoised(weights=group_weights(shot), quality="high"), shot.bloom)
        at = (number % columns * width, number // columns * height)
        sheet.paste(Image.fromarray(view_bytes(picture, shot.camera.exposure)), at)
        pen.text((at[0] + 6, at[1] + 4), str(frame), INK)
        progress(number + 1, len(order.frames))
    sheet.save(out)
