"""The shapes of requests and answers, from which the page's typed client is generated."""

from typing import Any, Literal

from pydantic import BaseModel, Field

from texallon.core.document import FileRef, Shot
from texallon.core.document.base import Name, Vector
from texallon.core.document.channels import ChannelGroup, LookDomain


class ShotPath(BaseModel):
    shot_id: int = Field(ge=1, le=2**31 - 1)


class Anyway(BaseModel):
    """Whether something that was asked about is to be done."""

    anyway: bool = False


class SnapshotPath(ShotPath):
    snapshot_id: int = Field(ge=1, le=2**31 - 1)


class RevisionHeader(BaseModel):
    """The revision that a change is made against, as a quoted number."""

    if_match: str = Field(alias="If-Match")


class ShotBody(BaseModel):
    """A shot as it stands."""

    id: int
    project: str
    revision: int
    document: Shot
    can_undo: bool
    can_redo: bool
    undo_label: str
    redo_label: str


class PatchOperation(BaseModel):
    """One operation of a JSON Patch (RFC 6902)."""

    op: Literal["add", "remove", "replace", "move", "copy", "test"]
    path: str
    from_: str | None = Field(None, alias="from")
    value: Any = None


class RevisionPath(ShotPath):
    number: int = Field(ge=1, le=2**31 - 1)


class RevisionQuery(BaseModel):
    """Which revisions: the newest, or those before one."""

    before: int | None = Field(None, ge=1, le=2**31 - 1)
    most: int = Field(100, ge=1, le=500)


class RevisionBody(BaseModel):
    """A revision's document, and what it changed, a line each."""

    number: int
    document: Shot
    changes: list[str]


class EditBody(BaseModel):
    """A JSON Patch, and what to call the change in the history."""

    patch: list[PatchOperation] = Field(min_length=1, max_length=200)
    label: str = Field("", max_length=200)


class RevisionItem(BaseModel):
    """A revision: what it was called, what it changed in words, who made it and when, and how many snapshots show it."""

    number: int
    label: str
    words: str
    author: str
    created: str
    snapshots: int


class RevisionList(BaseModel):
    revisions: list[RevisionItem]


class SignalUseItem(BaseModel):
    """A recipe that uses a shared signal: its shot, its look (empty within another signal), its address, and what people call that."""

    shot_id: int
    shot: str
    look: str
    address: str
    where: str


class SignalItem(BaseModel):
    name: str
    uses: list[SignalUseItem]


class SignalList(BaseModel):
    signals: list[SignalItem]


class SignalName(BaseModel):
    name: Name


class SignalRename(SignalName):
    to: Name


class SnapshotRequest(BaseModel):
    name: str = Field(min_length=1, max_length=80)
    session: str = Field(min_length=1, max_length=64, description="The window whose picture is kept.")


class SnapshotName(BaseModel):
    name: str = Field(min_length=1, max_length=80)


class SnapshotItem(BaseModel):
    id: int
    name: str
    revision: int
    samples: int
    created: str
    author: str
    picture: str


class SnapshotList(BaseModel):
    snapshots: list[SnapshotItem]


class ChangeList(BaseModel):
    """What changed between two states of a shot, in words."""

    changes: list[str]


class ImportReportBody(BaseModel):
    """What became of everything in a file, a line each: kept as it was, made as it was missing, changed, or dropped."""

    kept: list[str]
    made: list[str]
    changed: list[str]
    dropped: list[str]


class UploadResult(BaseModel):
    """The new shot, and what was found in the file."""

    shot: ShotBody
    triangles: int
    points: int
    attributes: list[str]
    has_uv: bool
    report: ImportReportBody


class ParticlesSeen(BaseModel):
    """How particles that were brought in are seen at first: the radius, in metres, of those that carry none."""

    radius: float


class MeshItem(BaseModel):
    """A mesh that was brought in: what it may be called, what a document names it by, and its lowest and highest corner in metres."""

    name: str
    geometry: FileRef
    triangles: int
    points: int
    attributes: list[str]
    has_uv: bool
    low: list[float]
    high: list[float]
    particles: ParticlesSeen | None = Field(
        None, description="How they are seen, where the file holds points without faces."
    )
    report: ImportReportBody


class LineBody(BaseModel):
    """A line that a file held, as a tube has it, and what was read of it in words."""

    points: list[Vector]
    closed: bool
    radius: float | None
    thickness: list[tuple[float, float]]
    said: str


class LayerName(BaseModel):
    """A layer of a look."""

    look: Name
    layer: Name


class PicturePath(BaseModel):
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")


class PictureItem(BaseModel):
    """A picture as an `image` op names it (`file` and `sha256`); its size is given when it is brought in."""

    name: str
    file: str
    sha256: str
    author: str = ""
    width: int | None = None
    height: int | None = None
    channels: int | None = None


class PictureList(BaseModel):
    pictures: list[PictureItem]


class GridItem(BaseModel):
    """A voxel grid: 1 or 3 numbers a voxel, and how many voxels along x, y and z."""

    name: str
    width: int
    size: list[int]


class GridList(BaseModel):
    grids: list[GridItem]


class VoxelFile(BaseModel):
    """A file of voxel grids as a `voxels` op names it (`file` and `sha256`); its grids are listed when it is brought in."""

    name: str
    file: str
    sha256: str
    author: str = ""
    grids: list[GridItem] | None = None


class VoxelFileList(BaseModel):
    files: list[VoxelFile]


class OpParameter(BaseModel):
    name: str
    type: str
    unit: str
    range: list[float | None]
    choices: list[str]
    varies: int
    """How often its recipe would be evaluated for a point if it varied from point to point; 0 where it can't."""
    default: Any
    purpose: str


class OpInfo(BaseModel):
    name: str
    kind: Literal["warp", "source", "modifier"]
    category: str
    purpose: str
    synonyms: list[str]
    source: str
    phrase: str
    signal_phrase: str
    narrow: dict[str, Any]
    fresh: dict[str, Any]
    handles: list[str]
    non_finite: str
    parameters: list[OpParameter]


class ChannelInfo(BaseModel):
    name: str
    synonyms: list[str]
    label: str
    channel_group: ChannelGroup
    domain: LookDomain
    width: int
    default: list[float]
    low: float
    high: float
    unit: str
    purpose: str


class RuleInfo(BaseModel):
    """A rule of the craft that advice comes from."""

    name: str
    about: str


class OpPath(BaseModel):
    name: str = Field(min_length=1, max_length=80)


class Vocabulary(BaseModel):
    """The ops and channels that a page can offer, and the rules of advice."""

    ops: list[OpInfo]
    channels: list[ChannelInfo]
    blends: list[str]
    views: list[str]
    rules: list[RuleInfo]


class AttributeInfo(BaseModel):
    """An attribute of one object: per point one number, or as many as are given; how far they reach and where they lie."""

    name: str
    width: int
    of: Literal["point", "particle"]
    low: float
    high: float
    mean: float
    counts: list[int]


class AttributeList(BaseModel):
    """Attributes stored on the shot's geometry, with their widths, and the names of the parts of its objects, by their names; and what
    each object carries."""

    attributes: dict[str, int]
    parts: dict[str, list[str]]
    tables: dict[str, list[AttributeInfo]]
