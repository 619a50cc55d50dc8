"""Media that are the same everywhere: tinted glass, milk, wax, fog in a box.

The path tracer merges these kernels into its own; `ConstantMedium` is the same as the rest of the program sees it.
"""

from dataclasses import dataclass
from functools import cached_property
from math import exp, log

import numpy as np

from texallon.core.derived import content_key
from texallon.core.document.base import Radiance
from texallon.core.kernel import Array, Float, inlined, kernel
from texallon.core.shade.media.medium import Medium, MediumProperties, Segment


@inlined
def sample_free_flight(
    st0: Float, st1: Float, st2: Float, p0: Float, p1: Float, p2: Float, pick: Float, u: Float
) -> Float:
    """How far light goes before it is scattered or absorbed, drawn for one channel, chosen by the chances `p` (adding up to 1).

    Parameters
    ----------
    st0 : float
        Extinction of red, per metre.
    st1 : float
        Extinction of green, per metre.
    st2 : float
        Extinction of blue, per metre.
    p0 : float
        Chance of following red.
    p1 : float
        Chance of following green.
    p2 : float
        Chance of following blue.
    pick, u : float
        Random number in [0, 1).
    """
    chosen = st0 if pick < p0 else (st1 if pick < p0 + p1 else st2)
    return -log(max(1.0 - u, 1e-9)) / chosen if chosen > 0.0 else 1e30


@inlined
def transmittance(extinction: Float, distance: Float) -> Float:
    """Beer and Lambert's law: the share of light left after a distance.

    Parameters
    ----------
    extinction : float
        Per metre.
    distance : float
        Metres.
    """
    return exp(-extinction * distance) if extinction > 0.0 else 1.0


@kernel
def fill_transmittance(extinction: Array, length: Array, out: Array) -> None:
    """`transmittance` for stretches: `extinction (3,)`, `length (n,)`, `out (3, n)`.

    Parameters
    ----------
    extinction : Array
        Per metre.
    length : Array
        `(n,)` metres.
    out : Array
        Filled.
    """
    for c in range(3):
        for i in range(length.shape[0]):
            out[c, i] = transmittance(extinction[c], length[i])


@kernel
def fill_free_flights(extinction: Array, channel: Array, random: Array, out: Array) -> None:
    """`sample_free_flight` for stretches, all of it by one `channel (n,)`: `extinction (3,)`, `random` and `out (n,)`.

    Parameters
    ----------
    extinction : Array
        Per metre.
    channel : Array
        Colour channel, 0…2.
    random : Array
        `(n,)` in [0, 1).
    out : Array
        Filled.
    """
    for i in range(out.shape[0]):
        pick = (channel[i] + 0.5) / 3.0
        third = 1.0 / 3.0
        out[i] = sample_free_flight(extinction[0], extinction[1], extinction[2], third, third, third, pick, random[i])


@dataclass(frozen=True)
class ConstantMedium(Medium):
    """The same everywhere, by colour.

    Attributes
    ----------
    extinction, scattering : tuple
        Per metre; of what is lost this much is scattered.
    anisotropy : float
        Of the phase function, −1…1.
    emission : tuple
        Radiance per metre.
    """

    extinction: Radiance
    scattering: Radiance = (0.0, 0.0, 0.0)
    anisotropy: float = 0.0
    emission: Radiance = (0.0, 0.0, 0.0)

    @cached_property
    def content_key(self) -> str:
        return content_key(("constant medium", self.extinction, self.scattering, self.anisotropy, self.emission))

    def majorant(self, along: Segment) -> Array:
        """Its extinction, which bounds itself.

        Parameters
        ----------
        along : Segment
            n stretches of rays, in metres.

        Returns
        -------
        Array
            `(3, n)` 1/m.
        """
        return self._everywhere(self.extinction, len(along.length))

    def properties(self, position: Array) -> MediumProperties:
        """The same everywhere.

        Parameters
        ----------
        position : Array
            `(3, n)` metres.
        """
        n = position.shape[1]
        return MediumProperties(
            self._everywhere(self.extinction, n),
            self._everywhere(self.scattering, n),
            np.full(n, self.anisotropy, np.float32),
            self._everywhere(self.emission, n),
        )

    def sample_distance(self, along: Segment, channel: Array, random: Array) -> Array:
        """Free flights by the inverse of the exponential law; infinite where nothing attenuates.

        Parameters
        ----------
        along : Segment
            n stretches of rays, in metres.
        channel : Array
            `(n,)` which colour's extinction is sampled.
        random : Array
            `(n,)` within 0…1.

        Returns
        -------
        Array
            `(n,)` metres; beyond a stretch's length nothing was met.
        """
        out = np.empty(len(along.length), np.float32)
        fill_free_flights(np.array(self.extinction, np.float32), channel, random, out)
        return out

    def transmittance(self, along: Segment) -> Array:
        """Beer and Lambert: `exp(-extinction length)`.

        Parameters
        ----------
        along : Segment
            n stretches of rays, in metres.

        Returns
        -------
        Array
            `(3, n)` 0…1.
        """
        out = np.empty((3, len(along.length)), np.float32)
        fill_transmittance(np.array(self.extinction, np.float32), along.length, out)
        return out

    @staticmethod
    def _everywhere(value: Radiance, n: int) -> Array:
        return np.repeat(np.array(value, np.float32)[:, None], n, axis=1)
