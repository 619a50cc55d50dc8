"""What a craft rule is, and what it gives: a piece of advice with its place, its reason, and a fix where one is safe."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

from texallon.core.advice.facts import Facts, RecipeFacts

Severity = Literal["error", "warning", "note"]


@dataclass(frozen=True)
class Fix:
    """A change that can be made at once: what it does, and the JSON Patch that does it."""

    label: str
    patch: tuple[dict[str, Any], ...]


@dataclass(frozen=True)
class Advice:
    """One thing noticed. `address` is its recipe's, or that of what else it is about, `where` what people call that, `step` its step; `reason` is one sentence."""

    rule: str
    severity: Severity
    look: str
    address: str
    where: str
    step: int | None
    reason: str
    fix: Fix | None = None


class Rule:
    """A craft rule; a new one is one new file in this folder."""

    name: ClassVar[str]
    about: ClassVar[str]
    """What the trade knows, in one sentence, with its source."""

    def check(self, facts: Facts) -> Iterator[Advice]:
        """What the rule notices.

        Parameters
        ----------
        facts : Facts
            What is known of the shot.
        """
        yield from self._check(facts)

    def _check(self, facts: Facts) -> Iterator[Advice]:
        """What `check` does; a rule that looks at the whole shot says it here."""
        for recipe in facts.recipes:
            yield from self._check_recipe(recipe, facts)

    def check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        """What it notices in one recipe; for rules that look at each on its own.

        Parameters
        ----------
        recipe : RecipeFacts
            With what is known of it.
        facts : Facts
            What is known of the shot.
        """
        yield from self._check_recipe(recipe, facts)

    def _check_recipe(self, recipe: RecipeFacts, facts: Facts) -> Iterator[Advice]:
        """What `check_recipe` does."""
        raise NotImplementedError

    def found(
        self, severity: Severity, recipe: RecipeFacts, step: int | None, reason: str, fix: Fix | None = None
    ) -> Advice:
        """A piece of advice on a recipe.

        Parameters
        ----------
        severity : Severity
            `error`, `warning` or `note`.
        recipe : RecipeFacts
            With what is known of it.
        step : int, optional
            The step's number.
        reason : str
            One sentence.
        fix : Fix, optional
            A change that would mend it, where one is safe.
        """
        return Advice(self.name, severity, recipe.look, recipe.address, recipe.where, step, reason, fix)
