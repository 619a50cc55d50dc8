"""The film's shared signals: written once, used by its looks in every shot."""

from texallon.demo.document import Json, signal


def shared_signals() -> list[Json]:
    """In the order in which the project lists them."""
    waterline = {"locator": "waterline"}
    return [
        signal(
            "splash noise",
            ("noise", {"size": 0.16, "octaves": 5, "gain": 0.55, "seed": 7, "scale": [1, 1.7, 1]}),
            ("remap", {"from_start": 0.34, "from_end": 0.52, "ease": "smooth"}),
        ),
        signal("bowl", ("attribute", {"attribute": "inside"})),
        signal(
            "waterline wetness",
            ("height", {"origin": waterline, "axis": "y"}),
            ("remap", {"from_start": 0.12, "from_end": 0.0, "ease": "smooth"}),
            ("multiply", {"by": {"signal": "splash noise"}}),
        ),
        signal(
            "puddles",
            ("offset", {"by": {"steps": [{"op": "noise", "params": {"size": 0.2, "octaves": 3, "fields": "colour", "seed": 21}}]}, "amount": 0.16}),
            ("spots", {"size": 1.15, "density": 0.72, "variation": 0.55, "irregular": 0.7, "soft": 0.55, "seed": 12}),
        ),
        signal(
            "burning edge",
            ("height", {"origin": {"locator": "burn"}}),
            ("add", {"by": {"steps": [{"op": "noise", "params": {"size": 0.06, "octaves": 6, "gain": 0.6, "low": -0.05, "high": 0.05, "seed": 110}}]}}),
        ),
    ]  # fmt: skip
