"""When a picture is good enough."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import Model


class Sampling(Model):
    """Sampling stops at `samples`, or before that where the noise is below its threshold."""

    samples: Annotated[int, Field(ge=1, le=65536, description="Most samples of a pixel.")] = 256
    noise: Annotated[
        float,
        Field(
            ge=0,
            le=1,
            description="Parts of the picture whose relative error is smaller are left as they are; 0 samples all alike.",
        ),
    ] = 0.0
