"""A shot's light sources: the environment and the table of lamps, and how likely each is asked."""

from collections.abc import Iterable
from dataclasses import dataclass
from math import pi, radians

import numpy as np

from texallon.core.derived import Cost, derived
from texallon.core.document.light import AREAS, Environment, Light
from texallon.core.document.light_group import group_number
from texallon.core.kernel import Array, Integers
from texallon.core.render.light.environment import EnvironmentTable
from texallon.core.render.light.lamps import LAMP, lamp_row
from texallon.core.signal.placement import placement

PEAK = 64.0
"""Times its mean radiance, the environment is a small bright light: all that is brighter fills less than a fifth of a steradian."""


@dataclass(frozen=True)
class Lights:
    """All that next-event estimation needs, as arrays.

    `picture (h, w, 3)` radiance; `rows (h + 1,)` and `columns (h, w + 1)` cumulative chances; `density (h, w)`
    chance per unit square; `lamps (l, LAMP)`; `chance (l + 1,)` of choosing the environment, then each lamp; `areas (a,)` which
    of the lamps a ray can meet, in the order of their instances; `group (l + 1,)` of the environment and each lamp, by position
    in `names`, whose first is that of lights without a group; `power` that they send into the scene, about, in watts; `peak` the radiance
    above which the environment counts as a lamp behind boundaries that bend light.
    """

    picture: Array
    rows: Array
    columns: Array
    density: Array
    rotation: float
    tilt: Array
    lamps: Array
    areas: Integers
    chance: Array
    background: bool
    group: Integers
    names: tuple[str, ...]
    power: float
    peak: float


@derived("lights", cost=Cost.INSTANT)
def make_lights(
    table: EnvironmentTable,
    environment: Environment,
    lights: tuple[Light, ...],
    groups: tuple[str, ...],
    backdrop: bool,
    radius: float,
) -> Lights:
    """A shot's lights.

    Parameters
    ----------
    table : EnvironmentTable
        Of `environment`.
    environment : Environment
        Of the document.
    lights : tuple of Light
        Those that are on and send out anything.
    groups : tuple of str
        The names of the light groups.
    backdrop : bool
        Whether something stands before the environment in the camera's view.
    radius : float
        Of the scene in metres: weighs the environment against the lamps.
    """
    lamps = np.array([lamp_row(light) for light in lights], np.float32).reshape(-1, LAMP)
    areas = np.array([number for number, light in enumerate(lights) if light.shape in AREAS], np.int32)
    power = np.array([table.mean * 4 * pi * pi * radius * radius, *[_sent(light, radius) for light in lights]])
    sent = float(power.sum())
    if len(lights) and power[0] > 0:  # an even split wastes little and never starves the weaker of the two
        share = power / power.sum()
        split = np.concatenate([[0.5], 0.5 * power[1:] / power[1:].sum()])
        power = 0.5 * share + 0.5 * split
    total = power.sum()
    chance = (power / total if total > 0 else power).astype(np.float32)
    return Lights(
        table.picture,
        table.rows,
        table.columns,
        table.density,
        radians(environment.rotation),
        placement((0.0, 0.0, 0.0), environment.tilt, 1.0)[:3, :3].astype(np.float32),
        lamps,
        areas,
        chance,
        environment.visible and not backdrop,
        np.array(
            [group_number(groups, name) for name in (environment.group, *(each.group for each in lights))], np.int32
        ),
        ("", *groups),
        sent,
        PEAK * table.mean,
    )


def lit_lights(lights: Iterable[Light]) -> tuple[Light, ...]:
    """The lamps that are on and send out anything.

    Parameters
    ----------
    lights : sequence of Light
        Of the document.
    """
    return tuple(light for light in lights if light.on and light.power > 0)


def _sent(light: Light, radius: float) -> float:
    """About how much light a lamp sends into a scene of some radius, watts."""
    wide = pi * radius * radius if light.shape == "sun" else 1.0
    return max(light.power * max(light.colour) * wide, 1e-9)
