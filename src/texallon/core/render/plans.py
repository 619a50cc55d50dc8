"""What plans depend on beside their look, and plans as derived values."""

from dataclasses import dataclass, replace
from itertools import islice

from texallon.core.derived import Cost, derived
from texallon.core.document.base import Vector
from texallon.core.document.carried_looks import CarriedLooks
from texallon.core.document.locator import Locator
from texallon.core.document.look import Look
from texallon.core.document.object_group import ObjectGroup
from texallon.core.document.problem import Problem
from texallon.core.document.reading import MOST_PROBLEMS
from texallon.core.document.recipe import Signal
from texallon.core.document.resolved import Time
from texallon.core.signal.check_recipes import problems_of_look, problems_of_signals
from texallon.core.signal.look_plan import plan_channels
from texallon.core.signal.plan import Plan
from texallon.core.signal.planner import Planner


@dataclass(frozen=True)
class Placement:
    """Where an object stands: what of it recipes may depend on."""

    name: str
    follows: str | None = None
    belongs_to: str | None = None
    position: Vector = (0.0, 0.0, 0.0)
    rotation: Vector = (0.0, 0.0, 0.0)
    scale: float = 1.0
    stretch: Vector = (1.0, 1.0, 1.0)


@dataclass(frozen=True)
class Aim:
    """Where the camera stands and what it looks at: what of it recipes may depend on."""

    position: Vector
    target: Vector


@dataclass(frozen=True)
class ScopeOfPlans:
    """What of a resolved shot the plans of its looks depend on, beside the look."""

    signals: tuple[Signal, ...]
    locators: tuple[Locator, ...]
    objects: tuple[Placement, ...]
    object_groups: tuple[ObjectGroup, ...]
    carried_looks: CarriedLooks
    camera: Aim
    time: Time

    def of_names(self) -> "ScopeOfPlans":
        """The same without places and time, which make no recipe right or wrong: while a thing is dragged nothing is checked anew."""
        return replace(
            self,
            locators=tuple(Locator(name=each.name) for each in self.locators),
            objects=tuple(Placement(each.name) for each in self.objects),
            object_groups=(),
            camera=Aim((0.0, 0.0, 1.0), (0.0, 0.0, 0.0)),
            time=Time(),
        )


@derived("problems of signals", cost=Cost.INSTANT)
def signal_problems(names: ScopeOfPlans) -> tuple[Problem, ...]:
    """What is wrong with the shared signals of a shot.

    Parameters
    ----------
    names : ScopeOfPlans
        Without places and time.
    """
    return tuple(islice(problems_of_signals(Planner(names)), MOST_PROBLEMS))


@derived("problems of a look", cost=Cost.INSTANT)
def look_problems(names: ScopeOfPlans, look: Look, number: int) -> tuple[Problem, ...]:
    """What is wrong with the recipes of a look.

    Parameters
    ----------
    names : ScopeOfPlans
        Without places and time.
    look : Look
        One of the document's.
    number : int
        Position of the look.
    """
    return tuple(islice(problems_of_look(Planner(names), look, number), MOST_PROBLEMS))


@dataclass(frozen=True)
class PlanReads:
    """What of where things stand a plan depends on: `spaces` by their keys, and whether on `time`."""

    spaces: tuple[str, ...]
    time: bool

    @staticmethod
    def of(plan: Plan) -> "PlanReads":
        """What a plan reads.

        Parameters
        ----------
        plan : Plan
            Made from names alone, or in full.
        """
        return PlanReads(tuple(sorted(plan.world_to_space)), any(node.op.time_dependent() for node in plan.nodes))

    @property
    def nothing(self) -> bool:
        """Whether the plan made from names alone is the plan."""
        return not self.spaces and not self.time


@derived("plan", cost=Cost.INSTANT)
def look_plan(scope: ScopeOfPlans, look: Look, number: int, channels: frozenset[str] | None) -> Plan:
    """The plan for some channels of a look that stands at position `number`.

    Parameters
    ----------
    scope : ScopeOfPlans
        What of the shot recipes depend on; of names alone it tells what the plan reads beside its recipes: all else may move without its
        being made anew.
    look : Look
        One of the document's.
    number : int
        Position of the look.
    channels : frozenset of str, optional
        All that any layer touches, unless given.
    """
    return plan_channels(scope, look, number, channels)


@derived("plan of a signal", cost=Cost.INSTANT)
def signal_plan(scope: ScopeOfPlans, name: str) -> Plan:
    """The plan for a shared signal, as the output `value`.

    Parameters
    ----------
    scope : ScopeOfPlans
        What of the shot recipes depend on.
    name : str
        Of the signal.
    """
    planner = Planner(scope)
    planner.want("value", planner.signal(name, ("signals",)))
    return planner.plan()
