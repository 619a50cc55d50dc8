"""What stands behind everything in the camera's view, and lights nothing."""

from pydantic import Field

from texallon.core.document.base import Model, Radiance
from texallon.core.document.object import FileRef


class Backdrop(Model):
    """An even colour, or a picture that fills the view from edge to edge."""

    colour: Radiance = Field((0.0, 0.0, 0.0), description="Multiplies the picture, or stands alone.")
    image: FileRef | None = Field(None, description="Fills the view from edge to edge.")
