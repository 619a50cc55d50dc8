"""Light groups: lights whose pictures are kept apart, so that they can be weighted anew without rendering again."""

from collections.abc import Sequence

from pydantic import Field

from texallon.core.document.base import Name, NonNegative, Radiance
from texallon.core.document.ids import Identified


class LightGroup(Identified):
    """Lights, surroundings and objects that shine name their group; those that name none are weighted as they are."""

    name: Name
    on: bool = True
    intensity: NonNegative = Field(1.0, description="Multiplies the group's light.")
    colour: Radiance = Field((1.0, 1.0, 1.0), description="Multiplies the group's light, by channel.")


def group_number(names: Sequence[str], name: str | None) -> int:
    """A light group's place, counted from 1; 0 for none, or one that the shot lacks.

    Parameters
    ----------
    names : sequence of str
        In their order.
    name : str, optional
        That is looked for; none for no group.

    Examples
    --------
    >>> group_number(("warm", "cold"), "cold"), group_number((), None)
    (2, 0)
    """
    return names.index(name) + 1 if name in names else 0
