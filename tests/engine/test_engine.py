"""The render process: what it sends, how fast it lets go, and that it comes back."""

import os
import queue
import signal
import time
from collections.abc import Callable, Iterator
from typing import Any

import pytest

from tests.conftest import World
from tests.engine.driven import MESSAGES
from texallon.engine.link import EngineLink
from texallon.messages.to_engine import OpenSession, SnapshotQuestion

pytestmark = pytest.mark.slow

PICTURE = {"kind": "picture"}
MASK = {"kind": "mask", "look": "basin stone", "recipe": "/looks/0/layers/1/where"}
BENCH = {"look": "basin stone", "recipe": "/looks/0/layers/1/where"}
START = "/looks/0/layers/1/where/steps/1/params/from_start"


class Page:
    """A window as the engine sees it."""

    def __init__(self, link: EngineLink, name: str, document: dict[str, Any], revision: int = 1) -> None:
        self.link, self.name, self.serial = link, name, 0
        self.arrived: queue.Queue[tuple[float, dict[str, Any], bytes]] = queue.Queue()
        link.open(
            OpenSession(do="open", session=name, shot=1, document=document, revision=revision),
            lambda head, body: self.arrived.put((time.perf_counter(), head, body)),
        )

    def tell(self, **message: Any) -> float:
        self.serial += 1
        self.link.said(self.name, MESSAGES.validate_python({**message, "serial": self.serial}))
        return time.perf_counter()

    def view(self, show: dict[str, Any] = PICTURE, width: int = 320, height: int = 180) -> float:
        return self.tell(do="view", width=width, height=height, show=show, bench=BENCH)

    def set(self, path: str, value: Any) -> float:
        return self.tell(do="preview", patch=[{"op": "replace", "path": path, "value": value}])

    def wait(
        self, kind: str, test: Callable[[dict[str, Any]], bool] = lambda head: True
    ) -> tuple[float, dict[str, Any], bytes]:
        until = time.monotonic() + 90
        while True:
            when, head, body = self.arrived.get(timeout=max(until - time.monotonic(), 0.01))
            if head["kind"] == kind and test(head):
                return when, head, body


@pytest.fixture(scope="module")
def link(world: World) -> Iterator[EngineLink]:
    made = EngineLink(world.data / "files")
    made.start()
    made.wake()
    yield made
    made.stop()


@pytest.fixture
def page(link: EngineLink, world: World, request: pytest.FixtureRequest) -> Iterator[Page]:
    opened = Page(link, request.node.name, world.store.document(1, 1))
    yield opened
    link.close(opened.name)


def test_a_picture_comes_coarse_then_fine(page: Page) -> None:
    page.view()
    stages = []
    while not stages or stages[-1] != "full":
        _, head, body = page.wait("picture")
        assert body[:2] == b"\xff\xd8", "a JPEG"
        assert head["revision"] == 1
        stages.append(head["stage"])
    assert stages == ["coarse", "half", "full"]
    handle = head["handles"][0]
    assert handle["name"] == "waterline"
    assert handle["axes"]["y"][1] < 0, "a metre up goes up in the picture"


def test_the_open_recipe_is_measured_step_by_step(page: Page) -> None:
    page.view()
    _, head, _ = page.wait("bench")
    height, ranged, wet = head["steps"]
    assert height["incoming"] is None
    assert height["values"]["low"] == pytest.approx(-0.83, abs=0.02), "the foot, seen from the waterline"
    assert ranged["incoming"] == height["values"]
    assert 0 <= ranged["values"]["low"] <= ranged["values"]["high"] <= 1
    assert sum(wet["values"]["counts"]) == wet["values"]["count"] > 1000
    _, sheet, _ = page.wait("sheet")
    assert {"1/where", "1/base_color", "0/base_color", "2/specular_weight"} <= set(sheet["cells"])


def test_a_mask_alone_is_found_under_water_too(page: Page) -> None:
    page.view({"kind": "mask", "look": "basin stone", "recipe": "/looks/0/layers/2/where"})
    page.tell(
        do="view",
        width=320,
        height=180,
        show=PICTURE,
        bench={"look": "basin stone", "recipe": "/looks/0/layers/2/where"},
    )
    _, head, _ = page.wait("bench", lambda each: each["recipe"] == "/looks/0/layers/2/where")
    assert head["steps"][-1]["covered"] > 0.1


def test_a_change_reaches_only_what_it_touches(page: Page) -> None:
    page.view()
    page.wait("sheet")
    page.set(START, 0.2)
    _, sheet, _ = page.wait("sheet")
    assert "1/where" in sheet["cells"]
    assert "0/base_color" not in sheet["cells"], "the stone's colour has not changed and is not drawn again"


def test_an_edit_interrupts_the_running_picture(page: Page) -> None:
    """The old picture must be dropped, not finished: nothing with the old serial may follow long after the edit."""
    page.view(width=960, height=540)
    page.wait("picture", lambda head: head["stage"] == "full")
    late = []
    for number in range(8):
        edited = page.set(START, 0.3 - 0.01 * number)
        when, head, _ = page.wait("picture", lambda each: each["serial"] == page.serial)
        late.append(when - edited)
        assert head["stage"] == "coarse"
    assert sorted(late)[len(late) // 2] < 1.0, "far less than one 960×540 sample takes"


def test_a_document_that_can_not_be_drawn_is_reported(page: Page) -> None:
    page.view()
    page.wait("picture")
    page.set("/looks/0/layers/1/where/steps/1/params/ease", "bouncy")
    _, head, _ = page.wait("problem")
    assert head["problems"][0]["pointer"] == "/looks/0/layers/1/where/steps/1/params/ease"
    page.tell(do="preview", patch=[])
    page.wait("picture", lambda each: each["serial"] == page.serial)


def test_a_camera_is_moved_and_handed_back_to_be_saved(page: Page) -> None:
    page.view()
    page.tell(do="camera", move="orbit", across=0.1, down=0.0, end=True)
    _, head, _ = page.wait("camera")
    before = page.link._state[page.name]["open"].document["camera"]
    assert head["camera"]["position"] != before["position"]
    assert head["camera"]["target"] == before["target"]


def test_a_snapshot_is_the_picture_that_is_shown(page: Page) -> None:
    assert (
        page.link.ask(lambda reply: SnapshotQuestion(do="snapshot", session=page.name, reply=reply))[0]["ready"]
        is False
    )
    page.view()
    page.wait("picture", lambda head: head["stage"] == "full")
    head, body = page.link.ask(lambda reply: SnapshotQuestion(do="snapshot", session=page.name, reply=reply))
    assert head["ready"]
    assert head["revision"] == 1
    assert body[:8] == b"\x89PNG\r\n\x1a\n"


def test_two_windows_share_the_engine(link: EngineLink, world: World) -> None:
    pages = [Page(link, name, world.store.document(1, 1)) for name in ("left", "right")]
    for page in pages:
        page.view()
    for page in pages:
        page.wait("picture", lambda head: head["stage"] == "full")
        link.close(page.name)


def test_a_killed_engine_comes_back_with_its_windows(link: EngineLink, page: Page) -> None:
    page.view(MASK)
    page.wait("picture")
    victim = link.process_id
    assert victim is not None
    os.kill(victim, signal.SIGKILL)
    page.wait("engine", lambda head: head["state"] == "restarting")
    _, head, _ = page.wait("picture")
    assert head["show"]["kind"] == "mask", "it shows again what it showed before"
    assert link.process_id != victim


def test_a_point_is_read_and_stays_pinned_while_editing(page: Page) -> None:
    page.view()
    page.tell(do="read", across=0.5, down=0.62)
    _, head, _ = page.wait("reading")
    reading = head["reading"]
    assert reading["look"] == "basin stone"
    assert [layer["name"] for layer in reading["layers"]] == ["stone", "wet", "below water"]
    assert reading["at"] == pytest.approx([0.5, 0.62], abs=0.01)
    wet = reading["layers"][1]
    assert [each["op"] for each in wet["mask"]] == ["height", "remap", "multiply"]
    assert sum(each["decided"] for each in wet["mask"]) == 1
    page.set(START, -5.0)
    _, head, _ = page.wait("reading", lambda head: head["serial"] == page.serial)
    changed = head["reading"]["layers"][1]["mask"]
    assert changed[0]["value"] == wet["mask"][0]["value"], "the same point"
    assert changed[1]["value"] != wet["mask"][1]["value"], "read anew"
    page.tell(do="camera", move="orbit", across=0.1, down=0.0, end=False)
    _, head, _ = page.wait("reading", lambda head: head["serial"] == page.serial)
    assert head["reading"]["position"] == reading["position"]
    assert head["reading"]["at"] != pytest.approx(reading["at"], abs=0.01), "it has moved in the picture"
    page.tell(do="read", across=None, down=None)
    _, head, _ = page.wait("reading", lambda head: head["serial"] == page.serial)
    assert head["reading"] is None


def test_the_sky_gives_no_reading(page: Page) -> None:
    page.tell(do="preview", patch=[{"op": "replace", "path": "/camera/target", "value": [0, 9, 0]}])
    page.view()
    page.tell(do="read", across=0.5, down=0.01)
    _, head, _ = page.wait("reading")
    assert head["reading"] is None
    assert head["missed"]


def test_advice_comes_when_the_hand_rests_and_follows_edits(page: Page) -> None:
    page.view()
    _, head, _ = page.wait("advice")
    assert [item for item in head["items"] if item["severity"] == "error"] == []
    page.tell(
        do="preview",
        patch=[
            {"op": "replace", "path": START, "value": 9.0},
            {"op": "replace", "path": START.replace("start", "end"), "value": 8.0},
        ],
    )
    _, head, _ = page.wait("advice", lambda head: head["serial"] == page.serial)
    found = next(item for item in head["items"] if item["rule"] == "range misses")
    assert found["where"] == "wet · where"
    assert found["address"].endswith("/where")
    assert found["step"] == 1
    assert found["fix"]["patch"][0]["path"] == START


def test_advice_is_given_anew_when_limits_change(page: Page) -> None:
    # A fix that allows more passes must take its own entry away.
    page.view()
    page.wait("advice")
    for passes, said in ((0, True), (16, False)):
        page.tell(do="preview", patch=[{"op": "add", "path": "/limits", "value": {"transmission": passes}}])
        _, head, _ = page.wait("advice", lambda head: head["serial"] == page.serial)
        assert ("too few turns" in {item["rule"] for item in head["items"]}) == said


def test_a_signal_alone_says_what_its_tones_stand_for(page: Page) -> None:
    height = {**MASK, "kind": "step", "step": 0, "style": "lines"}
    page.view(height)
    _, head, body = page.wait("picture")
    assert head["show"]["style"] == "lines"
    assert head["range"]["low"] < 0 < head["range"]["high"]
    assert head["range"]["step"] > 0
    assert head["scale"].startswith("data:image/jpeg")
    page.view({**MASK, "style": "grey"})
    _, head, other = page.wait("picture", lambda head: head["serial"] == page.serial)
    assert (head["range"]["low"], head["range"]["high"]) == (0, 1)
    assert body != other
    page.view()
    _, head, _ = page.wait("picture", lambda head: head["serial"] == page.serial)
    assert head["range"] is None


def test_another_frame_is_another_moment(page: Page) -> None:
    def shown() -> bytes:
        # Whole, with smooth edges: whether these come at once depends on what is kept.
        return page.wait("picture", lambda head: head["serial"] == page.serial and head["stage"] == "full")[2]

    moving = {"op": "add", "path": "/signals/0/recipe/steps/0/params/speed", "value": 2.0}
    page.view(MASK)
    page.tell(do="preview", patch=[moving])
    first = shown()
    page.tell(do="view", width=320, height=180, show=MASK, bench=BENCH, frame=13)
    assert first != shown()
    page.tell(do="view", width=320, height=180, show=MASK, bench=BENCH, frame=1)
    assert first == shown(), "and back is the same picture to the last bit"


def test_what_a_step_does_to_values_is_measured(page: Page) -> None:
    page.view()
    _, head, _ = page.wait("bench")
    height, remap, multiply = head["steps"]
    assert height["response"] is None
    response = remap["response"]
    assert response["low"] <= remap["incoming"]["low"]
    assert response["high"] >= 0.35
    assert (max(response["values"]), min(response["values"])) == (1, 0)
    assert multiply["response"] is None, "it depends on the point"


def test_a_formula_that_can_not_be_read_is_pointed_at(page: Page) -> None:
    page.view()
    page.wait("picture")
    bad = {"op": "replace", "path": "/looks/0/layers/1/where/steps/0", "value": {"op": "formula", "params": {"expression": "1 + foo"}}}  # fmt: skip
    page.tell(do="preview", patch=[bad])
    _, head, _ = page.wait("problem")
    (problem,) = head["problems"]
    assert problem["pointer"] == "/looks/0/layers/1/where/steps/0/params/expression"
    assert problem["character"] == 4
