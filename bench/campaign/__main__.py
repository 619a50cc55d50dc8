"""A campaign of hostile use against a server of its own: `python -m bench.campaign [--hours H] [--short] [PART ...]`.

Each part is a file of this folder, and says there what it does and what must hold. Exit status 1 where anything broke. Random
numbers have a seed (`--seed`), so that a campaign can be had again.
"""

import argparse
import random
import time
from collections import Counter
from collections.abc import Callable

from bench.campaign.edits import edits
from bench.campaign.formulas import formulas
from bench.campaign.full_disk import full_disk
from bench.campaign.kills import kills
from bench.campaign.messages import messages
from bench.campaign.openings import openings
from bench.campaign.server import Server
from bench.campaign.uploads import uploads

Part = Callable[[Server, int, random.Random], Counter[str]]

PARTS: dict[str, tuple[Part, int, int]] = {
    "edits": (edits, 2000, 20),
    "messages": (messages, 25_000, 300),
    "formulas": (formulas, 20_000, 100),
    "uploads": (uploads, 200, 1),
    "kills": (kills, 60, 3),
    "full disk": (full_disk, 10, 0),
    "openings": (openings, 200, 0),
}
"""Each part with its size at full length (kills of three kinds in all, uploads of each format) and in the short form."""


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("parts", nargs="*", metavar="PART", help=f"Of {', '.join(PARTS)}; all unless given.")
    parser.add_argument("--hours", type=float, default=0.0, help="Go on for so long; once through unless given.")
    parser.add_argument("--short", action="store_true")
    parser.add_argument("--size", type=int, default=0, help="In place of every part's own.")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--port", type=int, default=8477)
    chosen = parser.parse_args()
    if unknown := [part for part in chosen.parts if part not in PARTS]:
        parser.error(f"there is no part “{unknown[0]}”")
    begun, total = time.monotonic(), Counter[str]()
    server = Server(chosen.port)
    try:
        round_number = 0
        while round_number == 0 or time.monotonic() - begun < 3600 * chosen.hours:
            for name in chosen.parts or PARTS:
                part, full, short = PARTS[name]
                size = chosen.size or (short if chosen.short else full)
                if size:
                    started = time.monotonic()
                    found = part(server, size, random.Random(chosen.seed + round_number))
                    total += found
                    shown = ", ".join(f"{count:,} {what}" for what, count in found.items())
                    print(f"{name} ({time.monotonic() - started:.0f} s): {shown}", flush=True)
            round_number += 1
    finally:
        server.stop()
    bad = total["broke"] + total["not taken back"] + total["lost"]
    print("nothing broke and nothing is lost" if not bad else f"{bad} things broke")
    raise SystemExit(1 if bad else 0)


if __name__ == "__main__":
    main()
