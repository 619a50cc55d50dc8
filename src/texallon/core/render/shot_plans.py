"""The plans of a shot's looks and signals: each keyed by what of the shot it reads."""

from collections.abc import Iterable
from functools import cached_property

from texallon.core.derived import DerivedStore, Given, content_key
from texallon.core.document.problem import Problem
from texallon.core.document.resolved import ResolvedShot
from texallon.core.render.plans import (
    Aim,
    Placement,
    PlanReads,
    ScopeOfPlans,
    look_plan,
    look_problems,
    signal_plan,
    signal_problems,
)
from texallon.core.signal.check_recipes import each_once
from texallon.core.signal.placement import Places
from texallon.core.signal.plan import Plan


class ShotPlans:
    """Plans of one shot at one time.

    Parameters
    ----------
    shot : ResolvedShot
        Checked.
    store : DerivedStore
        Where they are kept.
    """

    def __init__(self, shot: ResolvedShot, store: DerivedStore) -> None:
        self.shot, self.store = shot, store

    @cached_property
    def scope(self) -> ScopeOfPlans:
        """What plans depend on beside their look."""
        placements = tuple(
            Placement(item.name, item.follows, item.belongs_to, item.position, item.rotation, item.scale, item.stretch)
            for item in self.shot.objects
        )
        shot = self.shot
        aim = Aim(shot.camera.position, shot.camera.target)
        return ScopeOfPlans(
            tuple(shot.signals),
            tuple(shot.locators),
            placements,
            tuple(shot.object_groups),
            shot.carried_looks,
            aim,
            shot.time,
        )

    @cached_property
    def places(self) -> Places:
        """Where everything stands."""
        return Places(self.shot)

    @cached_property
    def _names(self) -> Given[ScopeOfPlans]:
        names = self.scope.of_names()
        return Given(names, content_key(names))

    def _scope_of(self, reads: PlanReads) -> Given[ScopeOfPlans]:
        """The scope, keyed by what of it a plan reads."""
        places = {key: self._place(key) for key in reads.spaces}
        key = content_key((self._names, places, self.shot.time if reads.time else None))
        return Given(self.scope, key)

    def _place(self, key: str) -> object:
        kind, _, name = key.partition(":")
        if kind == "locator":
            return self.places.locator(name) if any(each.name == name for each in self.shot.locators) else None
        if kind == "object":
            return self.places.object(name) if any(each.name == name for each in self.shot.objects) else None
        return self.scope.camera

    def problems(self) -> tuple[Problem, ...]:
        """What is wrong with the shot's recipes; empty where all can be planned."""
        looks = [look_problems.of(self._names, look, number) for number, look in enumerate(self.shot.looks)]
        found = (self.store.value(each) for each in (signal_problems.of(self._names), *looks))
        return tuple(each_once(found))

    def of_look(self, number: int, channels: frozenset[str] | None = None) -> Plan:
        """The plan of a look by its position; for all channels that any layer touches, unless some are given.

        Parameters
        ----------
        number : int
            Position of the look.
        channels : frozenset of str, optional
            All that any layer touches, unless given.

        Raises
        ------
        DocumentError
            Where a recipe can't be planned.
        """
        look = self.shot.looks[number]
        named = self.store.value(look_plan.of(self._names, look, number, channels))
        reads = PlanReads.of(named)
        return named if reads.nothing else self.store.value(look_plan.of(self._scope_of(reads), look, number, channels))

    def read_camera(self, signals: Iterable[str]) -> bool:
        """Whether any of some shared signals reads where the camera stands.

        Parameters
        ----------
        signals : iterable of str
            Their names.
        """
        spaces = {key for name in signals for key in self.store.value(signal_plan.of(self._names, name)).world_to_space}
        return not all(key.startswith(("object:", "locator:")) for key in spaces)

    def of_signal(self, name: str) -> Plan:
        """The plan of a shared signal; its output is `value`.

        Parameters
        ----------
        name : str
            Of the signal.
        """
        named = self.store.value(signal_plan.of(self._names, name))
        reads = PlanReads.of(named)
        return named if reads.nothing else self.store.value(signal_plan.of(self._scope_of(reads), name))
