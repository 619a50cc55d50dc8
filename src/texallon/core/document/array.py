"""Copies of an object in rows or on a ring: one mesh, held once, that stands in many places."""

from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from texallon.core.document.base import Finite, Model, Vector

MOST_COPIES = 4096

Count = Annotated[int, Field(ge=1, le=MOST_COPIES)]


class GridArray(Model):
    """Rows along the object's own axes, about its place."""

    along: Literal["grid"]
    counts: tuple[Count, Count, Count] = Field((3, 1, 3), description="Along x, y and z.")
    spacing: Vector = Field((1.0, 1.0, 1.0), description="From one to the next, metres of the object's own space.")

    @model_validator(mode="after")
    def _few_enough(self) -> "GridArray":
        number = self.counts[0] * self.counts[1] * self.counts[2]
        if number > MOST_COPIES:
            raise ValueError(f"{number:,} copies; at most {MOST_COPIES:,} are made")
        return self


class RingArray(Model):
    """Copies around the object's own y axis."""

    along: Literal["ring"]
    count: Count = 8
    radius: Annotated[Finite, Field(ge=0, le=1e5)] = Field(1.0, description="Metres of the object's own space.")
    turned: bool = Field(True, description="Whether each is turned with the ring.")


def _way(value: Any) -> str:
    return str(value.get("along") if isinstance(value, dict) else getattr(value, "along", None))


Array = Annotated[
    Annotated[GridArray, Tag("grid")] | Annotated[RingArray, Tag("ring")],
    Discriminator(_way, custom_error_type="along", custom_error_message="along a grid, or a ring"),
]
"""How copies are laid out."""


def copies_of(array: "GridArray | RingArray | None") -> int:
    """How many there are, the object itself among them.

    Parameters
    ----------
    array : Array, optional
        Of an object; of none it is alone.
    """
    if array is None:
        return 1
    return array.count if isinstance(array, RingArray) else array.counts[0] * array.counts[1] * array.counts[2]
