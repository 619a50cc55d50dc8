"""The plan of a whole look: the channels that its layers touch."""

from collections.abc import Iterable

from texallon.core.document.carried_looks import touched_channels
from texallon.core.document.channels import CHANNELS
from texallon.core.document.look import Look
from texallon.core.document.problem import Path
from texallon.core.document.resolved import ResolvedShot
from texallon.core.signal.plan import Plan
from texallon.core.signal.planner import Planner, PlanScope


def plan_look(shot: ResolvedShot, look: Look, channels: Iterable[str] | None = None) -> Plan:
    """The plan for a look's channels at the shot's time, outputs by channel name.

    Parameters
    ----------
    shot : ResolvedShot
        At its time, or what of it stands where.
    look : Look
        One of the shot's.
    channels : iterable of str, optional
        All that any layer touches, unless given.

    Raises
    ------
    DocumentError
        Where a recipe can't be planned.
    """
    return plan_channels(shot, look, shot.looks.index(look), None if channels is None else frozenset(channels))


def plan_channels(scope: PlanScope, look: Look, number: int, channels: frozenset[str] | None) -> Plan:
    """As `plan_look`, for a look that stands at position `number` of its document.

    Parameters
    ----------
    scope : PlanScope
        What of the shot recipes depend on.
    look : Look
        One of the shot's.
    number : int
        Position in the document.
    channels : frozenset of str, optional
        All that any layer touches, unless given.
    """
    touched = touched_channels(look, scope.carried_looks)
    wanted = [channel.name for channel in CHANNELS if channel.name in (touched if channels is None else channels)]
    planner = Planner(scope)
    at: Path = ("looks", number)
    for name in wanted:
        planner.want(name, planner.channel(look, name, at))
    return planner.plan()
