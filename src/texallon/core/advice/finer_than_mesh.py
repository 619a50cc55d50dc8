"""Curvature or occlusion over less than the mesh's own edges: there is nothing between two vertices to see."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.ops.curvature import CurvatureSource
from texallon.core.ops.occlusion import OcclusionSource

LEAST = 0.7
"""Of an edge's length: so much less than a whole one is said."""


class FinerThanMesh(Rule):
    name: ClassVar[str] = "finer than the mesh"
    about: ClassVar[str] = (
        "What is read from a mesh is known at its vertices; detail between them is not in it (definition of what is baked)."
    )

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        edge = facts.edges.get(recipe.look, 0.0)
        for step in recipe.steps:
            if isinstance(step.op, CurvatureSource) and step.op.by == "mesh":
                member, reach = "radius", step.op.radius
            elif isinstance(step.op, OcclusionSource) and step.op.against == "itself":
                member, reach = "distance", step.op.distance
            else:
                continue
            if reach >= LEAST * edge:
                continue
            wanted = float(f"{edge * 1.5:.2g}")
            fix = Fix(f"look over {wanted:g} m", ({"op": "add", "path": recipe.at(step.number, "params", member), "value": wanted},))  # fmt: skip
            reason = (
                f"The {step.op.name} of “{recipe.layer}” looks over {reach:g} m, and the mesh's edges are {edge:.2g} m long: "
                "what it gives is the mesh's facets."
            )
            yield self.found("warning", recipe, step.number, reason, fix)
