"""How often a light path may turn, by kind; beside the shot's `bounces`, which counts all turns together."""

from typing import Annotated

import numpy as np
from pydantic import Field

from texallon.core.document.base import Model, NonNegative

Limit = Annotated[int, Field(ge=0, le=64)]


class Limits(Model):
    """Beyond a limit a ray still finds lamps and sky, but no surface; what is cut out is passed straight and counted apart."""

    diffuse: Limit = 8
    glossy: Limit = 8
    transmission: Limit = 16
    transparency: Limit = Field(
        32, description="Cut-out surfaces that a path may pass; shadow rays pass at most 16 boundaries."
    )

    clamp: NonNegative = Field(
        0.0, description="Most light that a path brings after its first turn, in previews only; 0 holds nothing down."
    )

    def array(self, bounces: int) -> np.typing.NDArray[np.int32]:
        """Diffuse, glossy, transmission, transparency, and all turns but the last kind.

        Parameters
        ----------
        bounces : int
            Of all kinds together.
        """
        return np.array([self.diffuse, self.glossy, self.transmission, self.transparency, bounces], np.int32)
