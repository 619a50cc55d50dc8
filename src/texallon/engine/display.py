"""The display transform as one window wants it."""

from collections.abc import Callable

from texallon.core.kernel import Array
from texallon.core.render.film.display import VIEW, VIEWS, Bytes, view_bytes
from texallon.messages.from_page import DisplaySettings


def is_plain(settings: DisplaySettings) -> bool:
    """Whether a window shows what would be rendered."""
    return (_view(settings), settings.exposure, settings.gamma) == (VIEW, 0.0, 1.0)


def displayed(settings: DisplaySettings, picture: Array, exposure: float, check: Callable[[], None]) -> Bytes:
    """Scene-linear light `(height, width, 3)` as a window shows it, after the camera's `exposure` in stops."""
    return view_bytes(picture, exposure + settings.exposure, check, _view(settings), settings.gamma)


def _view(settings: DisplaySettings) -> str:
    return settings.view if settings.view in VIEWS else VIEW
