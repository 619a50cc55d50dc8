"""What recipes and looks are made of, for the page to offer."""

from dataclasses import asdict
from typing import Any

import numpy as np
import numpy.typing as npt
from flask import Response, jsonify
from flask_openapi3 import APIBlueprint, Tag

from texallon.api.problems import ProblemBody, problem
from texallon.api.shapes import AttributeList, OpPath, ShotPath, Vocabulary
from texallon.core.advice.registry import rules
from texallon.core.derived import DerivedStore
from texallon.core.document import Blend, Object
from texallon.core.document.channel_synonyms import SYNONYMS
from texallon.core.document.channels import CHANNELS
from texallon.core.document.names import nearest
from texallon.core.document.remembered import remembered_names
from texallon.core.geometry.copies import SHARE
from texallon.core.geometry.mesh import MeshError
from texallon.core.ops.registry import describe, ops
from texallon.core.render.film.display import VIEWS
from texallon.core.render.stored_files import StoredFiles
from texallon.core.signal.statistics import statistics
from texallon.formats.shot_files import ShotFiles
from texallon.review.op_picture import op_picture
from texallon.store.shots import ShotStore

MESHES = 200_000_000
"""Bytes of geometry that the server keeps to answer which attributes there are."""


def make_vocabulary(store: ShotStore, files: ShotFiles) -> APIBlueprint:
    """The routes for ops, channels and the attributes of a shot."""
    kept = DerivedStore(MESHES)
    meshes = StoredFiles(files, kept)
    routes = APIBlueprint("vocabulary", __name__, url_prefix="/api", abp_tags=[Tag(name="vocabulary")])

    @routes.get("/vocabulary", responses={"200": Vocabulary}, operation_id="get_vocabulary")
    def get_vocabulary() -> Response:
        """All ops with their parameters, and all channels."""
        return jsonify(
            {
                "ops": [describe(kind) for kind in ops().values()],
                "channels": [
                    {**asdict(channel), "synonyms": list(SYNONYMS.get(channel.name, ()))} for channel in CHANNELS
                ],
                "blends": [blend.value for blend in Blend],
                "views": list(VIEWS),
                "rules": [{"name": rule.name, "about": rule.about} for rule in rules().values()],
            }
        )

    @routes.get("/ops/<string:name>/picture", responses={"404": ProblemBody}, operation_id="show_op")
    def show_op(path: OpPath) -> Response:
        """What an op does, as a small PNG."""
        if path.name not in ops():
            return problem(404, "No such op", nearest(path.name, ops()))
        response = Response(op_picture(path.name), mimetype="image/png")
        response.headers["Cache-Control"] = "max-age=86400"
        return response

    @routes.get("/shots/<int:shot_id>/attributes", responses={"200": AttributeList}, operation_id="list_attributes")
    def list_attributes(path: ShotPath) -> Response:
        """Attributes stored on the shot's geometry, and the parts of its objects."""
        found: dict[str, int] = {}
        tables: dict[str, list[dict[str, object]]] = {}
        parts: dict[str, list[str]] = {}
        for item in store.current(path.shot_id).document["objects"]:
            found |= dict.fromkeys([*carried_by_copies(item), *kept_by(item)], 1)
            if "file" not in item["geometry"]:
                continue  # bodies carry none
            try:
                mesh = kept.value(meshes.object_value(Object.model_validate(item)))
            except (FileNotFoundError, MeshError):
                continue  # the stage says which file is missing or damaged
            parts[item["name"]] = list(mesh.part_names)
            found |= {name: values.shape[1] for name, values in mesh.attributes.items()}
            tables[item["name"]] = [
                {
                    "name": name,
                    "width": values.shape[1],
                    "of": "point" if len(mesh.faces) else "particle",
                    **_statistics(values),
                }
                for name, values in mesh.attributes.items()
            ]
        return jsonify({"attributes": found, "parts": parts, "tables": tables})

    return routes


def carried_by_copies(item: dict[str, Any]) -> list[str]:
    """Names of what an object's copies carry themselves, beside what they stand on.

    Parameters
    ----------
    item : dict
        An object, as plain JSON.
    """
    if not item.get("array"):
        return []
    even = [SHARE] if item["array"]["along"] in ("grid", "ring", "line") else []
    return even + [each["name"] for each in item.get("copies", []) if each["does"] == "carry"]


def kept_by(item: dict[str, Any]) -> list[str]:
    """Names of what an object remembers.

    Parameters
    ----------
    item : dict
        An object, as plain JSON.
    """
    if not item.get("remembers"):
        return []
    return [name for each in Object.model_validate(item).remembers for name in remembered_names(each)]


def _statistics(values: npt.NDArray[np.float32]) -> dict[str, object]:
    """How far values reach, and how many lie in each of even bins."""
    made = statistics(values.T)
    return {"low": made.low, "high": made.high, "mean": made.mean, "counts": list(made.counts)}
