"""What `texallon review` does."""

import tempfile
from collections.abc import Callable
from pathlib import Path

from texallon.core.document import Shot
from texallon.core.document.object import FileRef
from texallon.formats.shot_files import ShotFiles
from texallon.review.sheet import body_reference, lay_out, render_review, write_parts


class FilesAndBody(ShotFiles):
    """A shot's files, and those of a folder beside them: the test body's.

    Parameters
    ----------
    body : Path
        The folder of the test body.
    root, store : Path, optional
        As of `ShotFiles`.
    """

    def __init__(self, body: Path, root: Path | None = None, store: Path | None = None) -> None:
        super().__init__(root=root, store=store)
        self._body = ShotFiles(root=body)

    def path(self, ref: FileRef) -> Path:
        try:
            return super().path(ref)
        except FileNotFoundError:
            return self._body.path(ref)


def review_file(
    shot: Shot,
    root: Path,
    look: str,
    size: tuple[int, int],
    samples: int,
    threads: int,
    out: Path,
    parts: Path | None,
    report: Callable[[int, int], None],
) -> None:
    """Render a look's sheet into a .png file, and its pictures into an .exr; raises `ReviewError`, `MeshError` or `OSError`."""
    with tempfile.TemporaryDirectory() as name:
        body = body_reference(Path(name))
        files = FilesAndBody(Path(name), root=root)
        pictures = render_review(shot, look, files, body, threads, report, samples, size)
    lay_out(pictures, f"{look}  ·  {shot.name}  ·  {samples} samples").save(out)
    if parts is not None:
        write_parts(parts, pictures, {"texallon:look": look, "texallon:shot": shot.name})
