"""What a stage shows: the finished picture, or one mask, channel or step alone."""

from pydantic import ValidationError

from texallon.core.document import DocumentError, Problem, Shot
from texallon.core.document.channels import CHANNEL_BY_NAME
from texallon.core.document.recipe import Recipe
from texallon.core.document.resolved import ResolvedShot
from texallon.core.signal.plan import Path, Plan
from texallon.core.signal.planner import Planner
from texallon.messages.from_page import StageTarget


def find_recipe(shot: Shot, look_name: str, place: tuple[str, ...]) -> tuple[Recipe | None, Path]:
    """The recipe that a place names, and where it stands in the document; raises `DocumentError`."""
    depth = 2 if place[:1] == ("signal",) else (3 if place[2:3] == ("where",) else 4)
    recipe, path = _outer_recipe(shot, look_name, place[:depth])
    inner = place[depth:]
    for step, name in zip(inner[0::2], inner[1::2], strict=False):
        number = int(step) if step.isdigit() else -1
        if recipe is None or not 0 <= number < len(recipe.steps):
            raise _no_recipe(look_name, place)
        path = (*path, "steps", number, "params", name)
        try:
            recipe = Recipe.model_validate(recipe.steps[number].params.get(name))
        except ValidationError:
            raise _no_recipe(look_name, place) from None
    return recipe, path


def _outer_recipe(shot: Shot, look_name: str, place: tuple[str, ...]) -> tuple[Recipe | None, Path]:
    if len(place) == 2 and place[0] == "signal":
        for index, signal in enumerate(shot.signals):
            if signal.name == place[1]:
                return signal.recipe, ("signals", index, "recipe")
    for look_index, look in enumerate(shot.looks):
        for layer_index, layer in enumerate(look.layers):
            if look.name != look_name or len(place) < 3 or place[0] != "look" or layer.name != place[1]:
                continue
            at: Path = ("looks", look_index, "layers", layer_index)
            if place[2] == "where":
                return layer.where, (*at, "where")
            if place[2] == "channels" and len(place) == 4 and place[3] in layer.channels:
                return layer.channels[place[3]].recipe, (*at, "channels", place[3], "recipe")
    raise _no_recipe(look_name, place)


def _no_recipe(look_name: str, place: tuple[str, ...]) -> DocumentError:
    return DocumentError([Problem("", f"there is no recipe {' · '.join(place) or '?'} in look “{look_name}”")])


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
    else:
        recipe, path = find_recipe(shot, showing.look, showing.place)
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
