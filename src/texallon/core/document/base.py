"""The model that every part of a document is built on, and the small value types they share."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Finite = Annotated[float, Field(allow_inf_nan=False)]
Vector = tuple[Finite, Finite, Finite]
"""Three numbers; as a position in metres, as a rotation in degrees about x, y and z."""

Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
Fraction = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
NonNegative = Annotated[float, Field(ge=0, allow_inf_nan=False)]
Radiance = tuple[NonNegative, NonNegative, NonNegative]
"""Scene-linear Rec.709 red, green and blue."""

Name = Annotated[str, Field(min_length=1, max_length=80, pattern=r"^[^/\x00-\x1f]+$")]
"""What a person calls a thing: shown as written, unique among its siblings, without slashes."""


class Model(BaseModel):
    """Refuses unknown members, so that a misspelt word is an error and not silence."""

    model_config = ConfigDict(extra="forbid", validate_default=True, frozen=True)
