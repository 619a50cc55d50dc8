"""Frames of a shot into numbered files: what `texallon frames` does."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Literal, NamedTuple

from texallon.core.derived import DerivedStore
from texallon.core.document.problem import DocumentError
from texallon.core.document.shot import Shot
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.needs import TooLargeError
from texallon.formats.shot_files import ShotFiles
from texallon.frame_files import RangeOrder, file_names, is_of, kept_frames, made_from
from texallon.render_file import develop, sample

Done = Literal["made", "kept", "failed"]


class FrameReport(NamedTuple):
    """What became of a frame, with the first of its files; `why` where it failed."""

    frame: int
    done: Done
    path: Path
    why: str = ""


def render_range(
    document: Shot, files: ShotFiles, order: RangeOrder, report: Callable[[FrameReport], None]
) -> list[FrameReport]:
    """Render frames one after the other; what they have in common is made once. One that fails stops no other.

    A file that was made from the same document in the same way is kept, so that the same order goes on where it was broken off.

    Parameters
    ----------
    document : Shot
        Checked.
    files : ShotFiles
        Where its geometry is.
    order : RangeOrder
        What is wanted.
    report : callable
        Told of each frame.

    Raises
    ------
    FileExistsError
        Before anything is rendered, where files stand that were made from something else.
    """
    order.folder.mkdir(parents=True, exist_ok=True)
    kept = kept_frames(order, document.name)
    store = DerivedStore()
    reports: list[FrameReport] = []
    for frame in order.frames:
        paths = [order.folder / each for each in file_names(order, document.name, frame)]
        why = "" if frame in kept else _rendered(document, files, order, frame, paths, store)
        done: Done = "failed" if why else "kept" if frame in kept else "made"
        report(FrameReport(frame, done, paths[0], why))
        reports.append(FrameReport(frame, done, paths[0], why))
    return reports


def _rendered(
    document: Shot, files: ShotFiles, order: RangeOrder, frame: int, paths: Sequence[Path], store: DerivedStore
) -> str:
    """Render a frame into its files; gives why they could not be made, where that is so."""
    how, wanted = replace(order.picture, frame=frame), made_from(order, frame)
    try:
        film = sample(document, files, how, store, lambda done, film: None)
        develop(document, files, how, film, paths, wanted, store)
    except (DocumentError, MeshError, TooLargeError, OSError, ValueError) as error:
        return str(error).splitlines()[0] if str(error) else type(error).__name__
    return "" if all(is_of(path, wanted) for path in paths) else "what was written can't be read again"
