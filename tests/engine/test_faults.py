"""What goes wrong in one window stays there: told with a number, tried again, set aside; others notice nothing."""

import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

from tests.builders import MadeFiles, document, square
from tests.engine.driven import MESSAGES, Driven
from texallon.engine import link as link_module
from texallon.engine.link import EngineLink
from texallon.engine.tasks.advice_task import AdviceOnShot
from texallon.messages.to_engine import NewDocument, OpenSession

VIEW = {"do": "view", "serial": 1, "width": 32, "height": 18, "show": {"kind": "picture"}}
SHOWN = [{"name": "floor", "geometry": {"file": "floor"}, "look": "plain"}]


def made(title: str = "") -> dict[str, Any]:
    return document(title=title, objects=SHOWN)


@pytest.fixture
def session() -> Driven:
    begun = Driven(MadeFiles(floor=square()))
    begun.change({"do": "document", "document": made(), "revision": 1})
    begun.change(VIEW)
    return begun


def faults(session: Driven) -> list[dict[str, Any]]:
    return [each for each in session.sent if each["kind"] == "fault"]


def test_an_unforeseen_error_is_told_with_a_number_tried_again_and_set_aside(
    session: Driven, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    def fails(*_: object) -> None:
        raise ZeroDivisionError("nobody thought of this")

    monkeypatch.setattr("texallon.engine.session.resolve", fails)
    for _ in range(3):
        assert not session.idle
        session.advance(lambda: False)
    assert session.idle, "set aside"
    told = faults(session)
    assert [each["again"] for each in told] == [1.0, 4.0, None]
    assert len({each["number"] for each in told}) == 3
    for each in told:
        assert each["number"] in caplog.text
    assert "nobody thought of this" in caplog.text
    # Something is changed: it is tried again, and works.
    monkeypatch.undo()
    session.change({"do": "document", "document": made("other"), "revision": 2})
    assert not session.idle
    session.run()
    assert any(each["kind"] == "picture" and each["revision"] == 2 for each in session.sent)
    assert len(faults(session)) == 3


def test_a_part_that_fails_does_not_keep_the_picture_away(session: Driven, monkeypatch: pytest.MonkeyPatch) -> None:
    def fails(*_: object) -> None:
        raise RecursionError

    monkeypatch.setattr(AdviceOnShot, "step", fails)
    session.run()
    assert any(each["kind"] == "picture" for each in session.sent)
    assert [each["again"] for each in faults(session)] == [1.0, 4.0, None], "it is not tried for ever"
    assert session.idle


@pytest.mark.parametrize(
    "message",
    [
        {"do": "read", "across": 0.5},
        {"do": "read", "down": 0.5},
        {"do": "camera", "move": "dolly", "down": -2000.0},
        {"do": "camera", "move": "orbit", "across": 1e300},
        {"do": "view", "width": 32, "height": 18, "frame": 10**400},
        {"do": "view", "width": 32, "height": 18, "bench": {"look": "plain", "recipe": ["looks"]}},
    ],
)
def test_messages_that_ended_the_process_once_are_refused(message: dict[str, Any]) -> None:
    with pytest.raises(ValueError, match="validation error"):
        MESSAGES.validate_python(message)


def nested(levels: int) -> Any:
    value: Any = 1
    for _ in range(levels):
        value = {"steps": [value]}
    return value


@pytest.mark.parametrize(
    "value",
    [nested(900), 10**400, 5e-324, "a\0b", "\ud800", [0] * 500_000, {"x": float("nan")}],
    ids=["nested", "huge", "tiny", "nul", "surrogate", "many", "nan"],
)
@pytest.mark.parametrize(
    "path", ["/title", "/frames/first", "/looks/0/layers/0/channels", "/objects/0/scale", "/camera/focal_length"]
)
def test_hostile_values_that_are_tried_out_are_problems_and_no_faults(session: Driven, path: str, value: Any) -> None:
    session.run(20)
    session.change({"do": "preview", "serial": 2, "patch": [{"op": "add", "path": path, "value": value}]})
    session.run(20)
    assert faults(session) == []
    assert any(each["kind"] == "problem" for each in session.sent)
    session.change({"do": "preview", "serial": 3, "patch": []})
    session.run(20)
    assert session.sent[-1]["kind"] != "problem"


def test_a_camera_never_leaves_the_bounds_of_a_document(session: Driven) -> None:
    for move in ("orbit", "pan", "dolly", "fly"):
        for _ in range(30):
            for across, down in ((100, -100), (-100, -100), (0, -100)):
                session.change({"do": "camera", "move": move, "across": across, "down": down, "end": True})
                session.run(3)
                moved = [each for each in session.sent if each["kind"] == "camera"]
                if moved:
                    held = {**made(), "camera": moved[-1]["camera"]}
                    session.change({"do": "document", "document": held, "revision": 1})
    assert faults(session) == []
    assert not any(each["kind"] == "problem" for each in session.sent)


# The process --------------------------------------------------------------------------------------------------------


class Heard:
    """What the windows of a link are told."""

    def __init__(self, link: EngineLink) -> None:
        self.link, self.told = link, dict[str, list[dict[str, Any]]]()
        self.news = threading.Condition()

    def open(self, name: str, title: str) -> None:
        self.told[name] = []
        opened = OpenSession(do="open", session=name, shot=1, document=made(title), revision=1)

        def listen(head: dict[str, Any], body: bytes) -> None:
            with self.news:
                self.told[name].append(head)
                self.news.notify_all()

        self.link.open(opened, listen)
        self.link.said(name, MESSAGES.validate_python(VIEW))

    def until(self, true: Callable[[], bool], what: str) -> None:
        with self.news:
            assert self.news.wait_for(true, 60), what


@pytest.fixture
def heard(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[Heard]:
    monkeypatch.setattr(link_module, "LOOKS", 0.3)
    monkeypatch.setattr(link_module, "STUCK", 1.0)
    link = EngineLink(tmp_path, "tests.engine.faulty_engine")
    link.start()
    link.wake()
    yield Heard(link)
    link.stop()


def states(heard: Heard, name: str) -> list[str]:
    return [each["state"] for each in heard.told[name] if each["kind"] == "engine"]


@pytest.mark.parametrize("title", ["dies", "hangs"])
def test_a_window_that_ends_the_process_again_and_again_is_set_aside(heard: Heard, title: str) -> None:
    heard.open("bad", title)
    heard.until(lambda: states(heard, "bad")[-1:] == ["set aside"], "it is set aside")
    assert states(heard, "bad") == ["restarting", "restarting", "set aside"]
    assert heard.link.restarts == 3
    heard.open("good", "")

    def process_is_there() -> bool:
        return heard.link.process_id is not None

    heard.until(lambda: any(each["kind"] == "problem" for each in heard.told["good"]), "another window is worked for")
    assert process_is_there()
    # Something is changed in the first: it is tried once more.
    heard.link.new_document(NewDocument(do="document", session="bad", document=made(""), revision=2))
    heard.until(lambda: any(each["kind"] == "problem" for each in heard.told["bad"]), "and worked for again")
    assert heard.link.restarts == 3


def test_the_process_may_end_while_it_works_for_nobody(heard: Heard) -> None:
    heard.open("good", "")
    heard.until(lambda: any(each["kind"] == "problem" for each in heard.told["good"]), "worked for")
    for number in range(1, 6):
        process = heard.link._process
        assert process is not None
        process.kill()
        heard.until(lambda count=number: len(states(heard, "good")) >= count, "told")  # type: ignore[misc]
        end = time.monotonic() + 60
        while heard.link.process_id in (None, process.pid):
            assert time.monotonic() < end
            time.sleep(0.02)
    assert set(states(heard, "good")) == {"restarting"}
