"""What to render: everything that a batch of pixels needs to know."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np

from texallon.core.derived import Interrupted, content_key
from texallon.core.document.limits import Limits
from texallon.core.kernel import Array, Integers
from texallon.core.ops.lattice import mixed
from texallon.core.render.camera.view import View
from texallon.core.render.light.emitters import Emitters
from texallon.core.render.light.lights import Lights
from texallon.core.render.scene.scene import Scene
from texallon.core.render.surface.materials import Materials
from texallon.core.render.transport.camera_media import media_at_point
from texallon.core.render.volume.points_in_view import PointsInView
from texallon.core.render.volume.volumes import Volumes, VolumeUse


def frame_seed(seed: int, frame: float) -> int:
    """The seed of a frame's random numbers: another for each frame, so that noise doesn't stand still in animation, and always the same.

    Parameters
    ----------
    seed : int
        Of the shot.
    frame : float
        Of the shot.
    """
    return int(mixed(np.uint32(mixed(np.uint32(seed)) ^ np.uint32(round(frame * 64) & 0xFFFFFFFF)))) & 0x7FFFFFFF


class SampleSource(Protocol):
    """What samples are traced in: one moment, or all of a shutter's interval."""

    def split(self, pixels: Integers, sample: int) -> list[tuple["RenderContext", Integers]]:
        """Which pixels are traced in what for a sample.

        Parameters
        ----------
        pixels : Integers
            `(n,)` numbers.
        sample : int
            Number of the sample.
        """

    def volume_use(self) -> VolumeUse | None:
        """What volumes were looked up in so far."""


@dataclass(frozen=True)
class RenderContext:
    """A scene, its looks and lights, and a view of it.

    `write_aovs` keeps the parts of light as pictures of their own; `final` pictures hold no light down. `backdrop (h, w, 3)` stands
    behind everything in the camera's view.
    """

    scene: Scene
    materials: Materials
    lights: Lights
    emitters: Emitters
    view: View
    bounces: int
    limits: Limits
    seed: int
    """Of this frame's random numbers, see `frame_seed`."""
    wanted: Callable[[], bool] = lambda: True
    """Asked between stages; when it says no, `Interrupted` is raised."""
    write_aovs: bool = False
    final: bool = True
    disperses: bool = True
    """Whether glass splits colours: of a coarse picture's one sample nothing but coloured noise would be seen."""
    backdrop: Array | None = None
    view_seed: int | None = None
    """Of the camera's rays, where they are to stay the same from frame to frame so that what they hit can be kept."""

    volumes: Volumes | None = None
    """What fills bodies and the air, if anything does."""

    points_seen: Callable[[], PointsInView | None] = lambda: None
    """Gives `points`, once the picture wants them."""

    given: str = ""
    """Tells the scene, materials, lights, volumes and backdrop from others."""

    @cached_property
    def content_key(self) -> str:
        """The same for contexts of which every sample is the same."""
        flags = (self.write_aovs, self.final, self.disperses)
        picture = (self.view, self.bounces, self.limits, self.seed, self.primary_seed, *flags)
        return content_key((self.given, picture))

    @property
    def primary_seed(self) -> int:
        """Of the jitter of camera rays."""
        return self.seed if self.view_seed is None else self.view_seed

    @cached_property
    def points(self) -> PointsInView | None:
        """Bright points of volumes, by pixel of the view."""
        return self.points_seen()

    @cached_property
    def camera_media(self) -> Array:
        """The bodies that the eye stands in, as `Paths.media` of one path."""
        return media_at_point(self.scene, self.materials, self.view.basis[0])

    def split(self, pixels: Integers, sample: int) -> list[tuple["RenderContext", Integers]]:
        """All pixels by this context, at every sample: what does not move has no other.

        Parameters
        ----------
        pixels : Integers
            `(n,)` numbers.
        sample : int
            Number of the sample.
        """
        return [(self, np.arange(len(pixels), dtype=np.int32))]

    def volume_use(self) -> VolumeUse | None:
        """What its volumes were looked up in so far."""
        return None if self.volumes is None else self.volumes.use()

    def check(self) -> None:
        """Raise `Interrupted` when the picture is no longer wanted."""
        if not self.wanted():
            raise Interrupted
