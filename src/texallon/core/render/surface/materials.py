"""Looks at work: from surface points to the rows of the material array, each look's plan run once per group."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from texallon.core.columns import Chosen, take_columns
from texallon.core.document.channels import CHANNEL_BY_NAME, CHANNELS
from texallon.core.document.look import Look
from texallon.core.document.shot import Shot
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Float, Integers, kernel
from texallon.core.render.scene.scene import Scene, Surface, point_data, take_surface
from texallon.core.render.surface.bump import bump_slope, mapped_direction, tilt, turn_to_map
from texallon.core.shade.coat import attenuate_emission
from texallon.core.shade.emission import resolve_emission
from texallon.core.shade.rows import (
    COAT_NORMAL,
    COAT_TANGENT,
    COAT_WEIGHT,
    EMISSION_COLOR,
    EMISSION_LUMINANCE,
    MATERIAL,
    MATERIAL_ROWS,
    OPACITY,
    TANGENT,
)
from texallon.core.shade.wetness import wet
from texallon.core.signal.plan import Plan, plan_look
from texallon.core.signal.run import evaluate


def _defaults() -> Array:
    rows = np.zeros(MATERIAL, np.float32)
    for channel in CHANNELS:
        rows[MATERIAL_ROWS[channel.name] : MATERIAL_ROWS[channel.name] + channel.width] = channel.default
    return rows


DEFAULTS = _defaults()


@dataclass(frozen=True)
class RowPlans:
    """By look: the material array's column of what is the same everywhere, `uniform (MATERIAL, looks)`, and plans of the rest."""

    uniform: Array
    varying: tuple[Plan | None, ...]


def split_uniform(plans: Sequence[Plan | None]) -> RowPlans:
    """Evaluate what is the same everywhere, once."""
    uniform = np.repeat(DEFAULTS[:, None], max(len(plans), 1), axis=1)
    varying: list[Plan | None] = []
    for number, plan in enumerate(plans):
        if plan is None:
            varying.append(None)
            continue
        same = plan.uniform()
        if same:
            part = plan.part(same)
            for name, value in evaluate(part, part.points(1, {})).items():
                write_channel(name, value, np.array([number]), uniform)
        rest = [name for name in plan.outputs if name not in same]
        varying.append(plan.part(rest) if rest or not same else None)
    return RowPlans(np.ascontiguousarray(uniform), tuple(varying))


def write_channel(name: str, value: Array, chosen: Chosen, rows: Array) -> None:
    """Put a channel's value `(1 or width, n)` into some columns of a material array, held within the channel's range."""
    channel, row = CHANNEL_BY_NAME[name], MATERIAL_ROWS[name]
    low, high = np.float32(channel.low), np.float32(channel.high)
    for each in range(channel.width):
        clamp_finite(value[each if value.shape[0] > 1 else 0], low, high, chosen, rows[row + each])


@kernel
def fill_uniform(uniform: Array, look: Integers, out: Array) -> None:
    """Each point's column is that of its look."""
    for row in range(out.shape[0]):
        first = uniform[row, 0]
        same = True
        for k in range(1, uniform.shape[1]):
            same = same and uniform[row, k] == first
        if same:
            for i in range(out.shape[1]):
                out[row, i] = first
        else:
            for i in range(out.shape[1]):
                out[row, i] = uniform[row, look[i]]


@kernel
def clamp_finite(values: Array, low: Float, high: Float, chosen: Chosen, out: Array) -> None:
    """Put values into `out[chosen]`, held within a range.

    What is not a number would spread over the whole picture: it counts as the lowest value that is not negative.
    """
    for i in range(values.shape[0]):
        x = values[i]
        out[chosen[i]] = min(max(x, low), high) if x == x else max(low, np.float32(0))


SHAPING = frozenset(
    {
        "bump",
        "geometry_normal",
        "geometry_coat_normal",
        "specular_roughness_anisotropy",
        "coat_roughness_anisotropy",
    }
)
"""Channels that turn the frame in which a surface is shaded."""


OF_COAT_BASIS = frozenset({"geometry_normal", "geometry_coat_normal", "coat_roughness_anisotropy"})
"""Channels by which a coat's frame may differ from that of its base."""


@dataclass(frozen=True)
class Materials:
    """The plans of a shot's looks, in the order of the document."""

    looks: tuple[Look, ...]
    plans: tuple[Plan, ...]
    bumps: tuple[Plan | None, ...]
    """The plan of a look's bump alone, where it has one."""
    emission_plans: tuple[Plan | None, ...] = ()
    """The plan of what a look's own light depends on, where it shines."""
    exposure: float = 0.0
    """Of the camera, for self-lit colours."""

    @cached_property
    def row_plans(self) -> "RowPlans":
        return split_uniform(self.plans)

    @cached_property
    def emission_rows(self) -> "RowPlans":
        return split_uniform(self.emission_plans)

    def key(self) -> str:
        """Changes whenever any channel of any look does."""
        flat = f"{self.exposure}|" if any("self_lit" in plan.outputs for plan in self.plans) else ""
        return flat + "|".join(f"{name}:{plan.key(name)}" for plan in self.plans for name in plan.outputs)

    def emission_key(self) -> str:
        """Changes whenever the light that looks send out does."""
        keys = [f"{name}:{plan.key(name)}" for plan in self.emission_plans if plan for name in plan.outputs]
        return f"{self.exposure}|" + "|".join(keys)

    def emits(self, look: int) -> bool:
        """Whether a look may send out light."""
        return self.emission_plans[look] is not None

    def emitted_radiance(self, scene: Scene, hits: Hits, surface: Surface, more: Mapping[str, Array]) -> Array:
        """The light `(3, n)` that surfaces send out at some hits, what is cut out taken off."""
        rows = self._fill(self.emission_rows, scene, hits, surface, more)
        resolve_emission(rows, self.exposure)
        wet(rows)
        luminance = rows[EMISSION_LUMINANCE] * rows[OPACITY]
        result: Array = luminance * rows[EMISSION_COLOR : EMISSION_COLOR + 3]
        if rows[COAT_WEIGHT].any():
            attenuate_emission(rows, (more["view"] * surface.normal).sum(axis=0), result)
        return result

    def rows(
        self,
        scene: Scene,
        hits: Hits,
        surface: Surface,
        more: Mapping[str, Array],
        apply_bump: np.typing.NDArray[np.bool_] | bool = True,
    ) -> Array:
        """The material array `(MATERIAL, n)` at some hits; `more` holds `view (3, n)` and `footprint (1, n)`.

        Bumps and normal maps tilt the normals of `surface` in place, where `apply_bump (n,)` says so.
        """
        out = self._fill(self.row_plans, scene, hits, surface, more, apply_bump)
        resolve_emission(out, self.exposure)
        wet(out)
        return out

    def _fill(
        self,
        sets: "RowPlans",
        scene: Scene,
        hits: Hits,
        surface: Surface,
        more: Mapping[str, Array],
        apply_bump: np.typing.NDArray[np.bool_] | bool = False,
    ) -> Array:
        """What plans by look give at some hits, over what is the same everywhere."""
        count = len(hits.instance)
        out = np.empty((MATERIAL, count), np.float32)
        fill_uniform(sets.uniform, surface.look, out)
        for index in np.unique(surface.look):
            plan = sets.varying[index]
            shaped = apply_bump is not False and not SHAPING.isdisjoint(self.plans[index].outputs)
            if plan is None and not shaped:
                continue
            chosen = np.flatnonzero(surface.look == index)
            whole = len(chosen) == count
            part, points = (hits, surface) if whole else (hits.take(chosen), take_surface(surface, chosen))
            mine = more if whole else {name: take_columns(values, chosen) for name, values in more.items()}
            if plan is not None:
                data = point_data(scene, part, points, plan.required_data, mine)
                # One value stands for all that were faded: the samples of a pixel draw others.
                for name, value in evaluate(plan, plan.points(len(chosen), data, scene.pictures), variants=1).items():
                    write_channel(name, value, chosen, out)
            if not shaped:
                continue
            if not isinstance(apply_bump, bool):
                fine = np.flatnonzero(apply_bump[chosen])
                if len(fine) == 0:
                    continue
                if len(fine) < len(chosen):
                    chosen, whole = chosen[fine], False
                    part, points = part.take(fine), take_surface(points, fine)
                    mine = {name: take_columns(values, fine) for name, values in mine.items()}
            self._apply_bump(int(index), scene, part, points, mine, out, chosen)
            if not whole:
                surface.normal[:, chosen] = points.normal
        return out

    def _apply_bump(
        self,
        index: int,
        scene: Scene,
        hits: Hits,
        surface: Surface,
        more: Mapping[str, Array],
        rows: Array,
        chosen: Chosen,
    ) -> None:
        outputs, bump = self.plans[index].outputs, self.bumps[index]
        slope = None
        if bump is not None:
            slope = bump_slope(scene, hits, surface.offset, bump, more, rows[MATERIAL_ROWS["bump"], chosen])

        def given(name: str) -> Array:
            first = MATERIAL_ROWS[name]
            return np.ascontiguousarray(rows[first : first + 3, chosen])

        # A map that turns the base leaves a coat lie on the geometry; a bump is geometry left out, which both follow.
        coat = take_surface(surface, np.arange(len(chosen))) if outputs.keys() & OF_COAT_BASIS else None
        if "geometry_normal" in outputs:
            turn_to_map(scene, hits, surface, given("geometry_normal"))
        if slope is not None:
            tilt(surface, slope)
        if "specular_roughness_anisotropy" in outputs:
            rows[TANGENT : TANGENT + 3, chosen] = mapped_direction(scene, hits, surface, given("geometry_tangent"))
        if coat is None:
            return
        if "geometry_coat_normal" in outputs:
            turn_to_map(scene, hits, coat, given("geometry_coat_normal"))
        elif slope is not None:
            tilt(coat, slope)
        rows[COAT_NORMAL : COAT_NORMAL + 3, chosen] = coat.normal
        if "coat_roughness_anisotropy" in outputs:
            tangent = mapped_direction(scene, hits, coat, given("geometry_coat_tangent"))
            rows[COAT_TANGENT : COAT_TANGENT + 3, chosen] = tangent


def make_materials(shot: Shot, frame: float | None = None) -> Materials:
    """Plans for all looks at a frame (the first unless given); raises `DocumentError` where one can't be planned."""
    plans = tuple(plan_look(shot, look, frame=frame) for look in shot.looks)
    bumps = tuple(
        plan_look(shot, look, ["bump"], frame) if "bump" in plan.outputs else None
        for look, plan in zip(shot.looks, plans, strict=True)
    )
    emission_plans = tuple(_emission_plan(shot, look, frame) for look in shot.looks)
    return Materials(tuple(shot.looks), plans, bumps, emission_plans, shot.camera.exposure)


EMITTING = frozenset({"emission_luminance", "self_lit"})
"""Channels without which nothing shines."""

EMISSION_CHANNELS = (
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
)


def _emission_plan(shot: Shot, look: Look, frame: float | None) -> Plan | None:
    touched = {name for layer in look.layers if layer.on for name in layer.channels}
    return plan_look(shot, look, touched & set(EMISSION_CHANNELS), frame) if touched & EMITTING else None
