"""What a medium is: what a path or a shadow ray must be able to ask of whatever fills a body or a container.

A new kind is one file with a class derived from `Medium`. Constant media are the simplest case (`constant.py`).
"""

from abc import ABC, abstractmethod
from typing import NamedTuple

from texallon.core.kernel import Array


class Segment(NamedTuple):
    """Straight stretches of n rays: `origin` and unit `direction (3, n)`, and how far each goes, `length (n,)` in metres."""

    origin: Array
    direction: Array
    length: Array


class MediumProperties(NamedTuple):
    """At n points, by colour: `extinction` and `scattering (3, n)` per metre, `anisotropy (n,)` of the phase function, −1…1, and `emission
    (3, n)`, radiance per metre."""

    extinction: Array
    scattering: Array
    anisotropy: Array
    emission: Array


class Medium(ABC):
    """What absorbs, scatters or sends out light on its way."""

    @property
    @abstractmethod
    def content_key(self) -> str:
        """The same for media that are the same everywhere."""

    @abstractmethod
    def majorant(self, along: Segment) -> Array:
        """A bound on the extinction.

        Parameters
        ----------
        along : Segment
            Stretches of n rays.

        Returns
        -------
        Array
            `(3, n)` per metre: nowhere along a stretch is there more.
        """

    @abstractmethod
    def properties(self, position: Array) -> MediumProperties:
        """What the medium is like.

        Parameters
        ----------
        position : Array
            `(3, n)` in the world, metres.
        """

    @abstractmethod
    def sample_distance(self, along: Segment, channel: Array, random: Array) -> Array:
        """How far light goes before the medium acts on it, in proportion to what arrives there.

        Parameters
        ----------
        along : Segment
            Stretches of n rays.
        channel : Array
            `(n,)` by whose extinction, 0…2.
        random : Array
            `(n,)` in [0, 1).

        Returns
        -------
        Array
            `(n,)` metres; at least the stretch's length where it passes.
        """

    @abstractmethod
    def transmittance(self, along: Segment) -> Array:
        """What share of light passes.

        Parameters
        ----------
        along : Segment
            Stretches of n rays.

        Returns
        -------
        Array
            `(3, n)`, 0…1.
        """
