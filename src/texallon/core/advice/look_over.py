"""Looking a whole shot over, without a window: what all rules notice at a frame."""

from texallon.core.advice.facts import gather
from texallon.core.advice.registry import advise
from texallon.core.advice.rule import Advice
from texallon.core.document.shot import Shot
from texallon.core.render.camera.gbuffer import GBuffer
from texallon.core.render.camera.view import make_view
from texallon.core.render.files import Files
from texallon.core.render.scene.scene import Scene, lets_light_through

SIZE = (208, 117)
"""Pixels: enough points to judge values by."""


def look_over(shot: Shot, files: Files, frame: float | None = None) -> list[Advice]:
    """Advice on a checked shot, the gravest first; raises what its files raise."""
    scene = Scene(shot, files)
    clear = frozenset(index for index, look in enumerate(shot.looks) if lets_light_through(look))
    detail = SIZE[0] / shot.resolution[0]
    points = GBuffer(scene, make_view(shot.camera, *SIZE), shot.seed, clear=clear, detail=detail)
    return advise(gather(shot, scene, points, frame))
