"""A camera: where it stands, what it looks at, and how its film is exposed."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import Model, Positive, Vector


class Camera(Model):
    position: Vector = Field((0.0, 1.5, 4.0), description="Metres.")
    target: Vector = Field((0.0, 0.5, 0.0), description="The point looked at and orbited about, metres.")
    focal_length: Positive = Field(35.0, description="Millimetres.")
    film_width: Positive = Field(36.0, description="Millimetres.")
    f_stop: Annotated[float, Field(ge=0, le=1000, allow_inf_nan=False)] = Field(
        0.0, description="Focal length over the lens's opening; 0 is a pinhole that sees everything sharp."
    )
    focus_distance: Positive = Field(3.0, description="Metres along the view to what is sharp.")
    exposure: Annotated[float, Field(ge=-20, le=20, allow_inf_nan=False)] = Field(
        0.0,
        description="Stops: what is shown, and PNG files, are multiplied by 2 to this power; EXR files are not, and say so.",
    )
