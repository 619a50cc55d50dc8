"""What a window says: what it shows, what is being tried, how the camera is dragged, which point is read."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, model_validator

from texallon.messages.message import Message

RecipeAddress = Annotated[str, Field(max_length=2000, pattern=r"^(/.*)?$")]
"""A recipe by JSON Pointer, by ids in lists: `/looks/ID/layers/ID/where`, `/looks/ID/layers/ID/channels/NAME/recipe` or `/signals/ID/recipe`, and after
it `/steps/ID/params/NAME` for a second input's own recipe, as often as needed. Empty for none."""

Region = tuple[float, float, float, float]


class StageTarget(Message):
    """What a stage shows: the finished picture, or one mask, channel, step or stored attribute alone, by ids so that it survives edits."""

    kind: Literal["picture", "mask", "channel", "step", "attribute"] = "picture"
    look: str = ""
    recipe: RecipeAddress = ""
    step: int | None = None
    channel: str = ""
    attribute: str = Field("", max_length=80)
    """By its name, on everything that wears the look."""
    colour: bool = False
    """Whether an attribute is shown as a colour, rather than its first number."""
    style: Literal["grey", "false colour", "lines"] = "grey"


class OpenRecipe(Message):
    """The recipe that lies open on the bench."""

    look: str = ""
    recipe: RecipeAddress = ""


class DisplaySettings(Message):
    """How a window looks at the picture; nothing of it is in the document."""

    view: str = ""
    """A view of the display transform by name; the plain one where there is none of that name."""
    exposure: Annotated[float, Field(ge=-20, le=20, allow_inf_nan=False)] = 0.0
    gamma: Annotated[float, Field(ge=0.1, le=10, allow_inf_nan=False)] = 1.0
    region: Region | None = None
    """The part of the picture that is worked on, 0…1: left, top, right, bottom."""
    paused: bool = False
    """Whether refining rests."""

    @model_validator(mode="after")
    def _region_is_one(self) -> "DisplaySettings":
        if self.region is not None:
            left, top, right, bottom = self.region
            if not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
                raise ValueError("a region's left and top come before its right and bottom, all within 0 … 1")
        return self


class _FromPage(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)

    serial: int = Field(0, ge=0)
    """Counts what the window has said: a picture that carries it has taken it in."""


class ViewMessage(_FromPage):
    """What the stage shows, how large, and which recipe lies open."""

    do: Literal["view"]
    width: int = Field(ge=16, le=4096)
    height: int = Field(ge=16, le=4096)
    show: StageTarget = StageTarget()
    bench: OpenRecipe = OpenRecipe()
    frame: int | None = Field(None, ge=-(10**6), le=10**6)
    viewing: DisplaySettings = DisplaySettings()
    chosen: Annotated[str, Field(max_length=200, pattern=r"^(/[a-z_]+/[a-z0-9]+)?$")] = ""
    """What has handles in the picture, by JSON Pointer by id: an object, locator, object group or lamp; empty for nothing."""
    cut: float | None = Field(0.5, ge=0, le=1)
    """Where volumes are cut across the view when what fills them is looked at, from near to far; nothing: as deep as the camera sees."""
    fresh: bool = False
    """Whether the window has nothing yet of what it was sent before."""


class PreviewMessage(_FromPage):
    """A change that is being tried, not yet saved."""

    do: Literal["preview"]
    patch: list[dict[str, Any]] = Field(max_length=200)


class CameraMessage(_FromPage):
    """A camera being moved by hand, as shares of the stage since the drag began."""

    do: Literal["camera"]
    move: Literal["orbit", "pan", "dolly", "fly"]
    across: float = Field(0, ge=-100, le=100, allow_inf_nan=False)
    down: float = Field(0, ge=-100, le=100, allow_inf_nan=False)
    end: bool = False


class ReadMessage(_FromPage):
    """Read the point under a place of the stage (0…1 from its top left), or stop reading."""

    do: Literal["read"]
    across: float | None = Field(None, ge=0, le=1)
    down: float | None = Field(None, ge=0, le=1)

    @model_validator(mode="after")
    def _place_is_whole(self) -> "ReadMessage":
        if (self.across is None) != (self.down is None):
            raise ValueError("a place has both, across and down; to stop reading it has neither")
        return self


class BudgetMessage(_FromPage):
    """How much memory derived values may take, bytes; for all windows."""

    do: Literal["budget"]
    bytes: int = Field(ge=100_000_000, le=1_000_000_000_000)


class HereMessage(_FromPage):
    """Who is at the window and what lies open there, for the others who have the shot open."""

    do: Literal["here"]
    author: str = Field("", max_length=80)
    window: str = Field("", pattern=r"^[A-Za-z0-9]{0,64}$")
    place: str = Field("", max_length=200)
    """What lies open, in people's words."""


FromPage = Annotated[
    ViewMessage | PreviewMessage | CameraMessage | ReadMessage | BudgetMessage | HereMessage,
    Field(discriminator="do"),
]
