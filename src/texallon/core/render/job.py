"""What to render: everything that a batch of pixels needs to know."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from texallon.core.document.limits import Limits
from texallon.core.kernel import Array
from texallon.core.ops.lattice import mixed
from texallon.core.render.around import bodies_around
from texallon.core.render.ask import Sources
from texallon.core.render.camera import View
from texallon.core.render.lights import Lights
from texallon.core.render.materials import Materials
from texallon.core.render.scene import Scene


def frame_seed(seed: int, frame: float) -> int:
    """The seed of a frame's random numbers: another for each frame, so that noise doesn't stand still in animation, and always the same."""
    return int(mixed(np.uint32(mixed(np.uint32(seed)) ^ np.uint32(round(frame * 64) & 0xFFFFFFFF)))) & 0x7FFFFFFF


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
    """Of this frame's random numbers, see `frame_seed`."""
    wanted: Callable[[], bool] = lambda: True
    """Asked between stages; when it says no, `Interrupted` is raised."""
    apart: bool = False
    final: bool = True
    backdrop: Array | None = None
    view_seed: int | None = None
    """Of the camera's rays, where they are to stay the same from frame to frame so that what they hit can be kept."""

    @cached_property
    def around_eye(self) -> Array:
        """The bodies that the eye stands in, as `Paths.media` of one path."""
        return bodies_around(self.scene, self.materials, self.view.frame[0])

    def check(self) -> None:
        if not self.wanted():
            raise Interrupted
