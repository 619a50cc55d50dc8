"""The volumes of a shot cut across the view, so that what fills them can be looked at step by step."""

from functools import cached_property

import numpy as np

from texallon.core.derived import Derived, Given, content_key
from texallon.core.kernel import Array
from texallon.core.render.camera.gbuffer import Sight, StepValues
from texallon.core.render.camera.view import View
from texallon.core.render.shot_volumes import ShotVolumes
from texallon.core.render.volume.seen_depth import seen_depth
from texallon.core.render.volume.slices import Cut, SliceBatch, cut_depth, key_of_cut, slice_points
from texallon.core.render.volume.volume_points import VolumeSpace
from texallon.core.render.volume.volumes import Container


class CutVolumes:
    """Points on a cut, for each look that fills anything.

    Parameters
    ----------
    filled : ShotVolumes
        The volumes.
    share : float or None
        Where they are cut, 0 (near) … 1 (far); None: as deep as the camera sees.
    """

    def __init__(self, filled: ShotVolumes, share: float | None) -> None:
        self._filled, self._share = filled, share

    @cached_property
    def content_key(self) -> str:
        """The same for the same volumes cut at the same place."""
        filled = self._filled
        fills = None if self._share is not None else tuple(filled.source_value(each) for each in filled.containers)
        return content_key(("cut", key_of_cut(filled.containers), self._share, filled.data.content_key, fills))

    @property
    def containers(self) -> tuple[Container, ...]:
        """What is filled."""
        return self._filled.containers

    def fills(self, look: int) -> bool:
        """Whether a look is of the volume domain.

        Parameters
        ----------
        look : int
            Position in the document.
        """
        return self._filled.shot.looks[look].domain == "volume"

    def batch(self, look: int, sight: Sight) -> SliceBatch:
        """The points that lie in what a look fills.

        Parameters
        ----------
        look : int
            Position in the document.
        sight : Sight
            How points are looked for.
        """
        filled = self._filled
        mine = tuple(each for each in filled.containers if each.look == look)
        cut = Cut(sight.view, self._share, sight.seed, sight.sample, sight.detail)
        seen = depth_seen(filled, sight.view) if self._share is None else None
        wanted = slice_points.of(Given(mine, key_of_cut(mine)), cut, seen)
        spaces = tuple(VolumeSpace(each.matrix, filled.data) for each in mine)
        key = content_key((wanted, filled.data.content_key))
        return SliceBatch(filled.store, wanted, spaces, filled.data, StepValues(filled.store, key))


def depth_seen(filled: ShotVolumes, view: View) -> Derived[Array]:
    """How deep the camera sees into all volumes together.

    Parameters
    ----------
    filled : ShotVolumes
        The volumes.
    view : View
        The camera's.
    """
    containers = filled.containers
    eye, forward = view.basis[0].astype(np.float64), view.basis[3].astype(np.float64)
    near, far = (cut_depth(containers, eye, forward, share) for share in (0.0, 1.0))
    sources = tuple(filled.source_value(each) for each in containers)
    return seen_depth.of(Given(containers, key_of_cut(containers)), sources, view, near, far)
