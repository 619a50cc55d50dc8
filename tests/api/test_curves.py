"""What tracks give over the frames of a shot, saved and in hand, through the server."""

import uuid
from typing import Any

import pytest

from tests.builders import document
from tests.conftest import Server, World


def keys(*pairs: tuple[float, float], **more: Any) -> list[dict[str, Any]]:
    return [{"frame": frame, "value": value, **more} for frame, value in pairs]


FRAMES = {"first": 1, "last": 5, "rate": 10}
TRACK = {"at": "/camera/focal_length", "keys": keys((1, 20), (3, 40), (5, 20), interpolation="linear")}


def test_a_shots_tracks_are_told_frame_by_frame(server: Server, world: World) -> None:
    shot = world.store.add_shot(f"curves {uuid.uuid4().hex}", document(frames=FRAMES, tracks=[TRACK]), "test")
    found = server.ask("GET", f"/api/shots/{shot}/curves").json
    assert (found["revision"], found["first"], found["step"]) == (1, 1, 1)
    (curve,) = found["curves"]
    assert curve["at"] == TRACK["at"]
    assert curve["values"] == pytest.approx([20, 30, 40, 30, 20])
    # 10 mm a frame at 10 frames a second; after the last key it holds.
    assert curve["speeds"] == pytest.approx([100, 100, -100, -100, 0], abs=1e-3)
    assert len(curve["slopes"]) == 3 and curve["fastest"] == 2.5 * 20


def test_tracks_in_hand_are_told_too_but_not_such_as_stand_out_of_order(server: Server) -> None:
    tracks = [
        TRACK | {"id": "a"},
        {"id": "b", "at": "/camera/focal_length", "keys": keys((3, 1), (1, 2))},
        {"id": "c", "at": "/camera/focal_length", "formula": "1 / 0"},
    ]
    found = server.ask("POST", "/api/curves", {"frames": FRAMES, "tracks": tracks}).json
    assert [each["id"] for each in found["curves"]] == ["a"]
    assert found["curves"][0]["values"] == pytest.approx([20, 30, 40, 30, 20])
    many = server.ask("POST", "/api/curves", {"frames": FRAMES, "tracks": [TRACK] * 201})
    assert many.status == 422 and many.json["problems"][0]["pointer"].endswith("tracks")
    long = {"first": 1, "last": 10_000_000, "rate": 24}
    far = server.ask("POST", "/api/curves", {"frames": long, "tracks": [TRACK]})
    assert far.status == 422 or len(far.json["curves"][0]["values"]) <= 2000


def test_a_movement_by_hand_comes_back_as_keys(server: Server) -> None:
    frames = list(range(1, 25))
    moved = {"frames": frames, "values": [[0.1 * each, 5.0] for each in frames], "smooth": 0}
    found = server.ask("POST", "/api/recordings", moved).json
    assert [[(key["frame"], round(key["value"], 6)) for key in axis] for axis in found["keys"]] == [
        [(1, 0.1), (24, 2.4)],
        [],
    ]
    wrong = (
        {**moved, "values": moved["values"][1:]},
        {**moved, "frames": frames[::-1]},
        {**moved, "frames": [1]},
        {**moved, "values": [[0.0]] * 23 + [[0.0, 1.0]]},
        {**moved, "values": [["x"]] * 24},
        {**moved, "smooth": -1},
    )
    for each in wrong:
        assert server.ask("POST", "/api/recordings", each).status == 422
