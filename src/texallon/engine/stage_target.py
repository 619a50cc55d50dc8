"""What a stage shows: the finished picture, or one mask, channel, step or attribute alone."""

from texallon.core.document import DocumentError, Problem
from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.document.recipe import Recipe
from texallon.core.document.recipe_address import find_recipe
from texallon.core.document.resolved import ResolvedShot
from texallon.core.signal.plan import Plan
from texallon.core.signal.planner import Planner
from texallon.messages.from_page import StageTarget


def signal_plan(shot: ResolvedShot, showing: StageTarget) -> tuple[Plan, str]:
    """The plan whose output `value` is to be shown alone, and what it is: a `number`, a `colour` or bent `space`."""
    planner = Planner(shot)
    colour = False
    if showing.kind == "channel":
        looks = [look for look in shot.looks if look.name == showing.look]
        if not looks or showing.channel not in CHANNEL_BY_NAME:
            raise DocumentError([Problem("", f"there is no channel {showing.channel} of look “{showing.look}”")])
        node = planner.channel(looks[0], showing.channel, ("looks", shot.looks.index(looks[0])))
        colour = CHANNEL_BY_NAME[showing.channel].width == 3
    elif showing.kind == "attribute":
        read = {"attribute": showing.attribute or "color", "read": "colour" if showing.colour else "number"}
        node = planner.recipe(Recipe.model_validate({"steps": [{"op": "attribute", "params": read}]}), ("looks",))[-1]
    else:
        recipe, path = find_recipe(shot, showing.recipe)
        if recipe is None:
            plain = Recipe.model_validate({"steps": [{"op": "constant"}]})
            nodes = planner.recipe(plain, path)
        else:
            nodes = planner.recipe(recipe, path)
        step = len(nodes) - 1 if showing.step is None else min(max(showing.step, 0), len(nodes) - 1)
        node = nodes[step]
    planner.want("value", node)
    plan = planner.plan()
    if planner.node(node).op.kind == "warp":
        return plan, "warp"
    return plan, "colour" if colour or plan.width("value") == 3 else "number"
