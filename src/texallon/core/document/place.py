"""What coordinates are measured in: the world, the object, its rest shape, its UV map, the camera, or a locator."""

from typing import Literal

from texallon.core.document.base import Model, Name


class LocatorRef(Model):
    """A locator that something is measured from."""

    locator: Name


Place = Literal["world", "object", "rest", "uv", "camera"] | LocatorRef
"""`rest` is the object before anything bent it; `uv` is (u, v, 0); `camera` looks along its negative z axis."""


def place_key(place: Place) -> str:
    """`world`, `object`, `rest`, `uv`, `camera` or `locator:NAME`."""
    return f"locator:{place.locator}" if isinstance(place, LocatorRef) else place


def position_in(place: Place) -> str:
    """The point data that a position in a place is made from."""
    return POSITIONS.get(place_key(place), "position")


def footprint_in(place: Place) -> str:
    """The point data that the width of a sample in a place is made from."""
    return FOOTPRINTS.get(place_key(place), "footprint")


POSITIONS = {"object": "object_position", "rest": "rest_position", "uv": "uv"}
FOOTPRINTS = {"object": "object_footprint", "rest": "object_footprint", "uv": "uv_footprint"}
