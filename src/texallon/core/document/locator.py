"""A locator: a placed, turned and scaled point that masks are measured from and objects may follow."""

from pydantic import Field

from texallon.core.document.base import Name, Positive, Vector
from texallon.core.document.ids import Identified


class Locator(Identified):
    name: Name
    position: Vector = Field((0.0, 0.0, 0.0), description="Metres.")
    rotation: Vector = Field((0.0, 0.0, 0.0), description="Degrees about x, then y, then z.")
    scale: Positive = 1.0
