"""The recipe that lies open, measured step by step."""

from texallon.core.derived import Cost, Given
from texallon.core.document import DocumentError
from texallon.core.document.recipe_address import find_recipe
from texallon.engine.measure import recipe_plan, step_measures
from texallon.engine.schedule import Importance
from texallon.engine.work import Work
from texallon.messages.to_page import BenchMeasures

SMALL = (208, 117)
"""Size of the small pictures; measurements are taken over their points."""


class Bench:
    """The open recipe's pictures, histograms and responses."""

    name = "bench"
    cost, importance = Cost.INSTANT, Importance.ON_SCREEN

    def pending(self, work: Work) -> bool:
        return bool(work.window.bench.recipe)

    def step(self, work: Work) -> None:
        open_recipe = work.window.bench
        work.done.add(self.name)
        try:
            recipe, path = find_recipe(work.shot, open_recipe.recipe)
        except DocumentError:
            return
        if recipe is None:
            return
        points = work.gbuffer(*SMALL)
        plan = recipe_plan(work.shot, recipe, path)
        measures = step_measures.of(Given(points, points.content_key), work.seen_index(points, open_recipe.look), plan)
        steps = work.store.value(measures)
        work.send(BenchMeasures, {"recipe": open_recipe.recipe, "look": open_recipe.look, "steps": steps}, b"")
