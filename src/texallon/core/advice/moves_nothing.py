"""A look with a displacement, on objects that are not displaced: it tilts normals, and outlines stay as they are."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.channels import DISPLACING
from texallon.core.render.scene.scene import looks_of


class MovesNothing(Rule):
    name: ClassVar[str] = "moves nothing"
    about: ClassVar[str] = (
        "A bump changes how a surface is lit and leaves its outline alone (J. Blinn, Simulation of Wrinkled Surfaces, 1978)."
    )

    def _check(self, facts: Facts) -> Iterator[Advice]:
        noticed: set[str] = set()
        for recipe in facts.recipes:
            worn = [
                (at, item)
                for at, item in enumerate(facts.shot.objects)
                if item.visible and recipe.look in looks_of(item)
            ]
            if (
                recipe.role not in DISPLACING
                or recipe.look in noticed
                or not worn
                or any(item.displacement for _, item in worn)
            ):
                continue
            noticed.add(recipe.look)
            names = ", ".join(f"“{item.name}”" for _, item in worn[:3]) + (" …" if len(worn) > 3 else "")
            patch = tuple({"op": "add", "path": f"/objects/{at}/displacement", "value": {}} for at, _ in worn)
            reason = f"The displacement of “{recipe.look}” only tilts normals: {names} is not displaced."
            yield self.found("note", recipe, None, reason, Fix("displace it", patch))
