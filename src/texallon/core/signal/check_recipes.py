"""What is wrong with the recipes of a document, each with its place."""

from collections.abc import Callable, Iterable, Iterator, Sequence
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


def check_recipes(scope: PlanScope, looks: Sequence[Look]) -> list[Problem]:
    """Every problem of the recipes of signals and looks, each once, with its place.

    Parameters
    ----------
    scope : PlanScope
        What recipes depend on.
    looks : sequence of Look
        All of a document, in its order.
    """
    planner = Planner(scope)
    return each_once(
        (problems_of_signals(planner), *(problems_of_look(planner, look, at) for at, look in enumerate(looks)))
    )


def each_once(found: Iterable[Iterable[Problem]]) -> list[Problem]:
    """Problems each once, as many as are listed.

    Parameters
    ----------
    found : iterable
        Those of signals and of each look; a generator is asked for no more than are listed.
    """
    problems: dict[str, Problem] = {}
    for several in found:
        for problem in several:
            problems.setdefault(str(problem), problem)
            if len(problems) >= MOST_PROBLEMS:  # each may cost a suggestion
                return list(problems.values())
    return list(problems.values())


def problems_of_signals(planner: Planner) -> Iterator[Problem]:
    """What is wrong with the shared signals.

    Parameters
    ----------
    planner : Planner
        Of what recipes depend on.
    """
    for index, signal in enumerate(planner.shot.signals):
        yield from _attempt(partial(planner.recipe, signal.recipe, ("signals", index, "recipe")))


def problems_of_look(planner: Planner, look: Look, number: int) -> Iterator[Problem]:
    """What is wrong with a look's recipes.

    Parameters
    ----------
    planner : Planner
        Of what recipes depend on.
    look : Look
        One of the document's.
    number : int
        Position of the look.
    """
    for index, layer in enumerate(look.layers):
        at: Path = ("looks", number, "layers", index)
        yield from _attempt(partial(planner.mask, layer, at))
        if layer.look is not None:
            yield from _attempt(partial(_carried, planner, layer, at))
        for name in layer.channels:
            yield from _attempt(partial(planner.layer_channel, layer, name, at))


def _attempt(plan: Callable[[], object]) -> Sequence[Problem]:
    try:
        plan()
    except DocumentError as error:
        return error.problems
    return ()


def _carried(planner: Planner, layer: Layer, at: Path) -> None:
    """Plan all that a layer's look puts there, as with its stand-ins."""
    for name in layer_channels(layer, planner.shot.carried_looks):
        planner.carried_channel(layer, name, at, planner.default(name))
