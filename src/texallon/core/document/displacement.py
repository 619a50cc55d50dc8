"""How finely an object's faces are divided, and within what bounds its looks' displacement moves it."""

from typing import Annotated, Literal

from pydantic import Field

from texallon.core.document.base import Finite, Model, Positive

MOST_LEVELS = 8


class Subdivision(Model):
    """Each level makes four faces of one."""

    scheme: Literal["midpoint", "catmull-clark"] = Field(
        "midpoint", description="Leave the surface as it is, or round it (Catmull–Clark)."
    )
    levels: Annotated[int, Field(ge=0, le=MOST_LEVELS)] = Field(1, description="At most.")
    edge_pixels: Positive | None = Field(
        None, description="Fewer levels where edges are as short as this in the picture already."
    )
    crease: Annotated[Finite, Field(ge=0, le=180)] = Field(
        180.0, description="Degrees: edges that bend more stay sharp; at 180 none does."
    )


class Displacement(Model):
    """Whether and how far the looks that an object wears move its surface."""

    zero: Finite = Field(0.0, description="Metres that leave the surface where it is.")
    most: Positive = Field(1.0, description="Metres: nothing is moved farther, either way.")
    outwards_only: bool = Field(False, description="Whether nothing is moved inwards.")
