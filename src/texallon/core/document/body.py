"""Bodies that need no file: their measures are the document's, and their meshes are made from them.

All stand on the ground at their object's origin, y upwards, lengths in metres.
"""

from typing import Annotated, Any, Literal

from pydantic import Discriminator, Field, Tag

from texallon.core.document.base import Model, Vector

MOST_SEGMENTS = 512

Length = Annotated[float, Field(ge=1e-4, le=1e4, allow_inf_nan=False)]
LengthOrNone = Annotated[float, Field(ge=0, le=1e4, allow_inf_nan=False)]
Share = Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
Around = Annotated[int, Field(ge=3, le=MOST_SEGMENTS, description="Sides of its circle.")]
Across = Annotated[int, Field(ge=1, le=MOST_SEGMENTS, description="Cells along each of its sides.")]
Rounding = Annotated[
    LengthOrNone, Field(description="Radius of its rounded edges; at most half of its shortest side is taken.")
]


class Plane(Model):
    """A level square that faces upwards."""

    shape: Literal["plane"]
    width: Length = 2.0
    depth: Length = 2.0
    segments: Across = 1


class Box(Model):
    shape: Literal["box"]
    width: Length = 1.0
    height: Length = 1.0
    depth: Length = 1.0
    rounding: Rounding = 0.02
    segments: Across = 1


class Sphere(Model):
    shape: Literal["sphere"]
    radius: Length = 0.5
    segments: Around = 64


class Cylinder(Model):
    shape: Literal["cylinder"]
    radius: Length = 0.5
    height: Length = 1.0
    rounding: Rounding = 0.02
    segments: Around = 64


class Cone(Model):
    """A cone, or a piece of one where its top has a radius."""

    shape: Literal["cone"]
    radius: Length = 0.5
    top: LengthOrNone = Field(0.0, description="Radius at its upper end.")
    height: Length = 1.0
    segments: Around = 64


class Torus(Model):
    """A ring that lies on the ground."""

    shape: Literal["torus"]
    radius: Length = Field(0.5, description="From its axis to the middle of the ring.")
    thickness: Length = Field(0.15, description="Radius of the ring itself; at most its radius is taken.")
    segments: Around = 96


class Capsule(Model):
    """A cylinder with a half ball at either end."""

    shape: Literal["capsule"]
    radius: Length = 0.25
    height: Length = Field(1.0, description="From end to end; at least twice its radius is taken.")
    segments: Around = 64


class Tube(Model):
    """A tube along a line through points of its object's space; it need not stand on the ground."""

    shape: Literal["tube"]
    points: list[Vector] = Field(
        default=[(-0.5, 0.1, 0.0), (0.0, 0.5, 0.0), (0.5, 0.1, 0.0)],
        min_length=2,
        max_length=1024,
        description="Metres.",
    )
    tangents: list[Vector | None] = Field(
        default_factory=list,
        max_length=1024,
        description="At points of a smooth line, by their places in the list: the control point that follows, seen from the point, metres; the "
        "one before lies as far on the other side. Where there is none the neighbours say how it bends.",
    )
    closed: bool = Field(False, description="Whether it ends where it begins.")
    smooth: bool = Field(True, description="Whether it bends smoothly through its points, or is straight between them.")
    radius: Length = 0.05
    thickness: list[tuple[Share, Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)]]] = Field(
        default_factory=list,
        max_length=64,
        description="Shares of its length, and what its radius is multiplied by there; straight between them.",
    )
    twist: Annotated[float, Field(ge=-1e5, le=1e5, allow_inf_nan=False)] = Field(0.0, description="Degrees a metre.")
    segments: Around = 24
    spans: Across = Field(16, description="Pieces between two points.")


Body = Plane | Box | Sphere | Cylinder | Cone | Torus | Capsule | Tube

FILE_TAG = "‹file›"
"""In the place of a shape's name for geometry that is a file."""

SHAPES: tuple[type[Model], ...] = (Plane, Box, Sphere, Cylinder, Cone, Torus, Capsule, Tube)


def shape_of(value: Any) -> str:
    """Which kind of geometry a value is: a shape's name, or a file.

    Parameters
    ----------
    value : Any
        A model, or parsed JSON.
    """
    shape = value.get("shape") if isinstance(value, dict) else getattr(value, "shape", None)
    return FILE_TAG if shape is None else f"‹{shape}›"


BodyTags = (
    Annotated[Plane, Tag("‹plane›")]
    | Annotated[Box, Tag("‹box›")]
    | Annotated[Sphere, Tag("‹sphere›")]
    | Annotated[Cylinder, Tag("‹cylinder›")]
    | Annotated[Cone, Tag("‹cone›")]
    | Annotated[Torus, Tag("‹torus›")]
    | Annotated[Capsule, Tag("‹capsule›")]
    | Annotated[Tube, Tag("‹tube›")]
)
by_shape = Discriminator(
    shape_of,
    custom_error_type="shape",
    custom_error_message=f"a file, or a shape of {', '.join(each.__name__.lower() for each in SHAPES)}, rain, spores, footsteps, flow, cells",
)
