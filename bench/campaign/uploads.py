"""Files of every format, damaged in every way: each is taken in or refused as the sender's fault, leaves nothing, and names no path of the server."""

import io
import random
import tempfile
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import trimesh

from bench.campaign.server import Server

MESHES, PICTURES = ("obj", "ply", "glb"), ("png", "jpg", "tif", "exr", "hdr")
NUMBERS = (b"0", b"-1", b"4294967295", b"99999999999999999999", b"nan", b"1e999", b"")


def sound_mesh(kind: str) -> bytes:
    """A small mesh with colours."""
    ball = trimesh.creation.icosphere(2)
    ball.visual.vertex_colors = np.tile([200, 100, 50, 255], (len(ball.vertices), 1)).astype(np.uint8)
    data = ball.export(file_type=kind)
    return data.encode() if isinstance(data, str) else data


def sound_picture(kind: str) -> bytes:
    """A small picture."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"p.{kind}"
        pixels = np.linspace(0, 1, 24 * 16 * 3, dtype=np.float32).reshape(16, 24, 3)
        oiio.ImageBuf(pixels).write(str(path))
        return path.read_bytes()


def damaged(data: bytes, rng: random.Random) -> bytes:
    """A file with something wrong, now and then with nothing."""
    made = bytearray(data)
    for _ in range(rng.choice((0, 1, 1, 2, 5, 40))):
        kind, at = rng.random(), rng.randrange(len(made))
        if kind < 0.4:
            made[at] = rng.randrange(256)
        elif kind < 0.5:
            made[at : at + 4] = rng.choice((b"\xff\xff\xff\xff", b"\0\0\0\0", b"\xff\xff\xff\x7f", b"\0\0\x80\x7f"))
        elif kind < 0.6:
            del made[at:]
        elif kind < 0.7:
            made[at:at] = made[at // 2 : at]
        elif kind < 0.8:
            made[at:at] = bytes(rng.randrange(256) for _ in range(rng.randrange(30)))
        elif kind < 0.9:
            head = bytes(made[:2000])  # most of what a reader believes stands at the front
            digits = [place for place, each in enumerate(head) if chr(each).isdigit()]
            if digits:
                place = rng.choice(digits)
                made[place : place + 1] = rng.choice(NUMBERS)
        else:
            made[: rng.randrange(1, 16)] = rng.choice(
                (b"", b"\0" * 8, b"ply\n", b"glTF", b"\x89PNG", b"II*\0", b"v 0 0 0\n")
            )
        if not made:
            break
    return bytes(made)


def form(name: str, field: str, data: bytes) -> tuple[bytes, dict[str, str]]:
    """The body and headers of a form with one file."""
    edge = "----campaign"
    body = io.BytesIO()
    body.write(f'--{edge}\r\nContent-Disposition: form-data; name="{field}"; filename="{name}"\r\n'.encode())
    body.write(b"Content-Type: application/octet-stream\r\n\r\n" + data + f"\r\n--{edge}--\r\n".encode())
    return body.getvalue(), {"Content-Type": f"multipart/form-data; boundary={edge}"}


def uploads(server: Server, each: int, rng: random.Random) -> Counter[str]:
    """So many damaged files of each format, four at a time."""
    told: Counter[str] = Counter()
    shot = server.shots()[0]
    folder = server.data / "files"
    before = {path.name for path in folder.iterdir()}
    sent = []
    for kind in (*MESHES, *PICTURES):
        sound = sound_mesh(kind) if kind in MESHES else sound_picture(kind)
        for number in range(each):
            # The first is sound, so that all are refused for what was done to them.
            sent.append((kind, sound if number == 0 else damaged(sound, rng)))

    def send(item: tuple[str, bytes]) -> None:
        kind, data = item
        path = f"/api/shots/{shot}/mesh" if kind in MESHES else "/api/pictures"
        body, headers = form(f"made up.{kind}", "mesh" if kind in MESHES else "picture", data)
        status, answer = server.ask("POST", path, body, headers)
        words = str(answer)
        told["sent"] += 1
        if status == 201:
            told["taken in"] += 1
        elif 400 <= status < 500:
            told["refused"] += 1
        if status >= 500 or tempfile.gettempdir() in words or str(server.data) in words:
            told["broke"] += 1
            kept = Path(tempfile.mkdtemp(prefix="campaign-upload-")) / f"made up.{kind}"
            kept.write_bytes(data)
            print(f"{kept} gave {status}: {words[:300]}")
        elif data == sound_of[kind] and status != 201:
            told["broke"] += 1
            print(f"a sound {kind} file was refused: {words[:300]}")

    sound_of = dict(sent[::each])
    with ThreadPoolExecutor(4) as pool:
        list(pool.map(send, sent))
    left = {path.name for path in folder.iterdir()} - before
    if len(left) > told["taken in"] or any(name.startswith(".part") for name in left):
        told["broke"] += 1
        print(f"refused files have left something: {sorted(left)[:5]}")
    if server.ask("GET", "/api/status")[1]["restarts"]:
        told["ends of the render process"] += 1
    return told
