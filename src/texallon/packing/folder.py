"""A pack laid out as a folder of plain files."""

import shutil
import tempfile
from pathlib import Path

from texallon.packing.manifest import MANIFEST, PackError
from texallon.packing.unpack import Pack


def write_folder(pack: Pack, folder: Path) -> list[Path]:
    """Write everything that a pack holds into a new folder, which appears whole or not at all; gives the documents.

    Parameters
    ----------
    pack : Pack
        Checked.
    folder : Path
        Does not exist yet, or is empty.

    Raises
    ------
    PackError
        Where something is there already.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise PackError(f"{folder} is there already, and not empty")
    folder.parent.mkdir(parents=True, exist_ok=True)
    part = Path(tempfile.mkdtemp(prefix=".part-", dir=folder.parent))
    try:
        (part / MANIFEST).write_text(pack.manifest.model_dump_json(indent=2) + "\n")
        for each in (*pack.manifest.shots, *pack.manifest.files):
            target = part / each.path
            target.parent.mkdir(parents=True, exist_ok=True)
            target.write_bytes(pack.bytes_at(each.path))
        part.chmod(0o755)
        if folder.exists():
            folder.rmdir()
        part.rename(folder)
    except BaseException:
        shutil.rmtree(part, ignore_errors=True)
        raise
    return [folder / shot.path for shot in pack.manifest.shots]
