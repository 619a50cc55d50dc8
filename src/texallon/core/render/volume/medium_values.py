"""From the channels of a volume's look to what light meets: scattering, absorption and radiance per metre."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from texallon.core.document.channels import CHANNEL_BY_NAME, VOLUME_CHANNELS
from texallon.core.kernel import Array, Integers
from texallon.core.render.volume.brick_field import Layout
from texallon.core.render.volume.quantities import (
    ABSORPTION,
    DENSITY,
    EMISSION,
    FORWARD,
    QUANTITIES,
    SCATTERING,
    SECOND_FORWARD,
    SECOND_SHARE,
)
from texallon.core.shade.black_body import black_body_radiance
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import evaluate

OF_POINTS = frozenset({"point_emission", "point_color", "point_radius"})
"""Channels of bright points, looked up at the points."""

OF_MEDIUM = frozenset(each.name for each in VOLUME_CHANNELS if each.name not in OF_POINTS)
"""Channels that say what the medium is like."""

GLOWING = frozenset({"volume_emission", "volume_emission_exposure", "volume_emission_color"})
SINGLE = {
    "scattering_anisotropy": FORWARD,
    "second_anisotropy": SECOND_FORWARD,
    "second_share": SECOND_SHARE,
}


@dataclass(frozen=True)
class MediumPlan:
    """A look's plan, split: channels that are the same everywhere, and the plan of those that are not, if there are any."""

    uniform: Mapping[str, tuple[float, ...]]
    varying: Plan | None

    @property
    def names(self) -> frozenset[str]:
        """Of the channels that vary."""
        return frozenset() if self.varying is None else frozenset(self.varying.outputs)


def split_medium(plan: Plan | None) -> MediumPlan:
    """Evaluate what is the same everywhere, once.

    Parameters
    ----------
    plan : Plan, optional
        Outputs by channel; where there is none, all channels keep their defaults.
    """
    uniform = {each.name: each.default for each in VOLUME_CHANNELS}
    if plan is None:
        return MediumPlan(uniform, None)
    same = plan.uniform()
    if same:
        part = plan.subplan(same)
        for name, value in evaluate(part, part.points(1, {})).items():
            uniform[name] = tuple(float(each) for each in held(name, value)[:, 0])
    rest = [name for name in plan.outputs if name not in same]
    return MediumPlan(uniform, plan.subplan(rest) if rest else None)


def held(name: str, value: Array) -> Array:
    """A channel's values, as wide as the channel and held within its range; what is no number counts as the least that is not negative.

    Parameters
    ----------
    name : str
        Of the channel.
    value : Array
        `(1 or width, n)`.

    Returns
    -------
    Array
        `(width, n)`.
    """
    channel = CHANNEL_BY_NAME[name]
    own = value if value.shape[0] == channel.width else value[:1]
    lost = np.isnan(own)
    if lost.any():
        own = np.where(lost, np.float32(max(channel.low, 0.0)), own)
    within: Array = np.clip(own, np.float32(channel.low), np.float32(channel.high))
    return within if within.shape[0] == channel.width else np.repeat(within, channel.width, axis=0)


def own_light(channels: Mapping[str, Array]) -> Array:
    """Radiance per metre that a medium sends out whatever its heat, `(3, n)` or `(3, 1)`.

    Parameters
    ----------
    channels : mapping
        Of the medium by name.

    Returns
    -------
    Array
        `(3, n)`, or `(3, 1)` where all of them are the same everywhere.
    """
    gain = channels["volume_emission"] * np.exp2(channels["volume_emission_exposure"])
    made: Array = np.asarray(gain * channels["volume_emission_color"], np.float32)
    return made


ALL_ROWS: Integers = np.arange(QUANTITIES, dtype=np.int32)


def quantities(channels: Mapping[str, Array], count: int, rows: Integers = ALL_ROWS) -> Array:
    """What light meets at some points.

    Parameters
    ----------
    channels : mapping
        Every channel of a medium by name, `(width, n)` or `(width, 1)`, within its range.
    count : int
        n.
    rows : Integers, optional
        Which quantities are wanted, r: all unless given.

    Returns
    -------
    Array
        `(r, n)`.
    """
    density, absorption = channels["density"], channels["absorption_color"]
    found = {DENSITY: density[0]}
    of_colours = {SCATTERING: channels["scattering_color"], ABSORPTION: absorption}
    if ((rows >= EMISSION) & (rows < EMISSION + 3)).any():
        of_colours[EMISSION] = _light(channels, count)
    for first, values in of_colours.items():
        found |= {first + c: values[c] for c in range(3)}
    found |= {row: channels[name][0] for name, row in SINGLE.items()}
    out = np.empty((len(rows), count), np.float32)
    for at, row in enumerate(rows):
        out[at] = found[int(row)]
    return out


def _light(channels: Mapping[str, Array], count: int) -> Array:
    """Radiance per metre that a medium sends out, `(3, n)` or `(3, 1)`."""
    own = own_light(channels)
    temperature = channels["temperature"][0]
    if not (temperature > 0).any():
        return own
    # Kirchhoff's law: what absorbs sends out as much of a black body's light.
    glow = black_body_radiance(np.broadcast_to(temperature, (count,)))
    scale = np.exp2(channels["volume_emission_exposure"][0])
    made: Array = own + channels["density"] * scale * channels["absorption_color"] * glow
    return made


def layout_of(medium: MediumPlan) -> Layout:
    """Which quantities vary from point to point.

    Parameters
    ----------
    medium : MediumPlan
        Of a look.
    """
    names = medium.names
    alike = {name: np.array(value, np.float32)[:, None] for name, value in medium.uniform.items()}
    everywhere = quantities(alike, 1)[:, 0]
    varies = np.zeros(QUANTITIES, np.bool_)
    varies[DENSITY] = "density" in names
    varies[SCATTERING : SCATTERING + 3] = "scattering_color" in names
    varies[ABSORPTION : ABSORPTION + 3] = "absorption_color" in names
    hot = "temperature" in names or medium.uniform["temperature"][0] > 0
    glows = bool(GLOWING & names) and ("volume_emission" in names or medium.uniform["volume_emission"][0] > 0)
    of_heat = hot and bool({"temperature", "density", "absorption_color", "volume_emission_exposure"} & names)
    varies[EMISSION : EMISSION + 3] = glows or of_heat
    for name, row in SINGLE.items():
        varies[row] = name in names
    row_of = np.where(varies, np.cumsum(varies) - 1, -1).astype(np.int32)
    return Layout(row_of, everywhere.astype(np.float32))
