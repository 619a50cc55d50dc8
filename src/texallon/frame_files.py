"""Files of frames: which are wanted, how they are made, what they are called, and what their headers say of that."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal, NamedTuple

import OpenEXR
from PIL import Image

from texallon.core.document.shot import Shot
from texallon.core.render.film.division import Region
from texallon.formats.exr import Beyond, Compression

MOST_FRAMES = 100_000

Suffix = Literal[".exr", ".png"]


@dataclass(frozen=True)
class Order:
    """How a picture is made: `samples` at most, ended sooner below `noise` (0 never), of a `region` only; `threads` 0 for as many as there
    are; `burn_in` writes shot, frame and digest into the lower edge of a PNG."""

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
    compression: Compression = "zip"
    burn_in: bool = False


class RangeOrder(NamedTuple):
    """Which frames, into which folder, as what kinds of file, and how each is made (`picture`, whatever frame that names) from the document of
    a `digest`. Files that were made from something else are left alone unless `overwrite` is set."""

    frames: Sequence[int]
    folder: Path
    suffixes: tuple[Suffix, ...]
    picture: Order
    digest: str
    overwrite: bool = False


def frames_of(text: str, shot: Shot) -> list[int]:
    """Frames as people write them: `1-48`, `1,24,48`, `1-48/4` for every fourth.

    Parameters
    ----------
    text : str
        Parts with commas between them; empty for all of the shot.
    shot : Shot
        Whose frames they are.

    Returns
    -------
    list of int
        Rising, none twice.

    Raises
    ------
    ValueError
        For what can't be read, or frames that the shot has not.
    """
    first, last = shot.frames.first, shot.frames.last
    found: set[int] = set()
    for part in text.split(",") if text.strip() else [f"{first}-{last}"]:
        read = re.fullmatch(r"\s*(-?\d{1,7})(?:-(-?\d{1,7}))?(?:/(\d{1,7}))?\s*", part)
        if read is None or read[3] == "0" or (read[3] and read[2] is None):
            raise ValueError(f"--frames {text[:60]}: write frames such as 1-48, 1,24,48 or 1-48/4")
        begin, end = int(read[1]), int(read[2] or read[1])
        outside = next((each for each in (begin, end) if not first <= each <= last), None)
        if outside is not None:
            raise ValueError(f"--frames: the shot has frames {first} to {last}, not {outside}")
        if end < begin:
            raise ValueError(f"--frames {part.strip()}: the later frame comes second")
        found.update(range(begin, end + 1, int(read[3] or 1)))
        if len(found) > MOST_FRAMES:
            raise ValueError(f"--frames: at most {MOST_FRAMES:,} at once")
    return sorted(found)


def file_names(order: RangeOrder, name: str, frame: int) -> tuple[str, ...]:
    """`NAME.####.exr` and the like, the shot's name without what a file's may not hold.

    Parameters
    ----------
    order : RangeOrder
        Which kinds of file.
    name : str
        Of the shot.
    frame : int
        Of the shot.
    """
    return tuple(f"{plain_name(name)}.{frame:04d}{suffix}" for suffix in order.suffixes)


def plain_name(name: str) -> str:
    """A shot's name without what a file's may not hold.

    Parameters
    ----------
    name : str
        Of the shot.
    """
    return re.sub(r"[^\w.-]+", "_", name).strip("._") or "shot"


def made_from(order: RangeOrder, frame: int) -> dict[str, str]:
    """What a picture's header says that it was made from, and how.

    Parameters
    ----------
    order : RangeOrder
        What is wanted.
    frame : int
        Of the shot.
    """
    how = order.picture
    ways = [f"{how.size[0]}x{how.size[1]}", f"{how.samples} samples", f"noise {how.noise:g}", how.beyond]
    ways += ["denoised"] if how.denoise else []
    ways += ["passes"] if how.passes else []
    ways += [f"signal {each}" for each in how.signals]
    ways += [how.compression] if how.compression != "zip" else []
    ways += ["burn-in"] if how.burn_in else []
    return {"texallon:document": order.digest, "texallon:frame": str(frame), "texallon:made": ", ".join(ways)}


def kept_frames(order: RangeOrder, name: str) -> set[int]:
    """The frames of an order whose files are all there, made from the same in the same way.

    Parameters
    ----------
    order : RangeOrder
        What is wanted.
    name : str
        Of the shot.

    Raises
    ------
    FileExistsError
        Where files stand that were made from something else, and may not be written over.
    """
    kept, others = set(), []
    for frame in order.frames:
        paths = [order.folder / each for each in file_names(order, name, frame)]
        there = [path for path in paths if path.exists()]
        strange = [path for path in there if not is_of(path, made_from(order, frame))]
        others += strange
        if len(there) == len(paths) and not strange:
            kept.add(frame)
    if others and not order.overwrite:
        more = f" and {len(others) - 1} more" if len(others) > 1 else ""
        raise FileExistsError(
            f"{others[0]}{more} stand there, made from something else: --overwrite, or another folder"
        )
    return kept


def is_of(path: Path, wanted: dict[str, str]) -> bool:
    """Whether a picture can be read, and says that it was made from what is wanted.

    Parameters
    ----------
    path : Path
        Of an `.exr` or `.png` file.
    wanted : dict
        By name, what its header is to say.
    """
    try:
        if path.suffix == ".exr":
            header = OpenEXR.File(str(path)).header()
            return all(header.get(name) == words for name, words in wanted.items())
        with Image.open(path) as picture:
            picture.load()
            return all(picture.info.get(name) == words for name, words in wanted.items())
    except Exception:  # whatever is wrong with it, it is not what is wanted
        return False
