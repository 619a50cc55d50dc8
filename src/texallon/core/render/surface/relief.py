"""What looks raise and sink on surfaces, as the normals that masks can follow."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from texallon.core.columns import take_columns
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array
from texallon.core.render.scene.hit_points import FOLLOWED, point_data
from texallon.core.render.scene.scene import Scene
from texallon.core.render.scene.surface import Surface, take_surface
from texallon.core.render.surface.bump import bump_slope, displaced_normals, tilt, turn_to_map
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import evaluate


def follows(plan: Plan | None) -> bool:
    """Whether a plan reads the relief of its look.

    Parameters
    ----------
    plan : Plan, optional
        Of a look.
    """
    return plan is not None and FOLLOWED in plan.required_data


@dataclass(frozen=True)
class Relief:
    """By look, the plan of its bump alone, of its displacement alone and of its normal map alone, where it has them."""

    bumps: tuple[Plan | None, ...]
    displacements: tuple[Plan | None, ...]
    maps: tuple[Plan | None, ...]

    @property
    def plans(self) -> tuple[Plan, ...]:
        """All of them."""
        every = (*self.bumps, *self.displacements, *self.maps)
        return tuple(plan for plan in every if plan is not None)

    def normals(self, scene: Scene, hits: Hits, surface: Surface, given: Mapping[str, Array]) -> Array:
        """The normals `(3, n)` of hits with the relief of the looks that they wear.

        The plans of relief themselves see the smooth normals, so nothing turns in a circle.

        Parameters
        ----------
        scene : Scene
            What stands where.
        hits : Hits
            `n` hits on objects.
        surface : Surface
            Surface points, n, left as they are.
        given : mapping
            `view (3, n)`, `footprint (1, n)`.

        Returns
        -------
        Array
            `(3, n)` unit vectors.
        """
        out = surface.normal.copy()
        for index in np.unique(surface.look):
            plans = self.bumps[index], self.displacements[index], self.maps[index]
            if plans == (None, None, None):
                continue
            chosen = np.flatnonzero(surface.look == index)
            mine = {name: take_columns(values, chosen) for name, values in given.items()}
            out[:, chosen] = _tilted(scene, hits.take(chosen), take_surface(surface, chosen), plans, mine)
        return out


def _tilted(
    scene: Scene,
    hits: Hits,
    surface: Surface,
    plans: tuple[Plan | None, Plan | None, Plan | None],
    given: Mapping[str, Array],
) -> Array:
    """In the order in which `Materials` shapes a surface."""
    bump, height, mapped = plans

    def value(plan: Plan, name: str) -> Array:
        data = point_data(scene, hits, surface, plan.required_data, given)
        return evaluate(plan, plan.points(len(hits.instance), data, scene.data))[name]

    slope = None
    if bump is not None:
        here = np.nan_to_num(value(bump, "bump")[0], nan=0.0, posinf=0.0, neginf=0.0)
        slope = bump_slope(scene, hits, surface.offset, bump, given, here)
    turned = None if mapped is None else value(mapped, "geometry_normal")
    if height is not None:
        surface.normal[:] = displaced_normals(scene, hits, surface.offset, height, given)
    if turned is not None:
        turn_to_map(scene, hits, surface, np.ascontiguousarray(np.broadcast_to(turned, (3, turned.shape[1]))))
    if slope is not None:
        tilt(surface, slope)
    return surface.normal
