"""Looking a whole shot over, without a window: what all rules notice at a frame."""

from texallon.core.advice.facts import gather
from texallon.core.advice.registry import advise
from texallon.core.advice.rule import Advice
from texallon.core.derived import derived
from texallon.core.document.resolved import ResolvedShot, resolve
from texallon.core.document.shot import Shot
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.render.files import Files
from texallon.core.render.graph import FrameGraph

SIZE = (208, 117)
"""Pixels: enough points to judge values by."""


@derived("advice")
def advice_on(shot: ResolvedShot, later: ResolvedShot, points: GBuffer) -> list[Advice]:
    """What all rules notice in a shot at a frame, the gravest first.

    Parameters
    ----------
    shot : ResolvedShot
        A checked shot.
    later : ResolvedShot
        The shot at the next frame.
    points : GBuffer
        See `facts.gather`.
    """
    return advise(gather(shot, later, points))


def look_over(shot: Shot, files: Files, frame: float | None = None) -> list[Advice]:
    """Advice on a checked shot, the gravest first; raises what its files raise.

    Parameters
    ----------
    shot : Shot
        A checked shot.
    files : Files
        Where meshes and pictures are read from.
    frame : float, optional
        The shot's first unless given.
    """
    graph = FrameGraph(resolve(shot, frame), files)
    later = resolve(shot, graph.shot.time.frame + 1)
    return advice_on(graph.shot, later, graph.gbuffer(*SIZE, detail=SIZE[0] / shot.resolution[0]))
