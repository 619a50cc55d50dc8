"""The light that surfaces send out themselves, apart from everything else about them."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from texallon.core.derived import content_key
from texallon.core.document.carried_looks import CarriedLooks, touched_channels
from texallon.core.document.look import Look
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array
from texallon.core.render.scene.scene import Scene
from texallon.core.render.scene.surface import Surface
from texallon.core.render.surface.relief import Relief
from texallon.core.render.surface.rows import RowPlans, fill_uniform, look_batch, write_varying
from texallon.core.shade.coat import attenuate_emission
from texallon.core.shade.emission import resolve_emission
from texallon.core.shade.rows import COAT_WEIGHT, EMISSION_COLOR, EMISSION_LUMINANCE, MATERIAL, OPACITY
from texallon.core.shade.wetness import wet
from texallon.core.signal.plan import Plan

EMITTING = frozenset({"emission_luminance", "self_lit"})
"""Channels without which nothing shines."""

EMISSION_CHANNELS = frozenset(
    {
        *EMITTING,
        "emission_color",
        "emission_exposure",
        "base_weight",
        "base_color",
        "geometry_opacity",
        "coat_weight",
        "coat_color",
        "coat_ior",
        "wetness",
        "transmission_weight",
        "base_metalness",
        "geometry_thin_walled",
    }
)
"""What a surface's own light depends on."""


def emission_channels(look: Look, carried: CarriedLooks) -> frozenset[str]:
    """The channels that a look's own light depends on; empty where it can't shine.

    Parameters
    ----------
    look : Look
        Layers that are off don't count.
    carried : mapping
        Looks that layers carry, by name.
    """
    touched = touched_channels(look, carried)
    return touched & EMISSION_CHANNELS if touched & EMITTING else frozenset()


@dataclass(frozen=True)
class Emission:
    """What surfaces send out.

    Attributes
    ----------
    plans : tuple
        By look, the plan of what its light depends on; none where it does not shine.
    rows : RowPlans
        Of these.
    relief : Relief, optional
        Of all looks, where some light follows it.
    exposure : float
        Of the camera in stops, for self-lit colours.
    """

    plans: tuple[Plan | None, ...]
    rows: RowPlans
    relief: Relief | None = None
    exposure: float = 0.0

    @cached_property
    def content_key(self) -> str:
        lit = any("self_lit" in plan.outputs for plan in self.plans if plan is not None)
        return content_key(("emission", self.plans, self.relief, self.exposure if lit else 0.0))

    def emits(self, look: int) -> bool:
        """Whether a look, by its position, may send out light.

        Parameters
        ----------
        look : int
            By position in the document.
        """
        return self.plans[look] is not None

    def radiance(self, scene: Scene, hits: Hits, surface: Surface, given: Mapping[str, Array]) -> Array:
        """The light that surfaces send out at some hits, what is cut out taken off.

        Parameters
        ----------
        scene : Scene
            What stands where.
        hits : Hits
            `n` hits on objects.
        surface : Surface
            Their surface points.
        given : mapping
            `view (3, n)` and `footprint (1, n)`.

        Returns
        -------
        Array
            `(3, n)` radiance.
        """
        rows = np.empty((MATERIAL, len(hits.instance)), np.float32)
        fill_uniform(self.rows.uniform, surface.look, rows)
        for index in np.unique(surface.look):
            plan = self.rows.varying[index]
            if plan is not None:
                write_varying(plan, scene, look_batch(int(index), hits, surface, given), rows, self.relief)
        resolve_emission(rows, self.exposure)
        wet(rows)
        luminance = rows[EMISSION_LUMINANCE] * rows[OPACITY]
        result: Array = luminance * rows[EMISSION_COLOR : EMISSION_COLOR + 3]
        if rows[COAT_WEIGHT].any():
            attenuate_emission(rows, (given["view"] * surface.normal).sum(axis=0), result)
        return result
