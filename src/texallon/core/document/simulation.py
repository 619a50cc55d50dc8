"""Stand-in simulations: small motions by a few numbers, in the place where a sequence of files may stand later.

What each is at a moment follows from the moment alone, so that any frame may be asked first.
"""

from typing import Annotated, Literal

from pydantic import Field, model_validator

from texallon.core.document.base import Finite, Model, Vector
from texallon.core.document.body import Length, LengthOrNone

Seed = Annotated[int, Field(ge=0, le=2**31 - 1)]
Moment = Annotated[
    Finite,
    Field(
        description="Seconds of its own at the shot's first frame; when a shot is resolved those of the frame are added."
    ),
]

MOST_DROPS, MOST_SPORES = 2_000_000, 2_000_000
"""That there are at a moment."""

MOST_DIVISIONS = 13
"""Of cells, one after another: 8192 of them at the end."""


class Rain(Model):
    """Drops that fall over a level rectangle and rest for a moment where they hit the ground.

    Particles. Attributes: `radius`, `age` in seconds since a drop hit the ground, below 0 in the air, and `number`.
    """

    shape: Literal["rain"]
    width: Length = 2.0
    depth: Length = 2.0
    height: Length = Field(3.0, description="From which drops are seen to fall.")
    rate: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] = Field(40.0, description="Drops a second.")
    speed: Length = Field(6.5, description="Metres per second at which they fall.")
    radius: Length = Field(0.004, description="In the middle; drops have from half as much to half as much again.")
    rests: Annotated[float, Field(ge=0, le=60, allow_inf_nan=False)] = Field(
        0.09, description="Seconds for which a drop stays where it hit."
    )
    seed: Seed = 0
    seconds: Moment = 0.0

    @model_validator(mode="after")
    def _count(self) -> "Rain":
        if self.rate * (self.height / self.speed + self.rests) > MOST_DROPS:
            raise ValueError(f"at most {MOST_DROPS:,} drops at a moment: a lower rate or height, or a higher speed")
        return self


class Spores(Model):
    """Spores that drift through a box with the wind, each on a wavering way of its own; those that leave come in again on the other side.

    Particles. Attributes: `radius`, 0 at the borders that they come in by, and `number`.
    """

    shape: Literal["spores"]
    width: Length = 2.0
    height: Length = 1.5
    depth: Length = 2.0
    count: Annotated[int, Field(ge=1, le=MOST_SPORES)] = 400
    wind: Vector = Field((0.15, 0.02, 0.0), description="Metres per second.")
    wavering: LengthOrNone = Field(0.12, description="Metres that a spore strays from the wind's way.")
    restless: Annotated[float, Field(ge=0, le=100, allow_inf_nan=False)] = Field(
        0.4, description="How often a second it strays."
    )
    radius: Length = Field(0.006, description="In the middle; spores have from half as much to half as much again.")
    seed: Seed = 0
    seconds: Moment = 0.0


class Footsteps(Model):
    """Two feet that walk along x: one stands while the other is carried past it. Their soles are six-sided."""

    shape: Literal["footsteps"]
    stride: Length = Field(0.5, description="Metres from one stand of a foot to its next.")
    apart: LengthOrNone = Field(0.2, description="Metres between the ways of both.")
    pace: Annotated[float, Field(ge=0, le=50, allow_inf_nan=False)] = Field(
        1.4, description="Steps a second, of both feet together."
    )
    lift: LengthOrNone = Field(0.08, description="Metres that a foot is raised.")
    radius: Length = Field(0.08, description="Of a sole.")
    seconds: Moment = 0.0


class Flow(Model):
    """A thick liquid that is poured onto level ground, runs apart under its own weight, cools and grows stiff.

    A surface. Attributes: `temperature` in kelvins, `depth` in metres, and `rim`, 0 in the middle to 1 at the edge; its UV map, in metres, travels with it.
    """

    shape: Literal["flow"]
    volume: Annotated[float, Field(ge=1e-9, le=1e4, allow_inf_nan=False)] = Field(
        0.004, description="Cubic metres in all."
    )
    pours: Annotated[float, Field(ge=0, le=3600, allow_inf_nan=False)] = Field(
        1.0, description="Seconds in which all of it is poured."
    )
    viscosity: Annotated[float, Field(ge=1e-6, le=1e6, allow_inf_nan=False)] = Field(
        0.02, description="Square metres a second (kinematic), as hot as it comes: syrup 0.003, lava 0.05 and more."
    )
    hot: Annotated[float, Field(ge=0, le=1e5, allow_inf_nan=False)] = Field(1500.0, description="Kelvins as it comes.")
    cold: Annotated[float, Field(ge=0, le=1e5, allow_inf_nan=False)] = Field(
        290.0, description="Kelvins of all around."
    )
    cools: Annotated[float, Field(ge=1e-3, le=1e6, allow_inf_nan=False)] = Field(
        8.0,
        description="Seconds in which a layer of a centimetre comes to a third (1/e) of its heat above what is around.",
    )
    stiffens: Annotated[float, Field(ge=1, le=1e6, allow_inf_nan=False)] = Field(
        3.0, description="How many times as viscous it is when it is 100 K colder."
    )
    lobes: Annotated[float, Field(ge=0, le=0.5, allow_inf_nan=False)] = Field(
        0.15, description="How far its edge strays from a circle, as a share of its radius."
    )
    segments: Annotated[int, Field(ge=12, le=1024)] = Field(128, description="Around its edge.")
    seed: Seed = 0
    seconds: Moment = 0.0


class Cells(Model):
    """Cells that grow, divide in two and press each other apart, in a ball that swells.

    Particles. Attributes: `radius`, `age` in seconds since a cell came of a division, `generation`, `strain`, 0…1, which daughters have from their mother
    but for a little, and `number`.
    """

    shape: Literal["cells"]
    radius: Length = Field(0.03, description="Of a grown cell.")
    divides: Annotated[float, Field(ge=1e-3, le=3600, allow_inf_nan=False)] = Field(
        0.6, description="Seconds from a cell's beginning to its division."
    )
    uneven: Annotated[float, Field(ge=0, le=0.9, allow_inf_nan=False)] = Field(
        0.25, description="By which share of these seconds cells differ."
    )
    divisions: Annotated[int, Field(ge=0, le=MOST_DIVISIONS)] = Field(
        8, description="After so many cells divide no more; there are at most 2 to this power."
    )
    strays: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = Field(
        0.12, description="How far a daughter's strain may stray from her mother's."
    )
    flat: bool = Field(False, description="Whether they stay in a layer upon the ground.")
    seed: Seed = 0
    seconds: Moment = 0.0


Simulation = Rain | Spores | Footsteps | Flow | Cells
