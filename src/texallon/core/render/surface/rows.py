"""From plans to the rows of the material array: what is the same all over a look once, the rest at each point."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from texallon.core.columns import Chosen, take_columns
from texallon.core.derived import Cost, derived
from texallon.core.document.channels import CHANNEL_BY_NAME, CHANNELS
from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, Float, Integers, kernel
from texallon.core.render.scene.hit_points import ReliefOfLooks, point_data
from texallon.core.render.scene.scene import Scene
from texallon.core.render.scene.surface import Surface, take_surface
from texallon.core.shade.rows import MATERIAL, MATERIAL_ROWS
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import evaluate


def _defaults() -> Array:
    rows = np.zeros(MATERIAL, np.float32)
    for channel in (each for each in CHANNELS if each.shaded):
        rows[MATERIAL_ROWS[channel.name] : MATERIAL_ROWS[channel.name] + channel.width] = channel.default
    return rows


DEFAULTS = _defaults()


@dataclass(frozen=True)
class LookRows:
    """A look's rows: the column `(MATERIAL,)` of what is the same everywhere, and the plan of the rest, where anything is left."""

    uniform: Array
    varying: Plan | None


@dataclass(frozen=True)
class RowPlans:
    """By look: `uniform (MATERIAL, looks)`, and plans of the rest."""

    uniform: Array
    varying: tuple[Plan | None, ...]


@derived("uniform rows", cost=Cost.INSTANT)
def split_uniform(plan: Plan | None) -> LookRows:
    """Evaluate what is the same everywhere, once.

    Parameters
    ----------
    plan : Plan, optional
        Outputs by channel; all rows keep their defaults where there is none.
    """
    column = DEFAULTS[:, None].copy()
    if plan is None:
        return LookRows(column[:, 0], None)
    same = plan.uniform()
    if same:
        part = plan.subplan(same)
        for name, value in evaluate(part, part.points(1, {})).items():
            write_channel(name, value, np.array([0]), column)
    rest = [name for name in plan.outputs if name not in same]
    return LookRows(np.ascontiguousarray(column[:, 0]), plan.subplan(rest) if rest or not same else None)


def join_rows(looks: Sequence[LookRows]) -> RowPlans:
    """The rows of all looks, side by side.

    Parameters
    ----------
    looks : sequence of LookRows
        In the order of the document.
    """
    uniform = np.stack([each.uniform for each in looks] or [DEFAULTS], axis=1)
    return RowPlans(np.ascontiguousarray(uniform), tuple(each.varying for each in looks))


def write_channel(name: str, value: Array, chosen: Chosen, rows: Array) -> None:
    """Put a channel's value into some columns of a material array, held within the channel's range.

    Parameters
    ----------
    name : str
        The channel's name.
    value : Array
        `(1 or width, m)`.
    chosen : Chosen
        `(m,)` columns.
    rows : Array
        `(MATERIAL, n)`, changed in place.
    """
    channel, row = CHANNEL_BY_NAME[name], MATERIAL_ROWS[name]
    low, high = np.float32(channel.low), np.float32(channel.high)
    for each in range(channel.width):
        clamp_finite(value[each if value.shape[0] > 1 else 0], low, high, chosen, rows[row + each])


@kernel
def fill_uniform(uniform: Array, look: Integers, out: Array) -> None:
    """Each point's column is that of its look.

    Parameters
    ----------
    uniform : Array
        `(MATERIAL, looks)`.
    look : Integers
        `(n,)` positions in the shot's looks.
    out : Array
        `(MATERIAL, n)`, filled.
    """
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

    Parameters
    ----------
    values : Array
        `(m,)`.
    low : float
        Lowest value allowed.
    high : float
        Highest value allowed.
    chosen : Integers
        `(m,)` positions.
    out : Array
        Filled.
    """
    for i in range(values.shape[0]):
        x = values[i]
        out[chosen[i]] = min(max(x, low), high) if x == x else max(low, np.float32(0))


@dataclass(frozen=True)
class LookBatch:
    """The hits that wear one look: `chosen` among all, their surface and ray data; `whole` where they are all."""

    look: int
    chosen: Chosen
    hits: Hits
    surface: Surface
    given: Mapping[str, Array]
    whole: bool

    def narrowed(self, fine: Chosen) -> "LookBatch":
        """Some of them.

        Parameters
        ----------
        fine : Integers
            `(m,)` positions among them.
        """
        given = {name: take_columns(values, fine) for name, values in self.given.items()}
        surface = take_surface(self.surface, fine)
        return LookBatch(self.look, self.chosen[fine], self.hits.take(fine), surface, given, False)


def look_batch(look: int, hits: Hits, surface: Surface, given: Mapping[str, Array]) -> LookBatch:
    """The hits that wear a look, by its position in the document.

    Parameters
    ----------
    look : int
        By position in the document.
    hits : Hits
        `n` hits on objects.
    surface : Surface
        Their surface points.
    given : mapping
        `view (3, n)` and `footprint (1, n)`.
    """
    chosen = np.flatnonzero(surface.look == look)
    if len(chosen) == len(surface.look):
        return LookBatch(look, chosen, hits, surface, given, True)
    mine = {name: take_columns(values, chosen) for name, values in given.items()}
    return LookBatch(look, chosen, hits.take(chosen), take_surface(surface, chosen), mine, False)


def write_varying(plan: Plan, scene: Scene, batch: LookBatch, rows: Array, relief: ReliefOfLooks | None = None) -> None:
    """Run a look's plan at its hits, into their columns of `rows (MATERIAL, n)`.

    Parameters
    ----------
    plan : Plan
        With an output `bump`.
    scene : Scene
        What stands where.
    batch : LookBatch
        The look's hits.
    rows : Array
        `(MATERIAL, n)`, changed in place.
    relief : ReliefOfLooks, optional
        What masks may follow.
    """
    data = point_data(scene, batch.hits, batch.surface, plan.required_data, batch.given, relief)
    # One value stands for all that were faded: the samples of a pixel draw others.
    for name, value in evaluate(plan, plan.points(len(batch.chosen), data, scene.data), variants=1).items():
        write_channel(name, value, batch.chosen, rows)
