"""Volumes cut open: points on a plane across the view, for masks, histograms and small pictures."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from texallon.core.derived import Derived, DerivedStore, content_key, derived
from texallon.core.kernel import Array, Integers
from texallon.core.ops.points import OpFiles
from texallon.core.render.camera.view import View, camera_rays
from texallon.core.render.volume.inside import inside
from texallon.core.render.volume.seen_depth import spread_over
from texallon.core.render.volume.volume_points import VolumeSpace
from texallon.core.render.volume.volumes import Container
from texallon.core.signal.plan import Plan
from texallon.core.signal.run import NodeValues, evaluate


class SlicePoints(NamedTuple):
    """n points on a cut: `own (3, n)` in the space of the volume that each lies in, `volume (n,)` which of those given, `footprint (1, n)` metres,
    `pixels (n,)`, and `view (3, n)` towards the eye."""

    own: Array
    volume: Integers
    footprint: Array
    pixels: Integers
    view: Array


@dataclass(frozen=True)
class Cut:
    """Where volumes are cut: `share` of the way from where the camera first meets them to where it leaves them last, or as deep as it sees into them (None); `detail`
    scales the footprints."""

    view: View
    share: float | None
    seed: int
    sample: int = 0
    detail: float = 1.0


@derived("points of a cut")
def slice_points(containers: tuple[Container, ...], cut: Cut, seen: Array | None) -> SlicePoints:
    """Points on a cut across the view that lie in volumes; where several overlap, in the first.

    Parameters
    ----------
    containers : tuple of Container
        Those that are cut.
    cut : Cut
        Where.
    seen : Array or None
        How deep the camera sees, as from `seen_depth`, where they are cut there.
    """
    view = cut.view
    eye, forward = view.basis[0].astype(np.float64), view.basis[3].astype(np.float64)
    depth = cut_depth(containers, eye, forward, 0.5 if cut.share is None else cut.share)
    pixels = np.arange(view.width * view.height, dtype=np.int32)
    origin, direction = camera_rays(view, pixels, cut.sample, cut.seed)
    deep = depth if seen is None else spread_over(seen, view, depth)
    t = (deep / (direction.astype(np.float64) * forward[:, None]).sum(axis=0)).astype(np.float32)
    place = origin + direction * t
    own, volume = np.zeros_like(place), np.full(len(pixels), -1, np.int32)
    for number, each in enumerate(containers):
        full = np.vstack([each.matrix, [0, 0, 0, 1]]).astype(np.float64)
        inverse = np.linalg.inv(full)[:3]
        here = (inverse[:, :3] @ place + inverse[:, 3:]).astype(np.float32)
        mine = (volume < 0) & inside(each, np.ascontiguousarray(here))
        own[:, mine], volume[mine] = here[:, mine], number
    met = np.flatnonzero(volume >= 0)
    footprint = (t[met] * np.float32(view.pixel_angle * cut.detail))[None]
    return SlicePoints(
        np.ascontiguousarray(own[:, met]), volume[met], footprint, pixels[met], np.ascontiguousarray(-direction[:, met])
    )


def cut_depth(
    containers: Sequence[Container], eye: npt.NDArray[np.float64], forward: npt.NDArray[np.float64], share: float
) -> float:
    """Metres along the view to the cut; a little before the eye at least.

    Parameters
    ----------
    containers : sequence of Container
        Those that are cut.
    eye, forward : NDArray
        `(3,)` of the view.
    share : float
        Of the way from where the camera first meets them to where it leaves them last.
    """
    ends: list[float] = []
    for each in containers:
        corners = np.stack(np.meshgrid(*zip(each.low, each.high, strict=True), indexing="ij")).reshape(3, -1)
        world = each.matrix[:, :3].astype(np.float64) @ corners + each.matrix[:, 3:]
        ends += [float(value) for value in forward @ (world - eye[:, None])]
    far = max(max(ends, default=1.0), 1e-3)
    near = min(max(min(ends, default=0.0), 0.02 * far), far)
    return near + (far - near) * share


class SliceBatch:
    """Points of a cut through the volumes that a look fills; the values of steps at them are kept by content.

    Attributes
    ----------
    content_key : str
        The same for the same points.
    pixels, instance : Integers
        `(n,)`.
    """

    def __init__(
        self,
        store: DerivedStore,
        wanted: Derived[SlicePoints],
        spaces: tuple[VolumeSpace, ...],
        files: OpFiles,
        kept: NodeValues,
    ) -> None:
        self.content_key = wanted.content_key
        self.points = store.value(wanted)
        self.pixels, self.instance = self.points.pixels, self.points.volume
        self._spaces, self._files, self._kept = spaces, files, kept

    def data(self, required_data: frozenset[str]) -> dict[str, Array]:
        """Point data, `(width, n)` by name.

        Parameters
        ----------
        required_data : frozenset of str
            Names of kinds, or of stored attributes.
        """
        n = len(self.pixels)
        found: dict[str, Array] = {}
        for number, space in enumerate(self._spaces):
            mine = np.flatnonzero(self.points.volume == number)
            if not len(mine):
                continue
            own = np.ascontiguousarray(self.points.own[:, mine])
            some = space.point_data(required_data, own, np.ascontiguousarray(self.points.footprint[:, mine]))
            for name, values in some.items():
                found.setdefault(name, np.zeros((values.shape[0], n), np.float32))[:, mine] = values
        if not n and self._spaces:
            found = self._spaces[0].point_data(required_data, self.points.own, self.points.footprint)
        return found

    def point(self, name: str) -> Array:
        """One kind of point data `(width, n)`.

        Parameters
        ----------
        name : str
            Of the kind of point data.
        """
        return self.data(frozenset({name}))[name]

    def values(self, plan: Plan, pool: object = None) -> dict[str, Array]:
        """The plan's outputs at these points, each `(width, n)`.

        Parameters
        ----------
        plan : Plan
            What is wanted, and the steps that lead to it.
        pool : object, optional
            Not used: a cut has few points.
        """
        points = plan.points(len(self.pixels), self.data(plan.required_data), self._files)
        return evaluate(plan, points, cache=self._kept)


def key_of_cut(containers: tuple[Container, ...]) -> str:
    """The same for containers that stand the same.

    Parameters
    ----------
    containers : tuple of Container
        That are cut.
    """
    return content_key(tuple((each.kind, each.low, each.high, each.matrix, each.name) for each in containers))
