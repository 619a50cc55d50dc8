"""Copies of an object: one mesh, held once, that stands in many places."""

from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag, model_validator

from texallon.core.document.base import Finite, Model, Name, Positive, Vector

MOST_COPIES = 200_000

Count = Annotated[int, Field(ge=1, le=MOST_COPIES)]
Share = Annotated[Finite, Field(ge=0, le=1)]


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


class LineArray(Model):
    """Copies along the middle of a tube, as far from each other as each from the next."""

    along: Literal["line"]
    object: Name = Field(description="An object that is a tube; it need not be shown.")
    count: Count = 12
    turned: bool = Field(True, description="Whether each is turned with the line, its z axis along it.")


class SurfaceArray(Model):
    """Copies scattered over a surface, none nearer to another than a distance; each stands with its y axis off the surface."""

    along: Literal["surface"]
    object: Name = Field(description="What they stand on; it need not be shown.")
    apart: Positive = Field(0.2, description="From each to the next at least, metres.")
    most: Count = Field(10_000, description="How many at most; of more, those that are laid last are left out.")
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 1
    upright: Share = Field(0.0, description="0: off the surface; 1: upwards, however the surface leans.")
    turn: Share = Field(1.0, description="How far each is turned about its own axis by chance: 1 is all the way round.")
    tilt: Annotated[Finite, Field(ge=0, le=180)] = Field(
        0.0, description="Degrees: how far each leans by chance at most."
    )
    sizes: tuple[Positive, Positive] = Field((1.0, 1.0), description="Factors between which the size lies by chance.")


class ParticleArray(Model):
    """A copy at each particle of another object."""

    along: Literal["particles"]
    object: Name = Field(description="An object that consists of particles; it need not be shown.")
    sized: bool = Field(
        True, description="Whether each is as large as its particle: a body of one metre across fills it."
    )


def _way(value: Any) -> str:
    return f"‹{value.get('along') if isinstance(value, dict) else getattr(value, 'along', None)}›"


Array = Annotated[
    Annotated[GridArray, Tag("‹grid›")]
    | Annotated[RingArray, Tag("‹ring›")]
    | Annotated[LineArray, Tag("‹line›")]
    | Annotated[SurfaceArray, Tag("‹surface›")]
    | Annotated[ParticleArray, Tag("‹particles›")],
    Discriminator(
        _way,
        custom_error_type="along",
        custom_error_message="along a grid, a ring, the line of a tube, a surface, or particles",
    ),
]
"""How copies are laid out."""

AnyArray = GridArray | RingArray | LineArray | SurfaceArray | ParticleArray

OnOther = LineArray | SurfaceArray | ParticleArray
"""Those that follow another object."""


class CopyChange(Model):
    """What a signal does to each copy by its value where the copy stands."""

    signal: Name = Field(description="A shared signal; of a colour the luminance counts, but for an attribute.")
    does: Literal["move", "resize", "turn", "tilt", "keep", "choose", "carry"] = Field(
        "move",
        description="Move, resize, turn or tilt it; keep it, by chance as likely as the value; choose its body, the object itself at 0 and the last "
        "of `bodies` at 1 (what measures from copies still sees bodies by chance); or be carried as an attribute.",
    )
    by: Vector = Field((0.0, 0.1, 0.0), description="How far it is moved at 1, metres along its own axes.")
    amount: Finite = Field(
        2.0,
        description="What its size is multiplied by at 1, or by how many degrees it is turned about its y axis or tilted about its x axis.",
    )
    name: Name = Field("tint", description="Of the attribute, as looks ask for it.")


def copies_of(array: AnyArray | None) -> int:
    """How many there are at most, the object itself among them.

    Parameters
    ----------
    array : Array, optional
        Of an object; of none it is alone.
    """
    if isinstance(array, GridArray):
        return array.counts[0] * array.counts[1] * array.counts[2]
    if isinstance(array, (RingArray, LineArray)):
        return array.count
    if isinstance(array, SurfaceArray):
        return array.most
    return 1 if array is None else MOST_COPIES
