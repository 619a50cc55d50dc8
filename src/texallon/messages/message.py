"""What every message is."""

from pydantic import BaseModel, ConfigDict


class Message(BaseModel):
    """Refuses members that it does not know; never changes once made."""

    model_config = ConfigDict(extra="forbid", frozen=True)
