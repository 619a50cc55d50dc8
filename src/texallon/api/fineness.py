"""How fine an object's faces may be divided, said before it is done: faces, memory, time, and what there is room for."""

from typing import Literal

from flask import Response, jsonify
from flask_openapi3 import APIBlueprint, Tag
from pydantic import BaseModel, Field

from texallon.api.problems import ProblemBody, problem
from texallon.api.shapes import ShotPath
from texallon.core.document import read_shot
from texallon.core.document.displacement import MOST_LEVELS, Subdivision
from texallon.core.document.names import nearest
from texallon.core.geometry.mesh import MeshError
from texallon.core.render.needs import held, reckon
from texallon.formats.shot_files import ShotFiles
from texallon.memory import machine_limit
from texallon.store.shots import ShotStore

SECONDS = {"midpoint": 4.3e-6, "catmull-clark": 4.8e-6}
"""For each triangle: 2.4 and 2.9 µs to divide it, move it and search it (`python -m bench.shape`), and 1.9 µs for a height of a few octaves
(GH060 on two cores)."""


class FinenessQuery(BaseModel):
    """Which object, and how its faces are divided."""

    object: str = Field(max_length=80)
    scheme: Literal["midpoint", "catmull-clark"] = "midpoint"


class Fineness(BaseModel):
    """What a number of levels comes to."""

    levels: int
    triangles: int
    bytes: int
    seconds: float
    fits: bool


class FinenessList(BaseModel):
    """One for each number of levels, from 0."""

    levels: list[Fineness]


def make_fineness(store: ShotStore, files: ShotFiles) -> APIBlueprint:
    """The route for what dividing an object comes to."""
    routes = APIBlueprint("fineness", __name__, url_prefix="/api/shots", abp_tags=[Tag(name="shots")])

    @routes.get(
        "/<int:shot_id>/fineness",
        responses={"200": FinenessList, "404": ProblemBody, "422": ProblemBody},
        operation_id="reckon_fineness",
    )
    def reckon_fineness(path: ShotPath, query: FinenessQuery) -> Response:
        """Faces, bytes and seconds by the number of levels, and whether the whole shot then fits into memory."""
        shot = read_shot(store.current(path.shot_id).document)
        shown = held(
            [each if each.name != query.object else each.model_copy(update={"visible": True}) for each in shot.objects]
        )
        if query.object not in [item.name for item in shown]:
            return problem(404, "No such object", nearest(query.object, [item.name for item in shown]))
        found = []
        for levels in range(MOST_LEVELS + 1):
            divided = Subdivision(scheme=query.scheme, levels=levels)
            items = [
                each if each.name != query.object else each.model_copy(update={"subdivision": divided})
                for each in shown
            ]
            try:
                whole = reckon(files, items, *shot.resolution)
                own = reckon(files, [each for each in items if each.name == query.object], *shot.resolution)
            except (FileNotFoundError, MeshError) as error:
                return problem(422, "The object's geometry can't be read", str(error))
            made = own.divided[0].made(levels).triangles if own.divided else own.triangles
            fits = whole.total <= machine_limit()
            found.append(
                {"levels": levels, "triangles": made, "bytes": own.geometry_bytes, "seconds": made * SECONDS[query.scheme], "fits": fits}
            )  # fmt: skip
        return jsonify({"levels": found})

    return routes
