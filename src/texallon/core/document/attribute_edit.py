"""What an object's stored attributes are called, and how their values are read: hand-offs break on names."""

from typing import Literal

from pydantic import Field, model_validator

from texallon.core.document.base import Finite, Model, Name

AttributePart = Literal["all", "x", "y", "z", "w", "length", "luminance", "painted colour"]


class AttributeEdit(Model):
    """An attribute of the file under another name, its values mapped from one range to another."""

    attribute: Name = Field(description="As the file calls it; it stays there under that name too.")
    name: Name = Field(description="As looks ask for it; of two of one name the last counts.")
    part: AttributePart = Field(
        "all",
        description="One of its numbers, its length, its luminance, or a colour that was stored as painted (sRGB) in linear light.",
    )
    from_start: Finite = 0.0
    from_end: Finite = 1.0
    to_start: Finite = 0.0
    to_end: Finite = 1.0

    @model_validator(mode="after")
    def _spans(self) -> "AttributeEdit":
        if self.from_start == self.from_end:
            raise ValueError("from_start and from_end must differ: all values would become one")
        return self
