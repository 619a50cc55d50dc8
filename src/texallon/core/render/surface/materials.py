"""Looks at work: from surface points to the columns of the material array, each look's plan run once per batch."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from texallon.core.derived import content_key
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array
from texallon.core.render.scene.scene import Scene
from texallon.core.render.scene.surface import Surface, take_surface
from texallon.core.render.surface.bump import bump_slope, displaced_normals, mapped_direction, tilt, turn_to_map
from texallon.core.render.surface.emission import Emission
from texallon.core.render.surface.relief import Relief
from texallon.core.render.surface.rows import LookBatch, RowPlans, fill_uniform, look_batch, write_varying
from texallon.core.shade.emission import resolve_emission
from texallon.core.shade.rows import COAT_NORMAL, COAT_TANGENT, MATERIAL, MATERIAL_ROWS, TANGENT
from texallon.core.shade.wetness import wet
from texallon.core.signal.plan import Plan

SHAPING = frozenset(
    {
        "bump",
        "geometry_normal",
        "geometry_coat_normal",
        "specular_roughness_anisotropy",
        "coat_roughness_anisotropy",
    }
)
"""Channels that turn the basis in which a surface is shaded."""

OF_COAT_BASIS = frozenset({"geometry_normal", "geometry_coat_normal", "coat_roughness_anisotropy"})
"""Channels by which a coat's basis may differ from that of its base."""


@dataclass(frozen=True)
class Materials:
    """The plans of a shot's looks, in the order of the document.

    Attributes
    ----------
    plans : tuple of Plan
        Outputs by channel.
    relief : Relief
        The looks' bump, displacement and normal maps.
    rows : RowPlans
        Of `plans`.
    emission : Emission
        The looks' own light.
    exposure : float
        Of the camera in stops, for self-lit colours.
    """

    plans: tuple[Plan, ...]
    relief: Relief
    row_plans: RowPlans
    emission: Emission
    exposure: float = 0.0

    @cached_property
    def content_key(self) -> str:
        lit = any("self_lit" in plan.outputs for plan in self.plans)
        return content_key(("materials", self.plans, self.relief, self.emission, self.exposure if lit else 0.0))

    def rows(
        self,
        scene: Scene,
        hits: Hits,
        surface: Surface,
        given: Mapping[str, Array],
        apply_bump: np.typing.NDArray[np.bool_] | bool = True,
    ) -> Array:
        """The material array at some hits.

        Parameters
        ----------
        scene : Scene
            What stands where.
        hits : Hits
            `n` hits on objects.
        surface : Surface
            Bumps and normal maps tilt its normals in place.
        given : mapping
            `view (3, n)` and `footprint (1, n)`.
        apply_bump : bool or array
            `(n,)` where they do.

        Returns
        -------
        Array
            `(MATERIAL, n)`.
        """
        out = np.empty((MATERIAL, len(hits.instance)), np.float32)
        fill_uniform(self.row_plans.uniform, surface.look, out)
        for index in np.unique(surface.look):
            plan = self.row_plans.varying[index]
            shaped = apply_bump is not False and self._is_shaped(int(index))
            if plan is None and not shaped:
                continue
            batch = look_batch(int(index), hits, surface, given)
            if plan is not None:
                write_varying(plan, scene, batch, out, self.relief)
            if not shaped:
                continue
            if not isinstance(apply_bump, bool):
                fine = np.flatnonzero(apply_bump[batch.chosen])
                if len(fine) == 0:
                    continue
                if len(fine) < len(batch.chosen):
                    batch = batch.narrowed(fine)
            self._shape(scene, batch, out)
            if not batch.whole:
                surface.normal[:, batch.chosen] = batch.surface.normal
        resolve_emission(out, self.exposure)
        wet(out)
        return out

    def _is_shaped(self, look: int) -> bool:
        return self.relief.displacements[look] is not None or not SHAPING.isdisjoint(self.plans[look].outputs)

    def _shape(self, scene: Scene, batch: LookBatch, rows: Array) -> None:
        """Tilt the normals of a batch, and write its tangents and its coat's basis."""
        hits, surface, chosen = batch.hits, batch.surface, batch.chosen
        outputs = self.plans[batch.look].outputs
        bump, height = self.relief.bumps[batch.look], self.relief.displacements[batch.look]
        slope = None
        if bump is not None:
            slope = bump_slope(scene, hits, surface.offset, bump, batch.given, rows[MATERIAL_ROWS["bump"], chosen])
        if height is not None:
            surface.normal[:] = displaced_normals(scene, hits, surface.offset, height, batch.given)

        def mapped(name: str) -> Array:
            first = MATERIAL_ROWS[name]
            return np.ascontiguousarray(rows[first : first + 3, chosen])

        # A map that turns the base leaves a coat lie on the geometry; a bump is geometry left out, which both follow.
        coat = take_surface(surface, np.arange(len(chosen))) if outputs.keys() & OF_COAT_BASIS else None
        if "geometry_normal" in outputs:
            turn_to_map(scene, hits, surface, mapped("geometry_normal"))
        if slope is not None:
            tilt(surface, slope)
        if "specular_roughness_anisotropy" in outputs:
            rows[TANGENT : TANGENT + 3, chosen] = mapped_direction(scene, hits, surface, mapped("geometry_tangent"))
        if coat is None:
            return
        if "geometry_coat_normal" in outputs:
            turn_to_map(scene, hits, coat, mapped("geometry_coat_normal"))
        elif slope is not None:
            tilt(coat, slope)
        rows[COAT_NORMAL : COAT_NORMAL + 3, chosen] = coat.normal
        if "coat_roughness_anisotropy" in outputs:
            tangent = mapped_direction(scene, hits, coat, mapped("geometry_coat_tangent"))
            rows[COAT_TANGENT : COAT_TANGENT + 3, chosen] = tangent
