"""A pattern that changes too quickly to be watched: judge its speed as change per second."""

from collections.abc import Iterator, Sequence
from typing import ClassVar

from texallon.core.advice.facts import Facts, RecipeFacts
from texallon.core.advice.rule import Advice, Fix, Rule
from texallon.core.document.recipe import Recipe, Signal, SignalRef
from texallon.core.ops.op import Op
from texallon.core.ops.registry import make_op
from texallon.core.ops.waves import Waves

FAST = 2.5
"""Times its own range that a value may travel in a second before it only flickers."""


class TooFast(Rule):
    name: ClassVar[str] = "too fast"
    about: ClassVar[str] = (
        "Judge the speed of an evolving pattern as change per second (common practice, no published source)."
    )

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        if recipe.change_per_second <= FAST:
            return
        movers = list(_movers(recipe.recipe, facts.shot.signals, set()))
        if movers and all(isinstance(op, Waves) for op in movers):
            return  # water moves as fast as it does
        moving = [step for step in recipe.steps if step.op.time_dependent()]
        step = moving[0] if moving else recipe.steps[0]
        reason = f"Values cross their own range {recipe.change_per_second:.1f} times a second, too fast to watch."
        speed = getattr(step.op, "speed", 0.0)
        fix = None
        if moving and speed:
            slower = round(speed * FAST / recipe.change_per_second / 2, 4)
            where = recipe.at(step.number, "params", "speed")
            fix = Fix(f"slow it to {slower:g} /s", ({"op": "add", "path": where, "value": slower},))
        yield self.found("warning", recipe, step.number, reason, fix)


def _movers(recipe: Recipe, signals: Sequence[Signal], seen: set[str]) -> Iterator[Op]:
    """The ops that change in time, in what a recipe is joined with and in the signals that it names too."""
    for step in recipe.steps:
        op = make_op(step)
        if not isinstance(op, Op):
            continue
        if op.time_dependent():
            yield op
        for taken in op.inputs().values():
            if isinstance(taken, Recipe):
                yield from _movers(taken, signals, seen)
            elif isinstance(taken, SignalRef) and taken.signal not in seen:
                seen.add(taken.signal)
                for signal in signals:
                    if signal.name == taken.signal:
                        yield from _movers(signal.recipe, signals, seen)
