"""A locator: a placed, turned and scaled point that masks are measured from and objects may follow."""

from pydantic import Field

from texallon.core.document.base import Model, Name, Positive, Vector


class Locator(Model):
    name: Name
    position: Vector = Field((0.0, 0.0, 0.0), description="Metres.")
    rotation: Vector = Field((0.0, 0.0, 0.0), description="Degrees about x, then y, then z.")
    scale: Positive = 1.0
