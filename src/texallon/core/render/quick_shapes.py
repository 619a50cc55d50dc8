"""A shot with fewer faces, for a first picture while displaced bodies are made anew for another time or after an edit.

How such a body shades comes from the slope of its height at each point of the picture, however coarse its faces are: only its outline tells.
"""

from texallon.core.document.array import OnOther
from texallon.core.document.object import Object
from texallon.core.geometry.mesh import Mesh
from texallon.core.kernel import Array
from texallon.core.render.graph import FrameGraph
from texallon.core.render.shot_volumes import volume_looks

FEW = 40_000
"""Faces of a displaced body that are made, with all about them, in 0.03 to 0.06 s (docs/decisions, 0011)."""

MANY = 100_000
"""Faces up to which it is made as it is, in 0.07 to 0.14 s."""


def quick_shapes(graph: FrameGraph) -> FrameGraph | None:
    """A shot with fewer faces where its displaced bodies are not made yet; nothing where a picture of the shot itself is as soon there.

    What remembers, and what copies stand on, keeps its faces; so does all where something fills the air or bodies, which would be looked up anew.

    Parameters
    ----------
    graph : FrameGraph
        Of the shot.
    """
    shot = graph.shot
    if volume_looks(shot):
        return None
    carrying = {name for item in shot.objects for name in _others(item)}
    displaced = [item for item in graph.shown if item.displacement and item.name not in carrying]
    changes = {item.name: fewer for item in displaced if (fewer := _fewer(graph, item))}
    return graph.with_changes(changes) if changes else None


def _others(item: Object) -> tuple[str, ...]:
    """The objects whose faces another one needs as they are."""
    on = (item.array.object,) if isinstance(item.array, OnOther) else ()
    return (*on, *item.bodies)


def _fewer(graph: FrameGraph, item: Object) -> dict[str, object]:
    """What gives an object fewer faces; nothing where it has few, is made already, or can't have fewer."""
    if item.remembers or item.particles is not None:
        return {}
    source = graph.store.value(graph.shapes.source(item))
    if not isinstance(source, Mesh) or not len(source.faces):
        return {}
    place: Array = graph.plans.places.object(item.name).astype("float32")[:3]
    levels, least = graph.shapes.levels(item, place), len(source.faces)
    if least * 4**levels <= MANY or graph.store.known(graph.shapes.shaped(item, place)):
        return {}
    changes: dict[str, object] = {}
    fewer = levels
    while fewer and least * 4**fewer > FEW:
        fewer -= 1
    if fewer < levels and item.subdivision is not None:
        changes["subdivision"] = item.subdivision.model_copy(update={"levels": fewer})
    segments = getattr(item.geometry, "segments", None)
    if least > FEW and segments is not None:
        across = max(int(segments * (FEW / least) ** 0.5), 3)
        changes["geometry"] = item.geometry.model_copy(update={"segments": across})
    return changes
