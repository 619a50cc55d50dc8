"""Contact and proximity: prints in frost, dirt that gathers against a wall, a glow where something comes near."""

from typing import ClassVar, Literal

import numpy as np

from texallon.core.document.space import ObjectRef
from texallon.core.kernel import Array
from texallon.core.ops.op import Source, Space, param, position_in, space_key
from texallon.core.ops.points import Points
from texallon.core.points.distance import EVEN_HIDDEN


class Contact(Source):
    name: ClassVar[str] = "contact"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = "How near another object's surface is, or a locator: 1 where it touches, 0 beyond an end."
    reference: ClassVar[str] = "distance to a triangle mesh: C. Ericson, Real-Time Collision Detection (2005), 5.1.5"
    phrase: ClassVar[str] = "the nearness of {to}, from {start} to {end}"

    to: Space = param(
        "world", "An object's surface; or the origin of a locator, of the world, of the object itself.", kind="place"
    )
    start: float = param(0.0, "Up to which it is 1.", unit="m", low=0, high=1e4)
    end: float = param(
        0.2, "From which on it is 0; at or before the start it is a hard edge there.", unit="m", low=1e-4, high=1e4
    )
    falloff: Literal["linear", "smooth", "square", "inverse square", "exponential"] = param("smooth", "How it falls between them; a curve after it makes any other.")  # fmt: skip
    part: Literal["surface", "edges", "points", "middle"] = param(
        "surface", "What of an object is near: of a mesh the edges and points are its own."
    )
    inside: Literal["fades", "touches"] = param(
        "fades", "Whether what lies within a closed object fades from its surface too, or touches it."
    )
    intensity: float = param(1.0, "Multiplies the nearness.", low=0, high=1e4)
    hidden: bool = param(
        False,
        "Whether an object counts though it is hidden: a closed body that shapes an effect and is not seen. "
        "It is measured as it is before signals move it.",
    )
    measure: Literal["nearness", "distance", "signed distance"] = param(
        "nearness", "0…1; or metres, up to the end; signed below 0 within a closed object."
    )

    def required_data(self) -> frozenset[str]:
        if self._is_measured:
            return frozenset({self._kind})
        needed = {position_in(self.to)}
        return frozenset(needed | {"object_scale"} if self._of_object else needed)

    def spaces(self) -> tuple[Space, ...]:
        return (self.to,)

    @property
    def _of_object(self) -> bool:
        return self.to in ("object", "rest")

    @property
    def _kind(self) -> str:
        name = self.to.object if isinstance(self.to, ObjectRef) else ""
        signed = self.part == "surface" and (self.measure == "signed distance" or self.inside == "touches")
        part = "signed" if signed else self.part
        return f"distance:{max(self.end, self.start):.6g},{part},{name}{EVEN_HIDDEN if self.hidden else ''}"

    @property
    def _is_measured(self) -> bool:
        """Whether it takes more than a position to know the distance."""
        return isinstance(self.to, ObjectRef) and self.part != "middle"

    def _fill(self, points: Points, out: Array) -> None:
        away = self._away(points)
        if self.measure != "nearness":
            out[0] = np.abs(away) if self.measure == "distance" else away
            return
        share = np.clip((away - np.float32(self.start)) / np.float32(max(self.end - self.start, 1e-6)), 0, 1)
        left = np.float32(1) - share
        if self.falloff == "smooth":
            left = left * left * (np.float32(3) - np.float32(2) * left)
        elif self.falloff == "square":
            left = left * left
        elif self.falloff == "inverse square":
            # 1 / (1 + 9 s²), moved and scaled to end at 0.
            left = (np.float32(1) / (np.float32(1) + np.float32(9) * share * share) - np.float32(0.1)) / np.float32(0.9)
        elif self.falloff == "exponential":
            # e to the power −5 s, likewise.
            last = np.float32(np.exp(-5))
            left = (np.exp(np.float32(-5) * share) - last) / (np.float32(1) - last)
        out[0] = left * np.float32(self.intensity)

    def _away(self, points: Points) -> Array:
        if self._is_measured:
            away: Array = points.data[self._kind][0]
            return away
        key = space_key(self.to)
        place = points.position(key)
        # Metres in the world, however large the locator or the object is made.
        matrix = points.world_to_space.get(key)
        unit = 1.0 if matrix is None else abs(float(np.linalg.det(matrix[:, :3].astype(np.float64)))) ** (-1 / 3)
        scale = points.data["object_scale"][0] if self._of_object else np.float32(unit)
        found: Array = np.minimum(np.sqrt((place * place).sum(axis=0)) * scale, np.float32(max(self.end, self.start)))
        return found
