"""How quickly the server answers beside many others: `python -m bench.connections [WINDOWS] [SLOW]`.

Against a server that runs (`--address`, that of ./start unless given): idle live connections and requests that stop half way are opened, 1 000 and 500
unless given, then `/api/status` and a shot are asked for again and again.
"""

import argparse
import json
import socket
import time
import urllib.request

import numpy as np
import websocket


def asked(address: str, path: str, times: int) -> np.ndarray:
    """Milliseconds of each answer."""
    taken = []
    for _ in range(times):
        begun = time.perf_counter()
        with urllib.request.urlopen(address + path, timeout=30) as answer:
            answer.read()
        taken.append(1000 * (time.perf_counter() - begun))
    return np.array(taken)


def tell(what: str, taken: np.ndarray) -> None:
    print(f"  {what}: median {np.median(taken):.1f}, 95 % {np.percentile(taken, 95):.1f}, most {taken.max():.0f} ms")


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("windows", nargs="?", type=int, default=1000)
    parser.add_argument("slow", nargs="?", type=int, default=500)
    parser.add_argument("--address", default="http://127.0.0.1:8460")
    chosen = parser.parse_args()
    port = int(chosen.address.rsplit(":", 1)[1])
    with urllib.request.urlopen(f"{chosen.address}/api/shots") as answer:
        shot = json.load(answer)["shots"][0]["id"]
    print("alone")
    tell("/api/status", asked(chosen.address, "/api/status", 200))
    tell(f"/api/shots/{shot}", asked(chosen.address, f"/api/shots/{shot}", 100))
    kept: list[object] = []
    begun = time.perf_counter()
    for _ in range(chosen.windows):
        made = websocket.create_connection(f"ws://127.0.0.1:{port}/api/live/{shot}", origin=chosen.address, timeout=60)
        made.recv()
        kept.append(made)
    opening = time.perf_counter() - begun
    head = f'PATCH /api/shots/{shot} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nIf-Match: "1"\r\n'
    for number in range(chosen.slow):
        connection = socket.create_connection(("127.0.0.1", port))
        connection.sendall((head + ("" if number % 2 else "Content-Length: 1000\r\n\r\n{")).encode())
        kept.append(connection)
    print(
        f"beside {chosen.windows} idle windows (opened in {opening:.1f} s) and {chosen.slow} requests that stop half way"
    )
    tell("/api/status", asked(chosen.address, "/api/status", 200))
    tell(f"/api/shots/{shot}", asked(chosen.address, f"/api/shots/{shot}", 100))


if __name__ == "__main__":
    main()
