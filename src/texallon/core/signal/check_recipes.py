"""What is wrong with the recipes of a document, each with its place."""

from collections.abc import Callable, Sequence
from functools import partial

from texallon.core.document.carried_looks import layer_channels
from texallon.core.document.look import Layer, Look
from texallon.core.document.problem import DocumentError, Path, Problem
from texallon.core.document.reading import MOST_PROBLEMS
from texallon.core.document.resolved import resolve, resolve_extremes
from texallon.core.document.shot import Shot
from texallon.core.signal.planner import Planner, PlanScope


def check_shot(document: Shot) -> list[Problem]:
    """Every problem of ops, signals and channels, each once, with its place.

    Parameters
    ----------
    document : Shot
        Of a shot.
    """
    found: dict[str, Problem] = {}
    for shot in (resolve(document), *resolve_extremes(document)):
        for problem in check_recipes(shot, shot.looks):
            found.setdefault(str(problem), problem)
    return list(found.values())[:MOST_PROBLEMS]


def _carried(planner: Planner, layer: Layer, at: Path) -> None:
    """Plan all that a layer's look puts there, as with its stand-ins."""
    for name in layer_channels(layer, planner.shot.carried_looks):
        planner.carried_channel(layer, name, at, planner.default(name))


def check_recipes(scope: PlanScope, looks: Sequence[Look]) -> list[Problem]:
    """Every problem of the recipes of signals and looks, each once, with its place.

    Parameters
    ----------
    scope : PlanScope
        What recipes depend on.
    looks : sequence of Look
        All of a document, in its order.
    """
    problems: dict[str, Problem] = {}
    planner = Planner(scope)

    def attempt(plan: Callable[[], object]) -> None:
        if len(problems) >= MOST_PROBLEMS:  # each may cost a suggestion
            return
        try:
            plan()
        except DocumentError as error:
            for problem in error.problems:
                problems.setdefault(str(problem), problem)

    for index, signal in enumerate(scope.signals):
        attempt(partial(planner.recipe, signal.recipe, ("signals", index, "recipe")))
    for look_index, look in enumerate(looks):
        for layer_index, layer in enumerate(look.layers):
            at: Path = ("looks", look_index, "layers", layer_index)
            attempt(partial(planner.mask, layer, at))
            if layer.look is not None:
                attempt(partial(_carried, planner, layer, at))
            for name in layer.channels:
                attempt(partial(planner.layer_channel, layer, name, at))
    return list(problems.values())
