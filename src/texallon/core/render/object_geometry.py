"""What one object consists of as it is seen, to be handed on."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from texallon.core.document.names import nearest
from texallon.core.document.problem import DocumentError, Problem
from texallon.core.document.resolved import resolve
from texallon.core.document.shot import Shot
from texallon.core.geometry.mesh import Mesh
from texallon.core.render.files import Files
from texallon.core.render.graph import FrameGraph


def object_geometry(
    shot: Shot, name: str, files: Files, frame: float | None = None, signals: Sequence[str] = ()
) -> Mesh:
    """An object's mesh in its own space: divided, displaced, within its skin; or its particles. Copies are left out.

    Parameters
    ----------
    shot : Shot
        Checked.
    name : str
        Of the object.
    files : Files
        Where meshes and pictures are read from.
    frame : float, optional
        The shot's first unless given.
    signals : sequence of str
        Shared signals that it carries as attributes then, of their names.

    Raises
    ------
    DocumentError
        For a name that is not there, with the nearest.
    MeshError, FileNotFoundError
        Where its geometry can't be read or made.
    """
    graph = FrameGraph(resolve(shot, frame), files)
    items = {item.name: item for item in graph.shot.objects}
    known = [each.name for each in shot.signals]
    wrong = [Problem("/objects", f"there is no object “{name}”", nearest(name, items))] if name not in items else []
    wrong += [
        Problem("/signals", f"there is no signal “{each}”", nearest(each, known))
        for each in signals
        if each not in known
    ]
    if wrong:
        raise DocumentError(wrong)
    matrix = graph.plans.places.object(name).astype(np.float32)[:3]
    of_mesh = graph.shapes.shaped(items[name], matrix)
    mesh = graph.store.value(of_mesh)
    made = {
        each: np.ascontiguousarray(
            np.nan_to_num(graph.store.value(graph.on_mesh(each, items[name], of_mesh, matrix, "vertex"))).T, np.float32
        )
        for each in signals
    }
    kept = {each: graph.store.value(value) for each, value in graph.shapes.remembered(items[name]).items()}
    return replace(mesh, attributes={**mesh.attributes, **kept, **made}) if made or kept else mesh
