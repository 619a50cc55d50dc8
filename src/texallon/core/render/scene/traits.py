"""What rays must know of a look before they ask it: whether it lets light through, and whether it fills a body."""

from typing import NamedTuple

from texallon.core.document.carried_looks import CarriedLooks, touched_channels
from texallon.core.document.look import Look

LETS_THROUGH = frozenset({"transmission_weight", "geometry_opacity"})
"""Channels that may let light pass straight."""


class LookTraits(NamedTuple):
    """Of a look by name: whether shadow rays must ask it (`clear`), and which kinds of inside any of its layers sets."""

    name: str
    clear: bool
    transmits: bool
    scatters: bool
    subsurface: bool


def look_traits(look: Look, carried: CarriedLooks) -> LookTraits:
    """A look's traits, from the channels that its layers set; no value is looked at.

    Parameters
    ----------
    look : Look
        Layers that are off don't count.
    carried : mapping
        Looks that layers carry, by name.
    """
    channels = touched_channels(look, carried)
    return LookTraits(
        look.name,
        not LETS_THROUGH.isdisjoint(channels),
        "transmission_weight" in channels,
        "transmission_scatter" in channels,
        "subsurface_weight" in channels,
    )


def lets_light_through(look: Look, carried: CarriedLooks) -> bool:
    """Whether any layer may make the look clear or cut it out, so that shadow rays must ask it.

    Parameters
    ----------
    look : Look
        Layers that are off don't count.
    carried : mapping
        Looks that layers carry, by name.
    """
    return look_traits(look, carried).clear
