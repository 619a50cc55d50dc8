"""What to render: everything that a batch of pixels needs to know."""

from collections.abc import Callable
from dataclasses import dataclass

from texallon.core.document.limits import Limits
from texallon.core.kernel import Array
from texallon.core.render.ask import Sources
from texallon.core.render.camera import View
from texallon.core.render.lights import Lights
from texallon.core.render.materials import Materials
from texallon.core.render.scene import Scene


class Interrupted(Exception):  # noqa: N818 - not an error
    """The picture is no longer wanted."""


@dataclass(frozen=True)
class Job:
    """A scene, its looks and lights, and a view of it.

    `apart` keeps the parts of light as pictures of their own; `final` pictures hold no light down. `backdrop (h, w, 3)` stands
    behind everything in the camera's view.
    """

    scene: Scene
    materials: Materials
    lights: Lights
    sources: Sources
    view: View
    bounces: int
    limits: Limits
    seed: int
    wanted: Callable[[], bool] = lambda: True
    """Asked between stages; when it says no, `Interrupted` is raised."""
    apart: bool = False
    final: bool = True
    backdrop: Array | None = None

    def check(self) -> None:
        if not self.wanted():
            raise Interrupted
