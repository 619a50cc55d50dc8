"""How a window looks at the picture: a view, and an exposure and gamma that are for looking only."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from texallon.core.kernel import Array
from texallon.core.render.film.display import VIEW, VIEWS, Bytes, view_bytes
from texallon.core.render.film.film import Region


@dataclass(frozen=True)
class DisplaySettings:
    """Nothing of it is in the document: a picture that is kept or rendered does not change."""

    view: str = VIEW
    exposure: float = 0.0
    gamma: float = 1.0
    region: Region | None = None
    """The part of the picture that is worked on."""
    paused: bool = False
    """Whether refining rests."""

    @property
    def as_rendered(self) -> bool:
        """Whether this window shows what would be rendered."""
        return (self.view, self.exposure, self.gamma) == (VIEW, 0.0, 1.0)

    @staticmethod
    def parse(data: Any) -> "DisplaySettings":
        """From a page's JSON; anything unclear becomes the plain view."""
        if not isinstance(data, dict):
            return DisplaySettings()
        view = data.get("view")
        return DisplaySettings(
            view if view in VIEWS else VIEW,
            _within(data.get("exposure"), 0.0, -20, 20),
            _within(data.get("gamma"), 1.0, 0.1, 10),
            _region(data.get("region")),
            data.get("paused") is True,
        )

    def bytes(self, picture: Array, exposure: float, check: Callable[[], None]) -> Bytes:
        """Scene-linear light `(height, width, 3)` as this window shows it, after the camera's `exposure`."""
        return view_bytes(picture, exposure + self.exposure, check, self.view, self.gamma)


def _within(value: Any, plain: float, low: float, high: float) -> float:
    number = value if isinstance(value, (int, float)) and value == value else plain
    return float(min(max(number, low), high))


def _region(value: Any) -> Region | None:
    """Left, top, right and bottom, 0…1; anything else is the whole picture."""
    if not isinstance(value, (list, tuple)) or len(value) != 4:
        return None
    if not all(isinstance(each, (int, float)) for each in value):
        return None
    left, top, right, bottom = (_within(each, 0.0, 0, 1) for each in value)
    return (left, top, right, bottom) if left < right and top < bottom else None
