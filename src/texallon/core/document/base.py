"""The model that every part of a document is built on, and the small value types they share."""

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

LARGEST, SMALLEST, BRIGHTEST = 1e6, 1e-6, 1e9
"""Bounds of every number of a document that has none of its own: a thousand kilometres, a thousandth of a millimetre, and light that is as bright as
the sun's disc. Products and squares of such numbers stay finite in single precision."""

Finite = Annotated[float, Field(ge=-LARGEST, le=LARGEST, allow_inf_nan=False)]
Vector = tuple[Finite, Finite, Finite]
"""Three numbers; as a position in metres, as a rotation in degrees about x, y and z."""

Positive = Annotated[float, Field(ge=SMALLEST, le=LARGEST, allow_inf_nan=False)]
Fraction = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
NonNegative = Annotated[float, Field(ge=0, le=BRIGHTEST, allow_inf_nan=False)]
Radiance = tuple[NonNegative, NonNegative, NonNegative]
"""Scene-linear Rec.709 red, green and blue."""

Name = Annotated[str, Field(min_length=1, max_length=80, pattern=r"^[^/\x00-\x1f]+$")]
"""What a person calls a thing: shown as written, unique among its siblings, without slashes."""


class Model(BaseModel):
    """Refuses unknown members, so that a misspelt word is an error and not silence."""

    model_config = ConfigDict(extra="forbid", validate_default=True, frozen=True)
