"""Rendering a review sheet, and laying it out as one picture and as an OpenEXR file of several parts."""

from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
import numpy.typing as npt
import OpenEXR
from PIL import Image, ImageDraw, ImageFont

from texallon.core.derived import DerivedStore
from texallon.core.document import Shot
from texallon.core.document.names import nearest
from texallon.core.document.resolved import resolve
from texallon.core.render.film.display import view_bytes
from texallon.core.render.render_frame import FrameOptions, render_frame
from texallon.formats.exr import within_reach
from texallon.formats.shot_files import ShotFiles
from texallon.review.rigs import RIGS
from texallon.review.tiles import TURNS, Tile, find_own, make_tiles
from texallon.starter.documents import BODY_FILE

Picture = npt.NDArray[np.float32]

WIDTH, HEIGHT = 400, 300
"""Pixels of one picture."""

SAMPLES = 48
GAP, LINE = 8, 22
GROUND, TEXT, QUIET = (18, 21, 26), (233, 230, 223), (154, 163, 173)


class ReviewError(ValueError):
    """A sheet that can't be made; the message says why."""


def render_review(
    shot: Shot,
    look: str,
    files: ShotFiles,
    body: dict[str, str],
    threads: int,
    report: Callable[[int, int], None] = lambda done, total: None,
    samples: int = SAMPLES,
    size: tuple[int, int] = (WIDTH, HEIGHT),
) -> list[tuple[Tile, Picture]]:
    """Every picture of a look's sheet, scene-linear; raises `ReviewError` where the shot has no such look.

    Parameters
    ----------
    shot : Shot
        Checked.
    look : str
        The look's name.
    files : ShotFiles
        Where its meshes and pictures, and the test body, are read from.
    body : dict
        The test body's file.
    threads : int
        For rendering.
    report : callable, optional
        Hears how many pictures are done, of how many.
    samples : int, optional
        Of each pixel.
    size : tuple of int, optional
        Pixels of one picture.
    """
    names = [each.name for each in shot.looks]
    if look not in names:
        raise ReviewError(f"there is no look “{look}”; {nearest(look, names)}")
    store = DerivedStore()
    tiles = make_tiles(shot, look, body, find_own(shot, look, files, store))
    done: list[tuple[Tile, Picture]] = []
    for number, tile in enumerate(tiles):
        report(number, len(tiles))
        film = render_frame(resolve(tile.document), files, *size, samples, threads, FrameOptions(store=store))
        done.append((tile, film.denoised()))
    report(len(tiles), len(tiles))
    return done


def lay_out(pictures: Sequence[tuple[Tile, Picture]], heading: str) -> Image.Image:
    """The sheet as one picture, a row for each light and one for the turntable.

    Parameters
    ----------
    pictures : sequence
        As `render_review` gives them.
    heading : str
        Stands above.
    """
    height, width = pictures[0][1].shape[:2]
    rows = [(rig.name, [each for each in pictures if each[0].name.startswith(f"{rig.name}.")]) for rig in RIGS]
    turns = [each for each in pictures if each[0].name.startswith("turntable.")]
    across = max(len(row) for _, row in rows)
    total = across * (width + GAP) + GAP
    small = (total - GAP) // TURNS - GAP
    low = height * small // width
    sheet = Image.new("RGB", (total, 34 + len(rows) * (height + 2 * LINE) + low + 2 * LINE), GROUND)
    draw, font = ImageDraw.Draw(sheet), ImageFont.load_default(13)
    draw.text((GAP, 9), heading, TEXT, font=ImageFont.load_default(15))
    top = 34
    for name, row in rows:
        draw.text((GAP, top + 3), name, QUIET, font=font)
        for column, (tile, picture) in enumerate(row):
            left = GAP + column * (width + GAP)
            sheet.paste(Image.fromarray(view_bytes(picture, 0.0)), (left, top + LINE))
            draw.text((left, top + LINE + height + 3), tile.title, QUIET, font=font)
        top += height + 2 * LINE
    draw.text((GAP, top + 3), f"turntable, {RIGS[0].name}", QUIET, font=font)
    for column, (tile, picture) in enumerate(turns):
        left = GAP + column * (small + GAP)
        shrunk = Image.fromarray(view_bytes(picture, 0.0)).resize((small, low), Image.Resampling.LANCZOS)
        sheet.paste(shrunk, (left, top + LINE))
        draw.text((left, top + LINE + low + 1), tile.title, QUIET, font=font)
    return sheet


def write_parts(path: Path, pictures: Sequence[tuple[Tile, Picture]], comments: dict[str, str]) -> None:
    """All pictures as parts of one OpenEXR file, scene-linear with Rec. 709 primaries; it appears whole or not at all.

    Parameters
    ----------
    path : Path
        Where to.
    pictures : sequence
        As `render_review` gives them.
    comments : dict
        Text attributes of every part.
    """
    parts = []
    for tile, picture in pictures:
        held, note, kind = within_reach(picture, "float")
        header = {
            "name": tile.name,
            "compression": OpenEXR.ZIP_COMPRESSION,
            "type": OpenEXR.scanlineimage,
            "chromaticities": (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290),
            "title": tile.title,
            **comments,
            **({"rangeNote": note} if note else {}),
        }
        planes = {letter: np.ascontiguousarray(held[:, :, i], kind) for i, letter in enumerate("RGB")}
        parts.append(OpenEXR.Part(header, planes, tile.name))
    temporary = path.with_name(f".{path.name}.part")
    try:
        OpenEXR.File(parts).write(str(temporary))
        temporary.replace(path)
    finally:
        temporary.unlink(missing_ok=True)


def body_reference(folder: Path) -> dict[str, str]:
    """Write the test body's file into a folder, and give what a document names it by.

    Parameters
    ----------
    folder : Path
        Any.
    """
    import hashlib

    from texallon.formats.mesh_file import write_glb
    from texallon.starter.test_body import turned_body

    path = folder / BODY_FILE
    path.parent.mkdir(parents=True, exist_ok=True)
    write_glb(path, turned_body())
    return {"file": BODY_FILE, "sha256": hashlib.sha256(path.read_bytes()).hexdigest()}
