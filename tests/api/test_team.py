"""Settings: what is wrong is told with what would be right; a server behind a proxy; quotas; a process for each shot."""

import io
import json
import uuid
from typing import Any

import pytest
import websocket
from sqlmodel import Session, col, select

from tests.api.test_api import painted_ball, upload
from tests.conftest import Server, World, serving
from texallon.api.app import make_app, make_queue
from texallon.api.security import Gate
from texallon.api.settings import Settings, SettingsError
from texallon.api.windows import Windows
from texallon.engine.pool import EnginePool
from texallon.store.data_folder import RESTORED
from texallon.store.files import FileStore
from texallon.store.quotas import QuotaError, Quotas
from texallon.store.shots import ShotStore
from texallon.store.tables import FileRow, RevisionRow

NEEDED = {"TEXALLON_DATA": "/data", "TEXALLON_DATABASE": "postgresql://h/d", "TEXALLON_PORT": "8460"}
SECRET = "a secret of the proxy"


def read(**given: str) -> Settings:
    return Settings.from_environment(NEEDED | {f"TEXALLON_{name}": value for name, value in given.items()})


def test_without_settings_it_is_loopback_alone() -> None:
    settings = read()
    assert settings.address == "127.0.0.1"
    assert set(settings.hosts) == {"127.0.0.1:8460", "localhost:8460", "[::1]:8460"}
    assert (settings.origins, settings.base_path, settings.proxy_secret) == ((), "", "")


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"ADDRESS": "0.0.0.0"}, "TEXALLON_PROXY_SECRET"),
        ({"ADDRESS": "::"}, "can be reached by others"),
        ({"ADDRESS": "192.168.1.7"}, "stay on 127.0.0.1"),
        ({"ADDRESS": "studio.example"}, "it is a number such as"),
        ({"ADDRESS": "0.0.0.0", "PROXY_SECRET": "short"}, "has 5 characters; it needs 16"),
        ({"PROXY_SECRET": "line\nand another line"}, "ASCII letters and digits"),
        ({"BASE_URL": "studio.example"}, "it is written https://HOST"),
        ({"BASE_URL": "ftp://studio.example"}, "it is written https://HOST"),
        ({"BASE_URL": "https://a:b@studio.example"}, "it is written https://HOST"),
        ({"ORIGINS": "https://one.example,two.example"}, "“two.example”; an origin is written"),
        ({"ORIGINS": "https://one.example/path"}, "without a path"),
        ({"PORT": "0"}, "TEXALLON_PORT is “0”; it is a whole number from 1 to 65535"),
        ({"PORT": "²"}, "a whole number"),
        ({"RENDER_PROCESSES": "0"}, "from 1 to 64"),
        ({"RENDER_MEMORY": "8GB"}, "TEXALLON_RENDER_MEMORY is “8GB”"),
        ({"QUOTA_SHOTS": "-1"}, "a whole number from 0"),
        ({"QUOTA_FILES": "9" * 5000}, "a whole number"),
    ],
)
def test_a_setting_that_can_not_be_used_is_named(given: dict[str, str], words: str) -> None:
    with pytest.raises(SettingsError, match=words):
        read(**given)


@pytest.mark.parametrize("address", ["127.0.0.1", "127.8.9.1", "::1"])
def test_other_loopback_addresses_need_no_secret(address: str) -> None:
    assert read(ADDRESS=address).address == address


def test_a_base_url_is_a_host_an_origin_and_a_path() -> None:
    settings = read(
        BASE_URL="https://studio.example:8443/looks/", HOSTS="inside:8460, other", ORIGINS="https://other.example"
    )
    assert settings.base_path == "/looks"
    assert settings.origins == ("https://studio.example:8443", "https://other.example")
    assert settings.hosts[-3:] == ("studio.example:8443", "inside:8460", "other")


def test_the_gate_lets_in_what_the_settings_name_and_nothing_else() -> None:
    gate = Gate(("a:1",), ("https://b",), SECRET)
    secret = {"texallon-proxy-secret": SECRET}
    assert gate.refuses({"host": "a:1", **secret}) is None
    assert gate.refuses({"host": "a:1", "origin": "https://b", **secret}) is None
    for headers, status in (
        ({"host": "a:1"}, 403),
        ({"host": "a:1", "texallon-proxy-secret": SECRET + "x"}, 403),
        ({"host": "a:1", "texallon-proxy-secret": f"{SECRET},{SECRET}"}, 403),
        ({"host": "b", **secret}, 421),
        ({"host": "a:1", "origin": "http://b", **secret}, 403),
        ({"host": "a:1", "sec-fetch-site": "cross-site", **secret}, 403),
    ):
        refused = gate.refuses(headers)
        assert refused is not None and refused[0] == status, headers
    forwarded = [(b"x-forwarded-for", b"6.6.6.6, 10.0.0.9")]
    assert gate.client("127.0.0.1", forwarded) == "10.0.0.9", "the last is the proxy's own word"
    assert Gate(("a:1",)).client("127.0.0.1", forwarded) == "127.0.0.1", "nobody's word without a secret"
    assert Gate(("a:1",)).user({"x-forwarded-user": "Mara"}) is None


def test_behind_a_proxy_below_a_path_with_its_login(world: World, fresh_shot: int) -> None:
    proxy = {
        "Texallon-Proxy-Secret": SECRET,
        "Host": "studio.example",
        "X-Forwarded-User": "Mara",
        "Texallon-Author": "somebody%20else",
    }
    settings = {
        "TEXALLON_ADDRESS": "0.0.0.0",
        "TEXALLON_PROXY_SECRET": SECRET,
        "TEXALLON_BASE_URL": "https://studio.example/looks",
        "TEXALLON_RENDER_PROCESSES": "2",
        "TEXALLON_RENDER_MEMORY": "4000000000",
    }
    other = world.store.add_shot(f"tests {uuid.uuid4().hex}", world.store.document(fresh_shot, 1), "")
    with serving(world, proxy, **settings) as server:
        direct = Server(server.port)
        for path in ("/", "/api/status", "/api/shots", f"/looks/api/shots/{fresh_shot}"):
            assert direct.ask("GET", path).status == 403, path
            assert server.ask("GET", path).status == 200, path
        assert server.ask("GET", "/looks/api/shots").json == server.ask("GET", "/api/shots").json
        page = server.ask("GET", "/looks/")
        assert b'src="./assets/' in page.body, "the page names its parts from where it lies"
        script = page.body.split(b'src="./')[1].split(b'"')[0].decode()
        assert server.ask("GET", f"/looks/{script}").status == 200
        assert server.ask("GET", "/looks").body == page.body, "sent on to where its parts are found"
        assert server.edit(fresh_shot, 1, {"op": "replace", "path": "/title", "value": "x"}).status == 200
        assert upload(server, fresh_shot, "ball.ply", painted_ball(0.3137)).status == 201
        assert _live(server, fresh_shot, None) is False
        assert _live(server, fresh_shot, "https://elsewhere.example") is False
        first = _window(server, fresh_shot)
        second = _window(server, other)
        try:
            for window in (first, second):
                window.send(
                    json.dumps(
                        {"do": "here", "serial": 0, "window": "abcdefgh", "author": "somebody else", "place": ""}
                    )
                )
                window.send(json.dumps(VIEW))
            for window in (first, second):
                _until(window, "picture")
            engines = server.ask("GET", "/api/status").json["engines"]
            assert len(set(engines)) == 2, "one for each shot"
        finally:
            first.close()
            second.close()
    with Session(world.engine) as session:
        authors = session.exec(select(FileRow.author).where(FileRow.name == "ball.ply")).all()
        chosen = select(RevisionRow.author).where(RevisionRow.shot_id == fresh_shot)
        revisions = session.exec(chosen.order_by(col(RevisionRow.number))).all()
    assert "Mara" in authors, "the login's name, not what the page says"
    assert revisions == ["", "Mara"]


VIEW: dict[str, Any] = {"do": "view", "serial": 1, "width": 96, "height": 54}


def _connect(server: Server, shot: int, origin: str | None) -> websocket.WebSocket:
    made = websocket.WebSocket()
    header = [f"{name}: {value}" for name, value in server.headers.items() if name != "Host"]
    made.connect(
        f"ws://127.0.0.1:{server.port}/looks/api/live/{shot}",
        header=header,
        host="studio.example",
        **({"origin": origin} if origin else {"suppress_origin": True}),
    )
    made.settimeout(90)
    return made


def _live(server: Server, shot: int, origin: str | None) -> bool:
    try:
        _connect(server, shot, origin).close()
    except websocket.WebSocketBadStatusException:
        return False
    return True


def _window(server: Server, shot: int) -> websocket.WebSocket:
    return _connect(server, shot, "https://studio.example")


def _until(window: websocket.WebSocket, kind: str) -> None:
    while True:
        code, data = window.recv_data()
        if code == websocket.ABNF.OPCODE_BINARY:
            length = int.from_bytes(data[:4], "little")
            data = data[4 : 4 + length]
        head = json.loads(data)
        assert head["kind"] != "problem", head
        if head["kind"] == kind:
            return


def test_open_windows_hear_of_a_backup_that_was_brought_back(world: World, server: Server, fresh_shot: int) -> None:
    live = websocket.create_connection(
        f"ws://127.0.0.1:{server.port}/api/live/{fresh_shot}", origin=server.address, timeout=60
    )
    try:
        assert server.edit(fresh_shot, 1, {"op": "replace", "path": "/title", "value": "x"}).status == 200
        (world.data / RESTORED).write_text("a backup")  # as `restore` does when it is done
        while not (message := json.loads(live.recv())).get("restored"):
            pass
        assert (message["kind"], message["shot"], message["revision"]) == ("revision", fresh_shot, 2)
    finally:
        live.close()


def test_quotas_refuse_by_name_and_change_nothing(world: World, fresh_shot: int) -> None:
    document = world.store.document(fresh_shot, 1)
    project = f"tests {uuid.uuid4().hex}"
    store = ShotStore(world.engine, Quotas(shots=2, files_of_one=2_000))
    store.add_shot(project, document, "")
    store.add_shot(project, document, "")
    with pytest.raises(QuotaError, match="may have 2 shots, and this one has 2"):
        store.add_shot(project, document, "")
    author = uuid.uuid4().hex
    with store.keeping_file(1_500, author):
        store.remember_file("a" * 32 + author, "a.ply", "ply", 1_500, author)
    with pytest.raises(QuotaError, match=f"files of {author} may take 0.0 MB"), store.keeping_file(501, author):
        raise AssertionError("not reached")
    with store.keeping_file(500, author):
        pass
    with store.keeping_file(2_000, uuid.uuid4().hex):
        pass
    # The same bytes brought in by another stay the first one's.
    store.remember_file("a" * 32 + author, "b.ply", "ply", 1_500, "another")
    with pytest.raises(QuotaError), store.keeping_file(501, author):
        raise AssertionError("not reached")


def test_a_quota_is_told_as_a_problem(world: World, fresh_shot: int) -> None:
    store, files = ShotStore(world.engine, Quotas(files=1_000)), FileStore(world.data / "files")
    pool = EnginePool(files.folder)
    settings = Settings(world.data, world.url, 1, ("localhost",))
    client = make_app(
        settings, pool, store, files, Windows(pool), Gate(settings.hosts), make_queue(settings, store)
    ).test_client()
    before = client.get("/api/shots").get_json()
    sent = {"mesh": (io.BytesIO(painted_ball(0.2718)), "ball.ply"), "object": "basin"}
    answer = client.post(f"/api/shots/{fresh_shot}/mesh", data=sent)
    assert (answer.status_code, answer.get_json()["title"]) == (403, "A quota is used up")
    assert "all files may take 0.0 MB" in answer.get_json()["detail"]
    assert client.get("/api/shots").get_json() == before
