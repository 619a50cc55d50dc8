"""What the server says to the render process: what windows say, the documents they show, and questions."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from texallon.messages.from_page import FromPage


class _ToEngine(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class OpenSession(_ToEngine):
    """A window begins with a document."""

    do: Literal["open"]
    session: str
    shot: int
    document: dict[str, Any]
    revision: int


class NewDocument(_ToEngine):
    """A session's document has another revision."""

    do: Literal["document"]
    session: str
    document: dict[str, Any]
    revision: int


class CloseSession(_ToEngine):
    """A window is gone."""

    do: Literal["close"]
    session: str


class Said(_ToEngine):
    """What a window said."""

    do: Literal["said"]
    session: str
    what: FromPage


class SnapshotQuestion(_ToEngine):
    """Ask for the finished picture that a session showed last."""

    do: Literal["snapshot"]
    session: str
    reply: int


class RestQuestion(_ToEngine):
    """Ask how far objects of a session's shot go straight down, as one, until they rest; or a point, where none are named."""

    do: Literal["rest"]
    session: str
    reply: int
    objects: list[str] = Field(default_factory=list, max_length=4096)
    at: tuple[float, float, float] | None = None


class Ping(_ToEngine):
    """Ask whether it is alive, and for how long its render thread has not looked up from its work."""

    do: Literal["ping"]
    reply: int


ToEngine = Annotated[
    OpenSession | NewDocument | CloseSession | Said | SnapshotQuestion | RestQuestion | Ping, Field(discriminator="do")
]

to_engine: TypeAdapter[Any] = TypeAdapter(ToEngine)
"""Reads any of them; raises `ValidationError`."""
