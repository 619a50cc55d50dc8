"""More shells behind each other than light paths may pass: what lies behind the last is black."""

from collections.abc import Iterator
from typing import ClassVar

from texallon.core.advice.facts import Facts
from texallon.core.advice.rule import Advice, Fix, Rule


class TooFewTurns(Rule):
    name: ClassVar[str] = "too few turns"
    about: ClassVar[str] = (
        "A path needs as many passes as there are boundaries on its way, and some more to light what lies behind (common practice, no "
        "published source)."
    )

    def _check(self, facts: Facts) -> Iterator[Advice]:
        shot, around = facts.shot, facts.around
        if around.cut_out > shot.limits.transparency:
            wanted = min(around.cut_out + 8, 64)
            fix = Fix(f"allow {wanted}", ({"op": "add", "path": "/limits/transparency", "value": wanted},))
            reason = (
                f"The camera looks through {around.cut_out} cut-out surfaces, and paths pass "
                f"{shot.limits.transparency}: what lies behind them is black."
            )
            yield Advice(self.name, "warning", "", "/limits/transparency", "sampling · transparency", None, reason, fix)
        passes = min(shot.limits.transmission, shot.bounces)
        if around.through > passes:
            wanted = min(around.through + 4, 64)
            patch = tuple(
                {"op": "add", "path": path, "value": wanted}
                for path, now in (("/limits/transmission", shot.limits.transmission), ("/bounces", shot.bounces))
                if now < wanted
            )
            reason = f"The camera looks through {around.through} clear boundaries, and paths pass {passes}: what lies behind them is black."
            yield Advice(
                self.name,
                "warning",
                "",
                "/limits/transmission",
                "sampling · transmission",
                None,
                reason,
                Fix(f"allow {wanted}", patch),
            )
