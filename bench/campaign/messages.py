"""Live messages of all kinds, most of them nonsense: the server goes on, and a window that means well gets its picture."""

import json
import random
from collections import Counter

import websocket

from bench.campaign.made_up import HOSTILE
from bench.campaign.server import Server


def messages(server: Server, count: int, rng: random.Random) -> Counter[str]:
    """Nonsense over live connections, then a window that means well."""
    told: Counter[str] = Counter()
    shots = server.shots()
    kinds = ["view", "preview", "camera", "read", "budget", "here", "open", ""]
    names = [
        "serial",
        "width",
        "height",
        "show",
        "bench",
        "frame",
        "patch",
        "move",
        "across",
        "down",
        "bytes",
        "place",
        "viewing",
    ]
    known = {
        "width": 64,
        "height": 36,
        "move": "orbit",
        "patch": [],
        "show": {"kind": "picture"},
        "bench": {"look": "", "recipe": ""},
    }
    live = None
    for number in range(count):
        if live is None or number % 200 == 0:
            if live is not None:
                live.close()
            live = websocket.create_connection(
                f"ws://127.0.0.1:{server.port}/api/live/{rng.choice(shots)}", origin=server.address, timeout=60
            )
        message = {"do": rng.choice(kinds)}
        for name in rng.sample(names, rng.randrange(5)):
            message[name] = known.get(name, 1) if rng.random() < 0.5 else rng.choice(HOSTILE)
        text = json.dumps(message) if rng.random() < 0.95 else rng.choice(("", "{", "[" * 1000, "null", "NaN"))
        live.send(text)
        told["sent"] += 1
    if live is not None:
        live.close()
    status = server.ask("GET", "/api/status")[1]
    told["ends of the render process"] += status["restarts"]
    live = websocket.create_connection(
        f"ws://127.0.0.1:{server.port}/api/live/{shots[0]}", origin=server.address, timeout=120
    )
    live.send(json.dumps({"do": "view", "width": 64, "height": 36, "serial": 1}))
    while not isinstance(live.recv(), bytes):
        pass
    told["picture for a window that means well"] += 1
    live.close()
    return told
