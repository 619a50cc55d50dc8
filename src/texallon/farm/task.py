"""What a worker is asked for: plain values that go through any wire, never a live object."""

from dataclasses import dataclass
from typing import NamedTuple

from texallon.frame_files import Order, Suffix


@dataclass(frozen=True)
class FrameTask:
    """A frame of a document, how it is rendered, and where its files go.

    Attributes
    ----------
    vault : str
        The folder or URL where the document and its files are.
    document : str
        SHA-256 of the document's JSON there.
    picture : Order
        Which frame, and how it is made.
    out : str
        The name of its files, without their endings.
    made_from : dict
        What the headers of its files say.
    suffixes : tuple of str
        Of its files.
    results : str
        Into which folder or URL they go, where that is not within the vault.
    shares : int
        How many workers may render it together.
    delay : float
        Seconds to wait before it begins: for trying a farm out.
    code : str
        The state of the code that it is for; empty for any.
    """

    vault: str
    document: str
    picture: Order
    out: str
    made_from: dict[str, str]
    suffixes: tuple[Suffix, ...] = (".exr",)
    results: str = ""
    shares: int = 1
    delay: float = 0.0
    code: str = ""

    @property
    def files(self) -> tuple[str, ...]:
        """The names of its files."""
        return tuple(f"{self.out}{suffix}" for suffix in self.suffixes)


@dataclass(frozen=True)
class VideoTask:
    """Frames among the results of a vault, in their order, as a video under the name `out`, at the rate of the document; `burn_in` writes name, frame
    and digest into them."""

    vault: str
    document: str
    frames: tuple[str, ...]
    out: str
    burn_in: bool = False


class FrameReport(NamedTuple):
    """What became of a frame: seconds, the most memory of the worker in MB, its name, the names of files made, a small PNG, words of warning,
    and whether all files were there already."""

    seconds: float
    memory: float
    worker: str
    files: tuple[str, ...]
    thumbnail: bytes
    warnings: tuple[str, ...] = ()
    kept: bool = False


class Progress(NamedTuple):
    """How far a frame is: samples done of all, on which worker, and the most memory that has had, MB."""

    key: str
    done: int
    total: int
    worker: str
    memory: float
