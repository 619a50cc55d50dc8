"""Looks at work: from surface points to the rows of the material array, each look's plan run once per group."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from texallon.core.document.channels import CHANNEL_BY_NAME, CHANNELS
from texallon.core.document.look import Look
from texallon.core.document.shot import Shot
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array
from texallon.core.render.relief import bump_slope, tilt, turn_to_map
from texallon.core.render.scene import Scene, Surface, point_data
from texallon.core.shade.rows import MATERIAL, MATERIAL_ROWS
from texallon.core.shade.wetting import wet
from texallon.core.signal.plan import Plan, plan_look
from texallon.core.signal.run import evaluate


@dataclass(frozen=True)
class Materials:
    """The plans of a shot's looks, in the order of the document."""

    looks: tuple[Look, ...]
    plans: tuple[Plan, ...]
    bumps: tuple[Plan | None, ...]
    """The plan of a look's bump alone, where it has one."""

    def key(self) -> str:
        """Changes whenever any channel of any look does."""
        return "|".join(f"{name}:{plan.key(name)}" for plan in self.plans for name in plan.outputs)

    def rows(self, scene: Scene, hits: Hits, surface: Surface, more: Mapping[str, Array]) -> Array:
        """The material array `(MATERIAL, n)` at some hits; `more` holds `view (3, n)` and `footprint (1, n)`.

        Bumps and normal maps tilt the normals of `surface` in place.
        """
        count = len(hits.instance)
        out = np.empty((MATERIAL, count), np.float32)
        out[:] = DEFAULTS[:, None]
        for index in np.unique(surface.look):
            plan = self.plans[index]
            chosen = np.flatnonzero(surface.look == index)
            whole = len(chosen) == count
            part, points = (hits, surface) if whole else (hits.take(chosen), take_surface(surface, chosen))
            mine = more if whole else {name: np.ascontiguousarray(values[:, chosen]) for name, values in more.items()}
            data = point_data(scene, part, points, plan.needs, mine)
            for name, value in evaluate(plan, plan.points(len(chosen), data, scene.pictures)).items():
                channel = CHANNEL_BY_NAME[name]
                # What is not a number would spread over the whole picture: it counts as the channel's lowest value.
                value = np.clip(np.nan_to_num(value, nan=channel.low), channel.low, channel.high)
                row = MATERIAL_ROWS[name]
                if whole:
                    out[row : row + channel.width] = value
                else:
                    out[row : row + channel.width, chosen] = value
            self._relieve(int(index), scene, part, points, mine, out if whole else out[:, chosen])
            if not whole:
                surface.normal[:, chosen] = points.normal
        wet(out)
        return out

    def _relieve(
        self, index: int, scene: Scene, hits: Hits, surface: Surface, more: Mapping[str, Array], rows: Array
    ) -> None:
        bump = self.bumps[index]
        slope = None if bump is None else bump_slope(scene, hits, bump, more)
        if "geometry_normal" in self.plans[index].outputs:
            mapped = rows[MATERIAL_ROWS["geometry_normal"] : MATERIAL_ROWS["geometry_normal"] + 3]
            turn_to_map(scene, hits, surface, np.ascontiguousarray(mapped))
        if slope is not None:
            tilt(surface, slope)


def make_materials(shot: Shot, frame: float | None = None) -> Materials:
    """Plans for all looks at a frame (the first unless given); raises `DocumentError` where one can't be planned."""
    plans = tuple(plan_look(shot, look, frame=frame) for look in shot.looks)
    bumps = tuple(
        plan_look(shot, look, ["bump"], frame) if "bump" in plan.outputs else None
        for look, plan in zip(shot.looks, plans, strict=True)
    )
    return Materials(tuple(shot.looks), plans, bumps)


def take_surface(surface: Surface, chosen: np.typing.NDArray[np.intp]) -> Surface:
    """The surface points at some positions."""
    return Surface(
        np.ascontiguousarray(surface.position[:, chosen]),
        np.ascontiguousarray(surface.normal[:, chosen]),
        np.ascontiguousarray(surface.flat[:, chosen]),
        surface.look[chosen],
    )


def _defaults() -> Array:
    rows = np.zeros(MATERIAL, np.float32)
    for channel in CHANNELS:
        rows[MATERIAL_ROWS[channel.name] : MATERIAL_ROWS[channel.name] + channel.width] = channel.default
    return rows


DEFAULTS = _defaults()
