"""How an object that consists of particles is seen: each as a ball, or all of them within one skin."""

from typing import Annotated

from pydantic import Field

from texallon.core.document.base import Finite, Model, Name, Positive


class Skin(Model):
    """One closed surface around all particles."""

    smooth: Annotated[Finite, Field(ge=0, le=1e3)] = Field(
        0.02, description="How far balls flow into one another, metres; at 0 they only meet."
    )
    cell: Positive | None = Field(
        None, description="Length of the cells that it is found in, metres; unless given, a third of a middling radius."
    )


class Particles(Model):
    """Their radius, and what is seen of them."""

    radius: Positive = Field(
        0.02, description="Metres, of particles that carry none; else their own is multiplied by `times`."
    )
    attribute: Name = Field("radius", description="What they carry their radius as.")
    times: Positive = 1.0
    skin: Skin | None = Field(None, description="A skin around them; unless given, each is a ball.")
