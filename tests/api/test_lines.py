"""Lines for tubes through the server: read, refused in words, and never kept."""

from tests.conftest import Answer, Server


def sent(server: Server, data: bytes, field: str = "line", name: str = "way.csv") -> Answer:
    mark = "a-mark-between-parts"
    head = f'--{mark}\r\nContent-Disposition: form-data; name="{field}"; filename="{name}"\r\n\r\n'
    body = head.encode() + data + f"\r\n--{mark}--\r\n".encode()
    return server.ask("POST", "/api/meshes/line", body, {"Content-Type": f"multipart/form-data; boundary={mark}"})


def test_a_line_is_read(server: Server) -> None:
    answer = sent(server, b"x,y,z,radius\n0,0,0,0.1\n0,1,0,0.2\n")
    assert answer.status == 200 and answer.json["points"] == [[0, 0, 0], [0, 1, 0]]
    assert answer.json["radius"] == 0.2 and answer.json["thickness"] == [[0, 0.5], [1, 1]]
    assert sent(server, b"v 0 0 0\nv 1 0 0\nl 1 2\n", name="way.obj").json["said"] == "2 points"


def test_what_is_wrong_is_said(server: Server) -> None:
    for answer, words in (
        (sent(server, b"x,y,z\n0,0,0\n"), "two points"),
        (sent(server, b"x", field="mesh"), "no file named"),
        (sent(server, b"x" * 8_100_000), "8 MB"),
        (sent(server, b"x", name="way.exe"), ".csv or .obj"),
    ):
        assert answer.status == 422 and words in answer.json["detail"]
