"""Height along an axis, in metres: the source of waterlines, snow lines and dust from below.

The height is measured from the origin of `origin` (the world, the object, a locator, another object) along its `axis`.
"""

from typing import ClassVar, Literal

from texallon.core.kernel import Array
from texallon.core.ops.op import Source, Space, param, position_in, space_key
from texallon.core.ops.points import Points

AXES = {"x": 0, "y": 1, "z": 2}


class Height(Source):
    name: ClassVar[str] = "height"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "Signed distance along an axis from the world's, an object's or a locator's origin."
    reference: ClassVar[str] = "definition: the coordinate along one axis of a frame"
    phrase: ClassVar[str] = "the height above {origin}"

    origin: Space = param("world", "What the height is measured from.", kind="place")
    axis: Literal["x", "y", "z"] = param("y", "The axis of that frame to measure along; y points up.")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.origin)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.origin,)

    def _fill(self, points: Points, out: Array) -> None:
        out[0] = points.position(space_key(self.origin))[AXES[self.axis]]
