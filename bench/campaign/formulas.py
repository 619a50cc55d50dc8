"""Formulas of the grammar's own words in every order, and of anything else: each is refused at its character, or saved and computed."""

import json
import random
from collections import Counter

import numpy as np

from bench.campaign.server import Server
from texallon.core.ops.expression import FUNCTIONS, NAMES, FormulaError, parse
from texallon.core.ops.points import Points

WORDS = (
    *NAMES, *FUNCTIONS, "(", ")", ",", ".x", ".y", "+", "-", "*", "/", "//", "%", "**", "<", ">=", "==", "and", "or", "not", "if", "else",
    "0", "1", "-1", "1e38", "1e-45", "0.5", "9**9**9", "1e999", 'signal("splash noise")', 'signal("nobody")', 'attribute("inside")', "'", '"""',
)  # fmt: skip
FOREIGN = (
    "__import__('os').system('true')", "().__class__.__bases__", "lambda: 0", "[x for x in (1,)]", "f'{1}'", "open('/etc/passwd')", "x := 1", "position.__dict__",
    "\0", "\ud800", "٣", "ｅ", "#", "\\\n", "\r", "\u2028", "await 1", "yield", "*" * 400, "(" * 200 + "1" + ")" * 200, "-" * 900 + "1",
)  # fmt: skip


def made_up(rng: random.Random) -> str:
    """A formula, mostly wrong."""
    if rng.random() < 0.15:
        return rng.choice(FOREIGN)
    if rng.random() < 0.4:
        # Right by its form: an operator between what may stand beside it.
        text = rng.choice(("position.y", "1", "time", "length(position)", 'signal("splash noise")'))
        for _ in range(rng.randrange(12)):
            text = f"({text} {rng.choice('+-*/%')} {rng.choice(('0', 'frame', 'uv.x', '1e38', 'distance'))})"
        return text
    return " ".join(rng.choice(WORDS) for _ in range(rng.randrange(1, 25)))


def computed(text: str, points: Points) -> bool:
    """Read a formula and compute it at some points; whether it could be. Raises what nobody foresaw."""
    try:
        parsed = parse(text)
        width = parsed.width(dict.fromkeys(parsed.signals, 1))
    except (FormulaError, ValueError):  # lone surrogates are no text for any parser
        return False
    ones = np.ones((1, points.count), np.float32)
    with np.errstate(all="ignore"):
        values = np.asarray(parsed.values(points, dict.fromkeys(parsed.signals, ones)), np.float32)
    np.broadcast_to(values, (width, points.count))
    return True


def some_points() -> Points:
    """Sixteen points with all data that a formula may name, ordinary and not."""
    rng = np.random.default_rng(3)
    vectors = ("position", "object_position", "rest_position", "normal", "view")
    data = {
        name: rng.normal(size=(3 if name in vectors else 2 if name == "uv" else 1, 16)).astype(np.float32)
        for name in (*NAMES, *vectors)
    }
    data["position"][:, :3] = [[np.inf, np.nan, 0]] * 3
    data["attribute:inside"] = np.zeros((1, 16), np.float32)
    return Points(16, data, {"camera": np.eye(4)})


def formulas(server: Server, count: int, rng: random.Random) -> Counter[str]:
    """Made-up formulas, computed in this process and, every twentieth, through the server."""
    told: Counter[str] = Counter()
    points, shot = some_points(), server.shots()[0]
    for number in range(count):
        text = made_up(rng)
        try:
            right = computed(text, points)
        except Exception as error:  # whatever it is, nobody foresaw it
            told["broke"] += 1
            print(f"formula {text!r} raised {type(error).__name__}: {error}")
            continue
        told["computed" if right else "refused"] += 1
        if number % 20:
            continue
        _, held = server.ask("GET", f"/api/shots/{shot}")
        signal = {"name": "campaign", "recipe": {"steps": [{"op": "formula", "params": {"expression": text}}]}}
        patch = json.dumps({"patch": [{"op": "add", "path": "/signals/-", "value": signal}]}).encode()
        headers = {"If-Match": f'"{held["revision"]}"', "Texallon-Window": "campaign0"}
        status, answer = server.ask("PATCH", f"/api/shots/{shot}", patch, headers)
        told["sent to the server"] += 1
        if status >= 500 or (status == 200 and not right):
            told["broke"] += 1
            print(f"formula {text!r} gave {status}: {json.dumps(answer)[:200]}")
        elif status == 200:
            told["saved"] += 1
            server.ask("POST", f"/api/shots/{shot}/undo?anyway=true", b"{}", headers)
    return told
