"""An order for frames: its document and files put where workers find them, and a task for each frame."""

import json
from dataclasses import replace
from typing import NamedTuple

from texallon.core.document import shot_json
from texallon.core.document.object import FileRef
from texallon.core.document.shot import Shot
from texallon.farm.code_state import code_state
from texallon.farm.ledger import WantedFrame
from texallon.farm.task import FrameTask
from texallon.farm.vault import Vault
from texallon.formats.file_digest import digest_of
from texallon.formats.references import references
from texallon.formats.shot_files import ShotFiles
from texallon.frame_files import RangeOrder, made_from, plain_name


class Places(NamedTuple):
    """Where a shot lies: the vault's URL, the SHA-256 of the document in it, and where results go if that is elsewhere."""

    vault: str
    document: str
    results: str = ""


def put_shot(vault: Vault, shot: Shot, files: ShotFiles) -> str:
    """Put a document and all that it refers to into a vault; gives the SHA-256 of the document as it is there, every file with its digest.

    Parameters
    ----------
    vault : Vault
        Where workers look.
    shot : Shot
        Checked.
    files : ShotFiles
        Where its files are now.

    Raises
    ------
    FileNotFoundError, VaultError
        Where a file is missing, is not what the document names, or can't be put.
    """
    document = shot_json(shot)
    for ref in references(document):
        path = files.path(FileRef(file=ref["file"], sha256=ref.get("sha256")))
        ref["sha256"] = ref.get("sha256") or digest_of(path)
        vault.put_file(path, ref["sha256"])
    text = json.dumps(document, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return vault.put(text.encode(), ".json")


def tasks_of(order: RangeOrder, job: str, name: str, places: Places, workers: int = 1) -> list[WantedFrame]:
    """A task for each frame of an order; frames that are fewer than workers are divided among them.

    Parameters
    ----------
    order : RangeOrder
        What is wanted; its folder is within the results.
    job : str
        Tells it from other orders.
    name : str
        Of the shot.
    places : Places
        Where workers find it.
    workers : int, optional
        That there are.
    """
    within, shares = order.folder.as_posix().strip("."), max(1, workers // max(len(order.frames), 1))

    def task(frame: int) -> FrameTask:
        own = f"{plain_name(name)}.{frame:04d}"
        return FrameTask(
            places.vault, places.document, replace(order.picture, frame=frame), f"{within}/{own}" if within else own,
            made_from(order, frame), order.suffixes, places.results, shares, code=code_state(),
        )  # fmt: skip

    return [WantedFrame(f"frame-{job}-{frame}", task(frame)) for frame in order.frames]
