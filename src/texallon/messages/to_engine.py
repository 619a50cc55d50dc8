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


class Ping(_ToEngine):
    """Ask whether it is alive, and for how long its render thread has not looked up from its work."""

    do: Literal["ping"]
    reply: int


ToEngine = Annotated[
    OpenSession | NewDocument | CloseSession | Said | SnapshotQuestion | Ping, Field(discriminator="do")
]

to_engine: TypeAdapter[Any] = TypeAdapter(ToEngine)
"""Reads any of them; raises `ValidationError`."""
