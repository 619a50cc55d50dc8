"""First pictures of shots whose displaced bodies are made anew: of fewer faces, soon, and like the picture that follows."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, layer, look, recipe, shot, step, value
from tests.engine.driven import Driven
from texallon.core.derived import Access, DerivedStore
from texallon.core.document import shot_json
from texallon.core.document.resolved import resolve
from texallon.core.render.graph import FrameGraph
from texallon.core.render.quick_shapes import FEW, quick_shapes
from texallon.core.render.render_frame import render_frame

SWELL: dict[str, Any] = recipe(step("formula", expression="0.06 * sin(9 * position.x + 4 * time)"))
POND = {
    "name": "pond", "look": "water", "displacement": {"most": 0.5},
    "geometry": {"shape": "plane", "width": 4.0, "depth": 4.0, "segments": 300},
}  # fmt: skip
BOAT = {
    "name": "boat", "look": "plain", "geometry": {"shape": "box", "width": 0.5, "height": 0.3, "depth": 0.4},
    "position": [0.3, -0.1, 0.2], "floats": {"signal": "swell", "draught": 0.1},
}  # fmt: skip


def pond(*more: dict[str, Any], **of_pond: Any) -> Any:
    return shot(
        sampling={"samples": 3},
        frames={"first": 1, "last": 12, "rate": 24},
        camera={"position": [0.5, 1.4, 3.0], "target": [0, 0, 0]},
        looks=[
            look("water", layer("l", displacement={"recipe": SWELL})),
            look("plain", layer("l", base_color=value([0.6, 0.3, 0.1]))),
        ],
        signals=[{"name": "swell", "recipe": SWELL}],
        objects=[POND | of_pond, *more],
    )


def quick(document: Any, frame: float = 5) -> tuple[FrameGraph, FrameGraph | None]:
    graph = FrameGraph(resolve(document.document, frame), MadeFiles(ball=ball()))
    return graph, quick_shapes(graph)


def test_a_displaced_body_has_fewer_faces_until_it_is_made() -> None:
    graph, found = quick(pond(BOAT))
    assert found is not None
    mesh = found.scene.meshes[0]
    assert FEW / 2 < len(mesh.faces) <= FEW
    assert len(graph.scene.meshes[0].faces) == 2 * 300**2
    assert quick_shapes(graph) is None, "it is there now"


def test_what_floats_lies_in_the_same_place() -> None:
    graph, found = quick(pond(BOAT))
    assert found is not None
    own, quicker = (each.plans.places.object("boat") for each in (graph, found))
    assert (own == quicker).all() and own[1, 3] != pytest.approx(-0.1, abs=1e-4), "it floats"


@pytest.mark.parametrize("frame", [1, 7, 12])
def test_it_looks_like_the_body_itself(frame: int) -> None:
    graph, found = quick(pond(), frame)
    assert found is not None
    soon, own = (
        render_frame(each.shot, each.files, 96, 54, 16, 2).picture().astype(np.float64) for each in (found, graph)
    )
    tiles = [each.reshape(6, 9, 6, 16, 3).mean(axis=(1, 3)) for each in (soon, own)]
    # Left flat it would differ by 3 % and 0.8 %, with 12 cells across by 1.2 % and 0.3 %.
    assert np.abs(tiles[0] - tiles[1]).max() < 0.01 * tiles[1].mean()
    assert tiles[0].mean() == pytest.approx(tiles[1].mean(), rel=0.001)


@pytest.mark.parametrize(
    ("document", "why"),
    [
        (pond(geometry={"shape": "plane", "segments": 100}), "few faces"),
        (pond(displacement=None), "nothing moves it"),
        (pond({"name": "reeds", "look": "plain", "geometry": {"shape": "cone"}, "array": {"along": "surface", "object": "pond"}}), "others stand on it"),
        (pond(geometry={"file": "ball"}), "its faces are its file's"),
    ],
)  # fmt: skip
def test_it_keeps_its_faces_where(document: Any, why: str) -> None:
    assert quick(document)[1] is None, why


def test_divided_bodies_are_divided_less() -> None:
    _, found = quick(pond(geometry={"file": "ball"}, subdivision={"levels": 4}))
    assert found is not None
    subdivision = next(item.subdivision for item in found.shot.objects if item.name == "pond")
    assert subdivision is not None and subdivision.levels < 4


def first_picture(session: Driven) -> dict[str, Any]:
    session.sent.clear()
    while not any(head["kind"] == "picture" for head in session.sent):
        session.advance(lambda: False)
    return next(head for head in session.sent if head["kind"] == "picture")


def meshes_made(store: DerivedStore) -> list[int]:
    """The bytes of each displaced mesh, as they are made from now on."""
    made: list[int] = []

    def note(access: Access) -> None:
        if access.kind == "displaced mesh" and not access.reused:
            made.append(access.bytes)

    store.listen(note)
    return made


def test_a_channel_alone_is_seen_before_its_water_is_made() -> None:
    session = Driven(MadeFiles())
    session.change({"do": "document", "document": shot_json(pond().document), "revision": 1})
    shown = {"kind": "channel", "look": "water", "channel": "displacement"}
    session.change({"do": "view", "width": 96, "height": 54, "frame": 3, "show": shown})
    made = meshes_made(session.values)
    assert first_picture(session)["stage"] == "coarse" and len(made) == 1
    session.run()
    assert len(made) == 2 and made[1] > 3 * made[0]


def test_the_stage_shows_another_frame_before_its_water_is_made_and_then_the_water() -> None:
    session = Driven(MadeFiles())
    session.change({"do": "document", "document": shot_json(pond().document), "revision": 1})
    session.change({"do": "view", "width": 96, "height": 54, "frame": 3})
    session.run()
    finished = session.light
    made = meshes_made(session.values)
    session.change({"do": "view", "width": 96, "height": 54, "frame": 9})
    first = first_picture(session)
    assert first["stage"] == "coarse" and not first["finished"] and first["samples"] == 1
    assert len(made) == 1, "only with few faces"
    session.run()
    assert len(made) == 2 and made[1] > 3 * made[0]
    assert next(head for head in reversed(session.sent) if head["kind"] == "picture")["finished"]
    session.change({"do": "view", "width": 96, "height": 54, "frame": 3})
    session.sent.clear()
    session.run()
    assert len(made) == 2, "frame 3 is still there"
    assert finished is not None and session.light is not None and (session.light == finished).all()
