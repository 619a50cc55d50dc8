"""How far another object's surface is."""

from typing import ClassVar

from texallon.core.kernel import Array
from texallon.core.points.kind import Domain, PointContext, PointData

EVEN_HIDDEN = "\n"
"""Ends the name of an object that counts though it is hidden; no name holds one."""


def measured_from(kind: str) -> str | None:
    """The object that a kind of point data measures from, with `EVEN_HIDDEN` after it where that is so; nothing for other kinds.

    Parameters
    ----------
    kind : str
        By which an op asks for it.

    Examples
    --------
    >>> measured_from("distance:0.5,surface,stone, the old")
    'stone, the old'
    """
    return kind.split(",", 2)[2] if kind.startswith(f"{Distance.name}:") else None


class Distance(PointData):
    name: ClassVar[str] = "distance"
    parameter: ClassVar[str] = "most in m, from what, object"
    unit: ClassVar[str] = "m"
    meaning: ClassVar[str] = (
        "Distance from another object in the world, up to what is given as the most: from its surface, edges or points, or signed, below 0 inside."
    )
    made_from: ClassVar[str] = "the object's mesh where it stands"
    of_others: ClassVar[bool] = True
    domain: ClassVar[Domain] = "hit"
    otherwise: ClassVar[tuple[float, ...]] = (1e6,)

    def _at_hits(self, hits: PointContext) -> Array:
        most, part, name = self.given.split(",", 2)
        return hits.distance_to(name, float(most), part)[None]
