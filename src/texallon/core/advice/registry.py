"""Every craft rule, found by looking into this folder: adding one touches no list."""

import importlib
import pkgutil
from functools import cache

import texallon.core.advice as folder
from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Rule

SEVERITIES = ("error", "warning", "note")


@cache
def rules() -> dict[str, Rule]:
    """All rules by name."""
    for module in pkgutil.iter_modules(folder.__path__):
        importlib.import_module(f"{folder.__name__}.{module.name}")
    return {kind.name: kind() for kind in sorted(Rule.__subclasses__(), key=lambda kind: kind.name)}


def advise(facts: Facts) -> list[Advice]:
    """What all rules notice, the gravest first.

    Parameters
    ----------
    facts : Facts
        What is known of the shot.
    """
    found = [each for rule in rules().values() for each in rule.check(facts)]
    return sorted(found, key=lambda each: SEVERITIES.index(each.severity))
