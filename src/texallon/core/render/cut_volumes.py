"""The volumes of a shot cut across the view, so that what fills them can be looked at step by step."""

from functools import cached_property

from texallon.core.derived import Given, content_key
from texallon.core.render.camera.gbuffer import Sight, StepValues
from texallon.core.render.shot_volumes import ShotVolumes
from texallon.core.render.volume.slices import Cut, SliceBatch, key_of_cut, slice_points
from texallon.core.render.volume.volume_points import VolumeSpace
from texallon.core.render.volume.volumes import Container


class CutVolumes:
    """Points on a cut, for each look that fills anything.

    Parameters
    ----------
    filled : ShotVolumes
        The volumes.
    share : float
        Where they are cut, 0 (near) … 1 (far).
    """

    def __init__(self, filled: ShotVolumes, share: float) -> None:
        self._filled, self._share = filled, share

    @cached_property
    def content_key(self) -> str:
        """The same for the same volumes cut at the same place."""
        return content_key(("cut", key_of_cut(self._filled.containers), self._share, self._filled.data.content_key))

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
        wanted = slice_points.of(Given(mine, key_of_cut(mine)), cut)
        spaces = tuple(VolumeSpace(each.matrix, filled.data) for each in mine)
        key = content_key((wanted, filled.data.content_key))
        return SliceBatch(filled.store, wanted, spaces, filled.data, StepValues(filled.store, key))
