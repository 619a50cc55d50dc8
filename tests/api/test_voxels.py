"""Files of voxel grids over the server's own interface."""

import io
import uuid

import numpy as np
import pytest

from tests.conftest import Answer, Server


def send(server: Server, name: str, data: bytes, field: str = "voxels") -> Answer:
    mark = uuid.uuid4().hex
    head = f'--{mark}\r\nContent-Disposition: form-data; name="{field}"; filename="{name}"\r\n\r\n'
    body = head.encode() + data + f"\r\n--{mark}--\r\n".encode()
    return server.ask("POST", "/api/voxels", body, {"Content-Type": f"multipart/form-data; boundary={mark}"})


def smoke() -> bytes:
    out = io.BytesIO()
    np.savez(out, density=np.full((3, 4, 5), 2.0, np.float32), heat=np.zeros((2, 2, 2)), voxel_size=0.1)
    return out.getvalue()


def test_a_file_is_brought_in_listed_and_used(server: Server, fresh_shot: int) -> None:
    answer = send(server, "thick smoke!.npz", smoke())
    assert answer.status == 201
    made = answer.json
    assert made["grids"] == [
        {"name": "density", "width": 1, "size": [3, 4, 5]}, {"name": "heat", "width": 1, "size": [2, 2, 2]},
    ]  # fmt: skip
    assert made["file"].startswith("voxels/thick smoke-")
    listed = server.ask("GET", "/api/voxels").json["files"]
    assert made["sha256"] in {each["sha256"] for each in listed}
    grids = server.ask("GET", f"/api/voxels/{made['sha256']}/grids").json["grids"]
    assert [each["name"] for each in grids] == ["density", "heat"]
    params = {"file": {"file": made["file"], "sha256": made["sha256"]}, "grid": "density", "space": "world"}
    edit = {
        "op": "replace",
        "path": "/looks/0/layers/1/where",
        "value": {"steps": [{"op": "voxels", "params": params}]},
    }
    assert server.edit(fresh_shot, 1, edit).status == 200


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [("a.npz", b"PK\x03\x04 cut", "damaged"), ("a.raw", b"", "not as “raw”"), ("a.vdb", b"text", "not a VDB file")],
)
def test_what_is_no_grid_is_refused_and_nothing_is_kept(server: Server, name: str, data: bytes, words: str) -> None:
    before = server.ask("GET", "/api/voxels").json
    answer = send(server, name, data)
    assert answer.status == 422
    assert words in answer.json["detail"]
    assert server.ask("GET", "/api/voxels").json == before


def test_an_unknown_digest_and_a_form_without_a_file_are_said(server: Server) -> None:
    assert server.ask("GET", f"/api/voxels/{'0' * 64}/grids").status == 404
    assert send(server, "a.npz", smoke(), field="other").status == 422
