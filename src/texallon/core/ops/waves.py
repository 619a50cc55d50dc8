"""Waves that the wind raises on water: heights, displacement, foam."""

from collections.abc import Mapping
from typing import Any, ClassVar, Literal

import numpy as np

from texallon.core.derived import Derived
from texallon.core.kernel import Array
from texallon.core.ops.height import AXES
from texallon.core.ops.op import Source, Space, footprint_in, param, position_in, space_key
from texallon.core.ops.points import Points
from texallon.core.ops.wave_spectrum import Modes, Sea, wave_modes
from texallon.core.ops.wave_surface import (
    AGE,
    FOAM,
    HEIGHT,
    SIDEWAYS_X,
    SIDEWAYS_Z,
    foam_of,
    folds,
    look_up_water,
    water_at,
    wave_tile,
)

CELLS = {"coarse": 64, "middling": 128, "fine": 256, "finest": 512}

MOMENTS = 12
"""A second at which crests are looked at for foam."""

FORGOTTEN = 5
"""Times that foam lasts, after which nothing is left of it to be seen (e⁻⁵)."""

MOST_MOMENTS = 120
"""That foam is made from: of foam that lasts longer than two seconds they lie farther apart."""


class Waves(Source):
    name: ClassVar[str] = "waves"
    category: ClassVar[str] = "patterns"
    purpose: ClassVar[str] = (
        "Water that the wind moves, from ripples on a pond to a stormy sea: its height, how points move, its foam."
    )
    reference: ClassVar[str] = (
        "spectra: Hasselmann et al. (JONSWAP), 1973; Pierson and Moskowitz, 1964; Bouws et al. (TMA), 1985; "
        "transforms: Tessendorf, Simulating Ocean Water, 2001"
    )
    phrase: ClassVar[str] = "{gives} of waves by a wind of {wind}"
    narrow: ClassVar[Mapping[str, Any]] = {"gives": "height"}
    non_finite: ClassVar[str] = "A position that is not finite gives NaN."

    gives: Literal["height", "displacement", "foam", "foam age"] = param(
        "height", "Metres; a vector in metres for freely moved surfaces; 0…1; or seconds since a crest folded there."
    )
    wind: float = param(4.0, "Its speed, ten metres above the water.", unit="m/s", low=0.1, high=60)
    direction: float = param(30.0, "Into which it blows, from the x axis towards z.", unit="°", low=-3600, high=3600)
    sea: Literal["growing", "full"] = param(
        "growing", "Whether waves are as the fetch lets them grow, or as high as this wind makes any."
    )
    fetch: float = param(200.0, "How far over water the wind has come.", unit="m", low=1, high=1e6)
    depth: float = param(10.0, "Of the water.", unit="m", low=0.01, high=1e4)
    spread: float = param(0.5, "At 0 all waves go with the wind, at 1 all ways.", low=0, high=1)
    choppiness: float = param(0.8, "How sharp crests are; foam needs some.", low=0, high=4)
    scale: float = param(1.0, "Multiplies heights, and how far points move.", low=0, high=1000)
    size: float = param(
        8.0, "After which a patch of waves repeats; the longest are as long.", unit="m", low=0.01, high=1e5
    )
    detail: Literal["coarse", "middling", "fine", "finest"] = param("fine", "64, 128, 256 or 512 cells across a patch.")
    tiling: Literal["blended", "repeated"] = param(
        "blended", "Whether copies of a patch are blended, so that nothing repeats."
    )
    loop: float = param(0.0, "After which everything is as it was; at 0 never.", unit="s", low=0, high=1e5)
    folds_below: float = param(
        0.6, "Foam forms where crests have less than this share of their area left.", low=-2, high=1
    )
    foam_lasts: float = param(2.0, "In which foam comes down to a third.", unit="s", low=0.05, high=600)
    seed: int = param(0, "Another number gives other waves.", low=0, high=2**31 - 1)
    space: Space = param("world", "In which place the water lies.", kind="place")
    up: Literal["x", "y", "z"] = param("y", "Which axis of that is up.")

    def required_data(self) -> frozenset[str]:
        return frozenset({position_in(self.space), footprint_in(self.space)})

    def spaces(self) -> tuple[Space, ...]:
        return (self.space,)

    def time_dependent(self) -> bool:
        return True

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if self.gives == "displacement" else 1

    def known(self) -> Sea:
        """What is known of its waves."""
        fetch = 0.0 if self.sea == "full" else self.fetch
        return Sea(
            self.wind, self.direction, fetch, self.depth, self.spread, self.size, CELLS[self.detail], self.loop, self.seed
        )  # fmt: skip

    def _fill(self, points: Points, out: Array) -> None:
        modes = wave_modes.of(self.known())
        seconds = self._looped(points.time)
        water = water_at.of(modes, seconds, self.choppiness)
        foam = self._foam(modes, seconds) if self.gives in ("foam", "foam age") else None
        tile = points.files.made(wave_tile.of(water, foam, self.size))
        key = space_key(self.space)
        level = [row for row in range(3) if row != AXES[self.up]]
        position = np.ascontiguousarray(points.position(key)[level], np.float32)
        wide = np.ascontiguousarray(np.broadcast_to(points.footprint(key), (points.count,)), np.float32)
        moved = [HEIGHT] * 3
        moved[level[0]], moved[level[1]] = SIDEWAYS_X, SIDEWAYS_Z
        fields = {"height": [HEIGHT], "displacement": moved, "foam": [FOAM], "foam age": [AGE]}
        made = np.empty(points.count, np.float32)
        for row, field in enumerate(fields[self.gives]):
            look_up_water(tile, position, wide, self.tiling == "blended", self.seed, field, made)
            out[row] = made if field in (FOAM, AGE) else made * np.float32(self.scale)

    def _foam(self, modes: Derived[Modes], seconds: float) -> Derived[Array]:
        """Foam at a time: from moments that lie as they do at every frame, and from that time itself."""
        step = max(1 / MOMENTS, FORGOTTEN * self.foam_lasts / MOST_MOMENTS)
        last = int(np.floor(seconds / step + 1e-6))
        first = last - int(np.ceil(FORGOTTEN * self.foam_lasts / step))
        births = tuple(self._folds(modes, self._looped(at * step)) for at in range(first, last + 1))
        since = max(seconds - last * step, 0.0)
        return foam_of.of(births, step, self.foam_lasts, since, self._folds(modes, seconds) if since > 0 else None)

    def _folds(self, modes: Derived[Modes], seconds: float) -> Derived[Array]:
        return folds.of(modes, seconds, self.choppiness, self.folds_below)

    def _looped(self, seconds: float) -> float:
        """A time within the loop: it comes round exactly, not but for rounding."""
        return round(float(np.mod(seconds, self.loop)) if self.loop > 0 else float(seconds), 9)
