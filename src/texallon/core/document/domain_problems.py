"""What is wrong with the domains of looks: a surface's look where a volume is meant, or channels of the other kind."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from texallon.core.document.channels import CHANNEL_BY_NAME, VOLUME_CHANNELS, LookDomain
from texallon.core.document.look import Look
from texallon.core.document.names import nearest
from texallon.core.document.problem import Problem, pointer

if TYPE_CHECKING:
    from texallon.core.document.shot import Shot

OF_SURFACES = {"base_color": "scattering_color", "emission_luminance": "volume_emission"}
"""Channels of surfaces and those of volumes that do the like, where their names don't say so."""


def domain_problems(shot: "Shot") -> Iterator[Problem]:
    """Every look that stands where one of the other domain belongs, and every channel in a look of the other domain.

    Parameters
    ----------
    shot : Shot
        Whose names are known.
    """
    domains = {look.name: look.domain for look in shot.looks}

    def meant(name: str | None, domain: LookDomain, *path: str | int) -> Iterator[Problem]:
        if name in domains and domains[name] != domain:
            reason = f"“{name}” is the look of a {domains[name]}, and a {domain} belongs here"
            yield Problem(pointer(*path), reason, nearest_of(domain))

    def nearest_of(domain: LookDomain) -> str:
        names = [name for name, own in domains.items() if own == domain]
        return f"such as “{names[0]}”" if names else f"make a look of the {domain} domain"

    for number, look in enumerate(shot.looks):
        yield from _channel_problems(look, number)
        if look.points is not None and look.domain != "volume":
            yield Problem(pointer("looks", number, "points"), "bright points lie in volumes", "take them away")
        for at, layer in enumerate(look.layers):
            if layer.look is not None:
                yield from meant(layer.look.look, look.domain, "looks", number, "layers", at, "look", "look")
    for number, item in enumerate(shot.objects):
        if item.filled_with is not None:
            yield from meant(item.filled_with, "volume", "objects", number, "filled_with")
            if domains.get(item.look) == "volume":
                reason = f"“{item.name}” is filled by its look “{item.look}” already"
                yield Problem(
                    pointer("objects", number, "filled_with"), reason, "give it a look of a surface, or leave this out"
                )
        for at, part in enumerate(item.parts):
            yield from meant(part.look, "surface", "objects", number, "parts", at, "look")
    if shot.atmosphere is not None:
        yield from meant(shot.atmosphere.look, "volume", "atmosphere", "look")
        if shot.atmosphere.ceiling <= shot.atmosphere.floor:
            reason = (
                f"the ceiling lies at {shot.atmosphere.ceiling:g} m, not above the floor at {shot.atmosphere.floor:g} m"
            )
            yield Problem(pointer("atmosphere", "ceiling"), reason, "a higher ceiling")


def _channel_problems(look: Look, number: int) -> Iterator[Problem]:
    for at, layer in enumerate(look.layers):
        for name in layer.channels:
            channel = CHANNEL_BY_NAME.get(name)
            if channel is None or channel.domain == look.domain:
                continue
            where = pointer("looks", number, "layers", at, "channels", name)
            hint = OF_SURFACES.get(name) or nearest(name, [each.name for each in VOLUME_CHANNELS])
            if look.domain == "surface":
                hint = "give the look the volume domain"
            yield Problem(
                where,
                f"{name} is a channel of {channel.domain}s, and “{look.name}” is the look of a {look.domain}",
                hint,
            )
