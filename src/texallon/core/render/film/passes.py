"""Data passes: what the camera sees first at each pixel, as numbers for compositing.

One sample a pixel, not filtered: an average of two objects' positions or numbers would be neither's. Where nothing is seen, passes
are 0 and the object's number is −1.
"""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from texallon.core.document.names import nearest
from texallon.core.document.problem import DocumentError, Problem
from texallon.core.document.resolved import ResolvedShot
from texallon.core.document.shot import Shot
from texallon.core.kernel import Array
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.signal.planner import Planner

Passes = dict[str, npt.NDArray[np.float32]]


def data_passes(shot: ResolvedShot, seen: GBuffer, signals: Sequence[str] = ()) -> Passes:
    """`position`, `normal` `(h, w, 3)`, `uv` `(h, w, 2)`, `depth`, `object`, `look` `(h, w, 1)`, and shared signals by name.

    Depth is measured along the view, in metres. Objects and looks are numbered as in the document. Raises `DocumentError` for a
    signal that the shot lacks.

    Parameters
    ----------
    shot : ResolvedShot
        At its time.
    seen : GBuffer
        What the camera sees.
    signals : sequence of str, optional
        Names of shared signals.
    """
    check_signals(shot, signals)
    scene, view = seen.scene, seen.view
    size = view.width * view.height
    widths = {"position": 3, "normal": 3, "uv": 2, "depth": 1, "object": 1, "look": 1}
    flat = {name: np.zeros((width, size), np.float32) for name, width in widths.items()}
    flat["object"][:] = flat["look"][:] = -1
    order = {item.name: number for number, item in enumerate(shot.objects)}
    of_each = np.array([order[each.item.name] for each in scene.instances], np.float32)
    numbers = np.repeat(of_each, [len(each) for each in scene.instances])
    eye, forward = view.basis[0], view.basis[3]
    nearest_yet = np.full(size, np.inf, np.float32)
    made: dict[str, Array] = {}
    for index in range(len(shot.looks)):
        if seen.cuts is not None and seen.cuts.fills(index):
            continue  # passes are of surfaces
        group = seen.batch(index)
        if len(group.pixels) == 0:
            continue
        position = group.point("position")
        depth = (position - eye[:, None]).T @ forward
        # A clear look's points come first; an opaque one's are also found behind it.
        closer = depth < nearest_yet[group.pixels]
        pixels = group.pixels[closer]
        nearest_yet[pixels] = depth[closer]
        flat["position"][:, pixels] = position[:, closer]
        flat["normal"][:, pixels] = group.point("normal")[:, closer]
        flat["uv"][:, pixels] = group.point("uv")[:, closer]
        flat["depth"][0, pixels] = depth[closer]
        flat["look"][0, pixels] = index
        flat["object"][0, pixels] = numbers[group.instance[closer]]
        for name in signals:
            planner = Planner(shot)
            values = group.values(planner.plan_of({"value": planner.signal(name, ("signals",))}))["value"]
            into = made.setdefault(name, np.zeros((values.shape[0], size), np.float32))
            into[:, pixels] = values[:, closer]
    flat |= {f"signal.{name}": values for name, values in made.items()}
    return {name: np.ascontiguousarray(rows.T).reshape(view.height, view.width, -1) for name, rows in flat.items()}


def check_signals(shot: Shot, signals: Sequence[str]) -> None:
    """Raise `DocumentError` for a signal that the shot lacks: before anything is rendered.

    Parameters
    ----------
    shot : Shot
        A shot.
    signals : sequence of str
        Names of shared signals.
    """
    known = [signal.name for signal in shot.signals]
    for name in signals:
        if name not in known:
            raise DocumentError([Problem("/signals", f"there is no signal “{name}”", nearest(name, known))])
