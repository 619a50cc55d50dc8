"""Every kind of point data by name, found by looking into this folder: adding one touches no list."""

import importlib
import pkgutil
from functools import cache

import texallon.core.points as folder
from texallon.core.points.kind import PointData

ATTRIBUTE = "attribute:"
"""Stored attributes are asked for by this and their name."""


@cache
def point_data_kinds() -> dict[str, PointData]:
    """All kinds by name, in alphabetical order; stored attributes are not among them.

    Examples
    --------
    >>> point_data_kinds()["uv"].width
    2
    """
    for module in pkgutil.iter_modules(folder.__path__):
        importlib.import_module(f"{folder.__name__}.{module.name}")
    found = [kind for kind in _below(PointData) if "name" in vars(kind)]  # type: ignore[type-abstract]
    return {kind.name: kind() for kind in sorted(found, key=lambda kind: kind.name)}


def _below(base: type[PointData]) -> list[type[PointData]]:
    return [each for kind in base.__subclasses__() for each in (kind, *_below(kind))]


def point_data_kind(name: str) -> PointData:
    """A kind by name.

    Parameters
    ----------
    name : str
        Of the kind, or of the attribute.

    Raises
    ------
    KeyError
        Where there is none, or it lacks what must be given with it.

    Examples
    --------
    >>> point_data_kind("curvature:0.05").given
    '0.05'
    """
    base, _, given = name.partition(":")
    kind = point_data_kinds()[base]
    if bool(kind.parameter) != bool(given):
        raise KeyError(name)
    return type(kind)(given) if given else kind


def find_point_data_kind(name: str) -> PointData | None:
    """A kind by name; nothing where there is none, as for stored attributes.

    Parameters
    ----------
    name : str
        Of the kind, or of the attribute.
    """
    try:
        return point_data_kind(name)
    except KeyError:
        return None


def is_attribute(name: str) -> bool:
    """Whether a name of point data means a stored attribute.

    Parameters
    ----------
    name : str
        Of the kind, or of the attribute.
    """
    return name.startswith(ATTRIBUTE)


def attribute_name(name: str) -> str:
    """The attribute that a name of point data means.

    Parameters
    ----------
    name : str
        Of the kind, or of the attribute.

    Examples
    --------
    >>> attribute_name("attribute:heat")
    'heat'
    """
    return name.removeprefix(ATTRIBUTE)


def width_of(name: str) -> int | None:
    """How many rows a kind has; nothing for stored attributes, whose width the geometry says.

    Parameters
    ----------
    name : str
        Of the kind, or of the attribute.
    """
    kind = find_point_data_kind(name)
    return None if kind is None else kind.width
