"""Numbered frames as a video: what `texallon video` does."""

import re
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt
import OpenEXR
from PIL import Image

from texallon.core.render.film.display import VIEW, view_bytes
from texallon.formats.burn_in import burnt_in
from texallon.formats.exr import read_channels
from texallon.formats.video import write_video

NUMBERED = re.compile(r"(.+)\.(-?\d{3,7})\.(exr|png)")

Bytes = npt.NDArray[np.uint8]


class NumberedFrames(NamedTuple):
    """Files of one name that follow each other."""

    name: str
    files: dict[int, Path]


def frames_in(folder: Path, name: str = "", first: Literal["png", "exr"] = "png") -> NumberedFrames:
    """The numbered pictures of a folder.

    Parameters
    ----------
    folder : Path
        Where `NAME.####.png` or `.exr` files stand.
    name : str, optional
        Where there are several.
    first : str, optional
        Which are taken where both `.png` and `.exr` are there.

    Raises
    ------
    ValueError
        Where there are none, several names, or gaps.
    """
    found: dict[tuple[str, str], dict[int, Path]] = {}
    for path in sorted(folder.iterdir()):
        read = NUMBERED.fullmatch(path.name)
        if read and (not name or read[1] == name):
            found.setdefault((read[1], read[3]), {})[int(read[2])] = path
    names = sorted({each for each, _ in found})
    if not names:
        raise ValueError(f"{folder}: there are no frames such as {name or 'shot'}.0001.png")
    if len(names) > 1:
        raise ValueError(f"{folder}: there are frames of {', '.join(names[:6])}: choose by --name")
    files = found.get((names[0], first)) or found[names[0], "exr" if first == "png" else "png"]
    missing = [each for each in range(min(files), max(files) + 1) if each not in files]
    if missing:
        more = f" and {len(missing) - 1} more" if len(missing) > 1 else ""
        raise ValueError(f"{folder}: frame {missing[0]}{more} of {names[0]} is missing")
    return NumberedFrames(names[0], dict(sorted(files.items())))


def make_video(
    frames: NumberedFrames,
    out: Path,
    rate: float,
    burn_in: bool,
    view: str = VIEW,
    report: Callable[[int], None] = lambda done: None,
) -> int:
    """Write frames as a video; those of light are shown as the camera exposes them.

    Parameters
    ----------
    frames : NumberedFrames
        As `frames_in` finds them.
    out : Path
        An `.mp4` file.
    rate : float
        Frames a second.
    burn_in : bool
        Whether the shot's name, the frame and the document's digest are written into the lower edge.
    view : str, optional
        By which light is shown.
    report : callable
        Told how many are done.
    """

    def pictures() -> Iterator[Bytes]:
        for number, (frame, path) in enumerate(frames.files.items()):
            pixels, said = _shown(path, view)
            digest = said.get("texallon:document", "")[:12]
            yield burnt_in(pixels, f"{frames.name}   {frame:04d}   {digest}".rstrip()) if burn_in else pixels
            report(number + 1)

    return write_video(out, pictures(), rate)


def shown_as_video(path: Path) -> Bytes:
    """A picture file as a screen shows it, `(height, width, 3)`.

    Parameters
    ----------
    path : Path
        Of a `.png` or `.exr` file.
    """
    return _shown(path, VIEW)[0]


class NoiseFree(NamedTuple):
    """What of a frame is free of noise: `values (h, w, c)`, and how it moves, pixels a frame, where that is known."""

    values: npt.NDArray[np.float32]
    velocity: npt.NDArray[np.float32] | None


def noise_free(path: Path) -> NoiseFree:
    """A frame's albedo and velocity, where the file has them, else its picture.

    Parameters
    ----------
    path : Path
        Of a `.png` or `.exr` file.
    """
    if path.suffix == ".png":
        return NoiseFree(shown_as_video(path).astype(np.float32) / 255, None)
    layers = read_channels(path)
    by = "albedo." if "albedo.R" in layers else ""
    values = np.stack([layers[f"{by}{letter}"] for letter in "RGB"], axis=2)
    moves = {"velocity.X", "velocity.Y"} <= layers.keys()
    return NoiseFree(values, np.stack([layers["velocity.X"], layers["velocity.Y"]], axis=2) if moves else None)


def _shown(path: Path, view: str) -> tuple[Bytes, Mapping[str, str]]:
    """A picture as a screen shows it, and what its header says."""
    if path.suffix == ".png":
        with Image.open(path) as picture:
            return np.asarray(picture.convert("RGB")), {name: str(words) for name, words in picture.info.items()}
    with OpenEXR.File(str(path)) as file:  # which takes all that it gave back again at its end
        said = {name: words for name, words in file.header().items() if isinstance(words, str)}
        light = np.array(file.channels()["RGB"].pixels, np.float32)
    return view_bytes(light, float(said.get("exposureStops", 0.0)), view=view), said
