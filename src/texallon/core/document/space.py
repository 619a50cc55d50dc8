"""What coordinates are measured in: the world, the object, its rest shape, its UV map, the camera, a locator, or an object by name."""

from typing import Literal

from texallon.core.document.base import Model, Name


class LocatorRef(Model):
    """A locator that something is measured from."""

    locator: Name


class ObjectRef(Model):
    """An object, by name, that something is measured from: where it stands, however far away the point is."""

    object: Name


SpaceRef = LocatorRef | ObjectRef
Space = Literal["world", "object", "rest", "uv", "camera"] | LocatorRef | ObjectRef
"""`rest` is the object before anything bent it; `uv` is (u, v, 0); `camera` looks along its negative z axis."""


def space_key(place: Space) -> str:
    """`world`, `object`, `rest`, `uv`, `camera`, `locator:NAME` or `object:NAME`.

    Parameters
    ----------
    place : Space
        A space that something is measured in.
    """
    if isinstance(place, LocatorRef):
        return f"locator:{place.locator}"
    return f"object:{place.object}" if isinstance(place, ObjectRef) else place


def reference_name(place: SpaceRef) -> str:
    """The name that a reference carries.

    Parameters
    ----------
    place : SpaceRef
        A space that something is measured in.
    """
    return place.locator if isinstance(place, LocatorRef) else place.object


def position_in(place: Space) -> str:
    """The point data that a position in a place is made from.

    Parameters
    ----------
    place : Space
        A space that something is measured in.
    """
    return POSITIONS.get(space_key(place), "position")


def footprint_in(place: Space) -> str:
    """The point data that the width of a sample in a place is made from.

    Parameters
    ----------
    place : Space
        A space that something is measured in.
    """
    return FOOTPRINTS.get(space_key(place), "footprint")


POSITIONS = {"object": "object_position", "rest": "rest_position", "uv": "uv"}
FOOTPRINTS = {"object": "object_footprint", "rest": "object_footprint", "uv": "uv_footprint"}
