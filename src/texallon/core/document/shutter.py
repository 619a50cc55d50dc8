"""A shutter: for how long of each frame light is gathered, and when."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import Model


class Shutter(Model):
    """Open for `angle`/360 of a frame's time, about a moment that lies `offset`/360 of a frame from the frame itself."""

    on: bool = Field(False, description="Whether what moves while the shutter is open is blurred.")
    angle: Annotated[float, Field(ge=0, le=720, allow_inf_nan=False)] = Field(
        180.0, description="Degrees of a turn that takes one frame: 180 is open for half of a frame's time."
    )
    offset: Annotated[float, Field(ge=-720, le=720, allow_inf_nan=False)] = Field(
        0.0,
        description="Degrees from the frame to the middle of what is open: at 0 it is open about the frame, at half the angle it opens at the frame.",
    )

    def interval(self, frame: float) -> tuple[float, float]:
        """From when to when it is open, in frames.

        Parameters
        ----------
        frame : float
            Of the shot.

        Examples
        --------
        >>> Shutter(on=True, angle=180, offset=90).interval(10)
        (10.0, 10.5)
        """
        middle, half = frame + self.offset / 360, self.angle / 720 if self.on else 0.0
        return (middle - half, middle + half) if self.on else (float(frame), float(frame))
