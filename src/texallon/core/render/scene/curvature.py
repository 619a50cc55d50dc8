"""Curvature of the smooth surface at hits, for how boundaries spread the light that passes them."""

import numpy as np

from texallon.core.geometry.rays import Hits
from texallon.core.kernel import Array, kernel
from texallon.core.render.scene.scene import GeometryTables, Scene


@kernel
def fill_curvature(tables: GeometryTables, hits: Hits, out: Array) -> None:
    """How fast the smooth normal turns over each hit face, per metre: the mean over its edges, above 0 where it bulges outwards.

    Parameters
    ----------
    tables : GeometryTables
        Of the scene.
    hits : Hits
        n, on objects.
    out : Array
        `(n,)` 1/m, filled.
    """
    vertices, normals, faces, first_face = tables.vertices, tables.normals, tables.faces, tables.first_face
    matrix, inverse, instance, face = tables.matrix, tables.inverse, hits.instance, hits.face
    for i in range(instance.shape[0]):
        k = instance[i]
        f = first_face[k] + face[i]
        total = 0.0
        for edge in range(3):
            a, b = faces[f, edge], faces[f, (edge + 1) % 3]
            across, along = 0.0, 0.0
            la = lb = 0.0
            for row in range(3):
                na = nb = 0.0
                for col in range(3):
                    na += inverse[k, col, row] * normals[a, col]
                    nb += inverse[k, col, row] * normals[b, col]
                la += na * na
                lb += nb * nb
            la, lb = max(np.sqrt(la), 1e-20), max(np.sqrt(lb), 1e-20)
            for row in range(3):
                m = matrix[k, row]
                step = na = nb = 0.0
                for col in range(3):
                    step += m[col] * (vertices[b, col] - vertices[a, col])
                    na += inverse[k, col, row] * normals[a, col] / la
                    nb += inverse[k, col, row] * normals[b, col] / lb
                across += step * (nb - na)
                along += step * step
            total += across / along if along > 1e-30 else 0.0
        out[i] = total / 3.0


def curvature_at(scene: Scene, hits: Hits) -> Array:
    """The curvature `(n,)` of the smooth surface at hits on objects, 1/m.

    Parameters
    ----------
    scene : Scene
        What stands where.
    hits : Hits
        `n` hits on objects.

    Returns
    -------
    Array
        `(n,)`.
    """
    out = np.empty(len(hits.instance), np.float32)
    fill_curvature(scene.geometry.tables, hits, out)
    return out
