"""When a picture is good enough."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import Model

MOST_DETAIL = 3.0
"""Of volumes: cells of one pixel."""


class Sampling(Model):
    """Sampling stops at `samples`, or before that where the noise is below its threshold."""

    samples: Annotated[int, Field(ge=1, le=65536, description="Most samples of a pixel.")] = 256
    volume_detail: Annotated[
        float,
        Field(
            ge=0.25,
            le=MOST_DETAIL,
            description="How finely volumes are looked up: at 1 in cells of three pixels, at 3 in cells of one; twice as finely takes up to eight times the memory.",
        ),
    ] = 1.0
    noise: Annotated[
        float,
        Field(
            ge=0,
            le=1,
            description="Parts of the picture whose relative error is smaller are left as they are; 0 samples all alike.",
        ),
    ] = 0.0
