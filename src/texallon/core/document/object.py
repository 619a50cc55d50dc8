"""An object: geometry placed in a shot, wearing a look; its parts may wear looks of their own."""

from math import floor
from typing import Annotated, Literal

from pydantic import AfterValidator, Field, Tag

from texallon.core.document.array import Array, CopyChange
from texallon.core.document.attribute_edit import AttributeEdit
from texallon.core.document.base import Finite, Model, Name, Positive, Vector
from texallon.core.document.body import FILE_TAG, BodyTags, by_shape
from texallon.core.document.displacement import Displacement, Subdivision
from texallon.core.document.floats import Floats
from texallon.core.document.ids import Identified
from texallon.core.document.object_group import Stretch
from texallon.core.document.particles import Particles
from texallon.core.document.remembered import Remembered
from texallon.core.document.simulation import Cells, Flow, Footsteps, Rain, Spores


def _inside(path: str) -> str:
    if path.startswith("/") or ".." in path.split("/"):
        raise ValueError("a relative path that stays beside the document, without `..`")
    return path


class FileRef(Model):
    """A file that ships with the document: its path beside it, and the digest that makes it unmistakable."""

    file: Annotated[str, AfterValidator(_inside)] = Field(
        min_length=1,
        max_length=200,
        pattern=r"^[A-Za-z0-9_./ -]+$",
        description="A relative path, without `..`.",
    )
    sha256: str | None = Field(None, pattern=r"^[0-9a-f]{64}$")


class FileBetween(FileRef):
    """A file of a sequence, the next, and how far a moment lies from the one to the other. Made by resolving a shot, never in a document."""

    towards: FileRef
    share: float
    seconds: float = Field(description="From the one file to the other.")


class Sequence(Model):
    """Files that follow each other, one a frame."""

    files: list[FileRef] = Field(min_length=1, max_length=10_000)
    first: Annotated[int, Field(ge=-1_000_000, le=1_000_000)] = Field(1, description="The frame of the first file.")
    beyond: Literal["hold", "loop", "swing"] = Field(
        "hold", description="Before and after: the first and the last, from the beginning again, or back and forth."
    )

    def at(self, frame: float) -> FileRef:
        """The file of a frame; of what lies between two frames, that of the nearest.

        Parameters
        ----------
        frame : float
            Of the shot.
        """
        number, count = floor(frame + 0.5) - self.first, len(self.files)
        if self.beyond == "hold" or count == 1:
            return self.files[min(max(number, 0), count - 1)]
        if self.beyond == "loop":
            return self.files[number % count]
        turn = number % (2 * count - 2)
        return self.files[turn if turn < count else 2 * count - 2 - turn]

    def between(self, frame: float, rate: float) -> FileRef:
        """What the object consists of at a moment: the file of a frame, or two files and the way from the one to the other.

        Parameters
        ----------
        frame : float
            Of the shot.
        rate : float
            Frames a second.
        """
        before, after, share = self.at(floor(frame)), self.at(floor(frame) + 1), frame - floor(frame)
        if share == 0 or before == after:
            return before
        return FileBetween.model_construct(
            file=before.file, sha256=before.sha256, towards=after, share=share, seconds=1 / rate
        )


class PickedFaces(Model):
    """The faces in whose middle a signal lies above a level."""

    signal: Name = Field(description="A shared signal; of a colour the luminance counts.")
    above: Finite = 0.5


class Part(Identified):
    """A named face set of an object that wears its own look."""

    name: Name
    look: Name
    picked: PickedFaces | None = Field(
        None, description="Which faces it consists of; where nothing is said, those that the file or the pieces give."
    )


SimulationTags = (
    Annotated[Rain, Tag("‹rain›")]
    | Annotated[Spores, Tag("‹spores›")]
    | Annotated[Footsteps, Tag("‹footsteps›")]
    | Annotated[Flow, Tag("‹flow›")]
    | Annotated[Cells, Tag("‹cells›")]
)

Geometry = Annotated[Annotated[FileRef, Tag(FILE_TAG)] | BodyTags | SimulationTags, by_shape]
"""What an object consists of: a file, a body by its measures, or a stand-in simulation."""


class Object(Identified):
    name: Name
    geometry: Geometry
    look: Name = Field(description="Of its surface; one of the volume domain fills it, and it has no surface then.")
    filled_with: Name | None = Field(
        None, description="A look of the volume domain that fills it, within the surface that it has."
    )
    parts_by: Literal["file", "connected"] = Field(
        "file", description="What its parts are: those that its file names, or its connected pieces."
    )
    parts: list[Part] = Field(default_factory=list, max_length=256)
    uv: Literal["given", "unfolded"] = Field(
        "given", description="Its texture coordinates: those that it comes with, or made by unfolding its surface."
    )
    sequence: Sequence | None = Field(
        None, description="A file for each frame, in the place of its geometry; their counts may differ."
    )
    attributes: list[AttributeEdit] = Field(
        default_factory=list, max_length=64, description="Stored attributes under other names, or read in other ways."
    )
    subdivision: Subdivision | None = Field(None, description="Finer faces; none are made unless it is given.")
    displacement: Displacement | None = Field(
        None, description="Have looks move the surface; unless given, their displacement only tilts the normal."
    )
    array: Array | None = Field(None, description="Copies of it; its mesh is held once.")
    copies: list[CopyChange] = Field(
        default_factory=list, max_length=32, description="What signals do to the copies, one after the other."
    )
    bodies: list[Name] = Field(
        default_factory=list,
        max_length=63,
        description="Other objects, shown or hidden, whose bodies copies have in its place: by chance, unless a signal chooses.",
    )
    remembers: list[Remembered] = Field(
        default_factory=list,
        max_length=16,
        description="Attributes whose values depend on all frames before; each may read those before it.",
    )
    floats: Floats | None = Field(None, description="The water that carries it.")
    particles: Particles | None = Field(
        None, description="How particles are seen, where the file holds points without faces."
    )
    follows: Name | None = Field(None, description="A locator whose placement this object's is added to.")
    belongs_to: Name | None = Field(
        None, description="An object group; its placement counts unless a locator is followed."
    )
    position: Vector = Field((0.0, 0.0, 0.0), description="Metres.")
    rotation: Vector = Field((0.0, 0.0, 0.0), description="Degrees about x, then y, then z.")
    scale: Positive = 1.0
    stretch: Stretch = Field((1.0, 1.0, 1.0), description="Factors along its own axes, beside the scale.")
    priority: Annotated[int, Field(ge=-100, le=100)] = Field(
        0,
        description="Where clear bodies overlap, the one with the higher priority fills the space; a path can be in four.",
    )
    group: Name | None = Field(None, description="The light group of the light that it sends out itself.")
    visible: bool = True
    blurs: bool = Field(True, description="Whether its own movement is blurred where the shot's shutter is on.")
    locked: bool = Field(False, description="Whether it is kept from being moved by hand.")
