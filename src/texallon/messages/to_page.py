"""What a window receives: pictures, measurements, advice, problems, and what goes on."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from texallon.messages.from_page import RecipeAddress, StageTarget
from texallon.messages.message import Message


class _ToPage(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    session: str = ""
    shot: int = 0
    """The shot that it is about: what comes late is dropped by it."""
    serial: int = 0
    """Of the last thing the window said that was taken in."""
    revision: int = 0


class ValueRange(Message):
    """The values that a picture's tones stand for."""

    low: float
    high: float
    step: float


class Axes(Message):
    """What a metre along each world axis is in the picture, in shares of its width and height."""

    x: tuple[float, float]
    y: tuple[float, float]
    z: tuple[float, float]


class Handle(Message):
    """Where a locator lies in the picture, what a metre along each axis is there, and a level ring about it."""

    name: str
    at: tuple[float, float]
    axes: Axes
    ring: list[tuple[float, float]]


class Outline(Message):
    """A falloff shape of the recipe that lies open, as lines in shares of the picture: itself, and where it has faded."""

    shape: str
    lines: list[list[tuple[float, float]]]
    faded: list[list[tuple[float, float]]]


class LampTarget(Message):
    """Where a lamp faces: in the picture and in the world, and what a metre along the world's axes and across its light is there."""

    at: tuple[float, float]
    position: tuple[float, float, float]
    world: Axes
    own: Axes


class TubePoint(Message):
    """A point of a tube: its number, where it lies in the picture, and what a step along each of the object's own axes is there.

    `tangent`: from it to the control point that follows, in the object's own space, whether that is `by_hand` or not; `ends`: where that and
    the one on the other side lie in the picture. Nothing of a line that is straight between its points.
    """

    number: int
    at: tuple[float, float]
    axes: Axes
    tangent: tuple[float, float, float] | None = None
    by_hand: bool = False
    ends: tuple[tuple[float, float], tuple[float, float]] | None = None


class TubeLine(Message):
    """The points of the tube that is chosen, and the way from the world into its own space: three rows of four."""

    points: list[TubePoint]
    into_own: list[float]


class Gizmo(Message):
    """Where what is chosen stands, for handles over the picture: in it, in the world, and how it is turned.

    `world` and `own`: what a metre along the world's axes and along its own is in the picture. `turn`: its own axes in the world as columns,
    row by row (of a lamp: across its light, and the way it shines); `parent`: of what it stands by, with that one's scale.
    """

    thing: str
    at: tuple[float, float]
    position: tuple[float, float, float]
    world: Axes
    own: Axes
    turn: tuple[float, float, float, float, float, float, float, float, float]
    parent: tuple[float, float, float, float, float, float, float, float, float]
    target: LampTarget | None = None
    """Of a lamp, where what it faces can be seen."""
    tube: TubeLine | None = None
    """Of an object that is a tube."""


class VolumeUse(Message):
    """What a picture's volumes are looked up in: bricks filled so far, what they take, and pixels across a cell.

    `exceeded`: how often a bound did not hold, which leaves light out; `untracked`: paths that met more than can be followed; `coarser`: paths that had to take
    coarser bricks than they wanted, for want of room.
    """

    bricks: int
    megabytes: float
    cell_pixels: float
    exceeded: int
    untracked: int
    coarser: int


class PictureHead(_ToPage):
    """Goes before a picture's bytes."""

    kind: Literal["picture"] = "picture"
    stage: Literal["coarse", "half", "full"]
    samples: int
    seconds: float
    left: float | None
    """Seconds until the picture is finished, at most."""
    finished: bool
    width: int
    height: int
    show: StageTarget
    range: ValueRange | None
    scale: str
    """A strip of the tones that stand for the range, as a data address."""
    handles: list[Handle]
    outlines: list[Outline] = []
    """Drawn over the picture."""
    gizmo: Gizmo | None = None
    volumes: VolumeUse | None = None
    """Of a rendered picture, where the shot has any."""


class Values(Message):
    """Statistics of some values."""

    count: int
    low: float
    mean: float
    high: float
    counts: list[int]
    not_finite: int
    inner_low: float
    inner_high: float
    negative: int
    nan: int


class StepResponse(Message):
    """What a step makes of evenly spaced values from `low` to `high`."""

    low: float
    high: float
    values: list[float]


class StepMeasure(Message):
    """A step of the open recipe: its picture, and the values before and after it."""

    picture: str
    incoming: Values | None
    values: Values | None
    covered: float
    colour: bool
    response: StepResponse | None


class BenchMeasures(_ToPage):
    """The open recipe, step by step."""

    kind: Literal["bench"] = "bench"
    look: str
    recipe: RecipeAddress
    steps: list[StepMeasure]


class HeldValue(Message):
    """Where values go beyond a channel's range: what they are held at, and what was asked for."""

    at: float
    asked: float


class SheetCell(Message):
    """One cell of a look's sheet."""

    picture: str
    mean: list[float]
    held: HeldValue | None = None


class Sheet(_ToPage):
    """Cells that changed, and those that are gone."""

    kind: Literal["sheet"] = "sheet"
    look: str
    cells: dict[str, SheetCell]
    gone: list[str]


Shown = float | str
"""A value along the way; what is not finite comes as a word."""


class StepRead(Message):
    op: str
    on: bool
    space: bool
    value: list[Shown]
    reason: str
    decided: bool


class ChannelRead(Message):
    name: str
    label: str
    blend: str
    value: list[Shown]
    after: list[Shown]
    steps: list[StepRead]


class LayerRead(Message):
    name: str
    on: bool
    mask: list[StepRead]
    weight: Shown
    channels: list[ChannelRead]
    look: str = Field("", description="The name of the look that the layer carries.")


class OutcomeRead(Message):
    name: str
    label: str
    unit: str
    value: list[Shown]
    layer: str
    asked: list[Shown]
    """What the layers ask for, where it is beyond the channel's range."""


class PointRead(Message):
    """Every value at one point."""

    object: str
    part: str
    """Of the object, as its file or its connected pieces have them; empty where it has but one."""
    look: str
    position: tuple[float, float, float]
    normal: tuple[float, float, float]
    at: tuple[float, float] | None
    depth: float
    light: tuple[float, float, float] | None
    """Scene-linear light of the picture there."""
    layers: list[LayerRead]
    channels: list[OutcomeRead]


class ReadingMessage(_ToPage):
    """The point that is read; `missed` where there is nothing to read."""

    kind: Literal["reading"] = "reading"
    reading: PointRead | None
    missed: bool = False


class FixOffered(Message):
    label: str
    patch: list[dict[str, Any]]


class AdviceItem(Message):
    rule: str
    severity: Literal["error", "warning", "note"]
    look: str
    address: str
    """Of a recipe, or of what else of the document it is about."""
    where: str
    step: int | None
    reason: str
    fix: FixOffered | None


class AdviceMessage(_ToPage):
    """What stands out by the rules of the craft."""

    kind: Literal["advice"] = "advice"
    items: list[AdviceItem]


class ProblemItem(Message):
    pointer: str
    reason: str
    hint: str = ""
    character: int | None = None
    mends: list[dict[str, Any]] = []


class ProblemMessage(_ToPage):
    """Why there is no picture."""

    kind: Literal["problem"] = "problem"
    problems: list[ProblemItem]


class FaultMessage(_ToPage):
    """Something unforeseen went wrong in this window's work; `number` leads to it in the log. `again`: seconds after which it is tried again, none
    where it is set aside until something is changed."""

    kind: Literal["fault"] = "fault"
    number: str
    again: float | None


class Loading(_ToPage):
    """Geometry is being read before there can be a picture."""

    kind: Literal["loading"] = "loading"
    done: int
    total: int
    what: str


class Working(_ToPage):
    """What is made over the frames of the shot before there can be a new picture."""

    kind: Literal["working"] = "working"
    done: int
    total: int
    what: str


class HeldKind(Message):
    """Derived values of one kind that are kept."""

    kind: str
    count: int
    bytes: int


class MemoryMessage(_ToPage):
    """What the store of derived values holds."""

    kind: Literal["memory"] = "memory"
    budget: int
    bytes: int
    kinds: list[HeldKind]


class CameraMoved(_ToPage):
    """A camera that was dragged, handed over to be saved."""

    kind: Literal["camera"] = "camera"
    camera: dict[str, Any]


class Hello(_ToPage):
    kind: Literal["hello"] = "hello"


class RevisionMessage(_ToPage):
    """The shot has another revision; `author` made it. `restored`: a backup was brought back, so that it may be an older one."""

    kind: Literal["revision"] = "revision"
    author: str = ""
    restored: bool = False


class OtherWindow(Message):
    """Somebody else who has the shot open, and where."""

    window: str
    author: str
    place: str


class PresenceMessage(_ToPage):
    """Who else has the shot open."""

    kind: Literal["presence"] = "presence"
    others: list[OtherWindow]


class EngineState(_ToPage):
    kind: Literal["engine"] = "engine"
    state: str


class ErrorMessage(_ToPage):
    kind: Literal["error"] = "error"
    detail: str


ToPage = Annotated[
    PictureHead
    | BenchMeasures
    | Sheet
    | ReadingMessage
    | AdviceMessage
    | ProblemMessage
    | FaultMessage
    | Loading
    | Working
    | MemoryMessage
    | CameraMoved
    | Hello
    | RevisionMessage
    | PresenceMessage
    | EngineState
    | ErrorMessage,
    Field(discriminator="kind"),
]
