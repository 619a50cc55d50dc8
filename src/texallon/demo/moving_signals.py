"""Shared signals of what moves: cold that draws over the pond, where drops hit it, and its waves."""

from typing import Any

from texallon.demo.document import Json, signal

WAVES: dict[str, Any] = {
    "wind": 2.2, "fetch": 90.0, "depth": 0.8, "size": 3.0, "direction": 35.0, "spread": 0.45, "choppiness": 0.9, "scale": 1.6,
    "seed": 26, "tiling": "repeated",
}  # fmt: skip


def water(**more: Any) -> Json:
    """A recipe that gives something of the pond's waves; its step has a name by which the wind in it is found."""
    return {"steps": [{"id": "waves", "op": "waves", "params": {**WAVES, **more}}]}


def moving_signals() -> list[Json]:
    """In the order in which the project lists them."""
    grain = {
        "op": "noise",
        "params": {
            "size": 0.06,
            "octaves": 6,
            "gain": 0.6,
            "low": -0.95,
            "high": 0.03,
            "spread": "full",
            "distortion": 0.3,
            "seed": 242,
        },
    }
    return [
        signal("draught", ("contact", {"to": {"locator": "cold finger"}, "end": 0.2})),
        signal("frost grain", ("noise", {"size": 0.12, "octaves": 4, "gain": 0.5, "spread": "full", "seed": 241})),
        signal(
            "lantern warmth",
            ("contact", {"to": {"locator": "lantern foot"}, "end": 0.6, "falloff": "smooth"}),
            ("multiply", {"by": 0.8}),
        ),
        signal(
            "frosted",
            ("attribute", {"attribute": "frost"}),
            ("add", {"by": {"steps": [grain]}}),
            ("remap", {"from_start": 0.06, "from_end": 0.45, "ease": "smooth"}),
        ),
        signal("dance", ("attribute", {"attribute": "dance"})),
        signal("hits", ("contact", {"to": {"object": "rain"}, "end": 0.028, "falloff": "smooth"})),
        {"name": "pond height", "id": "pondheight", "recipe": water()},
        {"name": "pond foam", "id": "pondfoam", "recipe": water(gives="foam", folds_below=0.68, foam_lasts=0.9)},
    ]  # fmt: skip
