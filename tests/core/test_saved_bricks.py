"""Bricks that another run has evaluated: the same picture to the bit, without evaluating anything."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, recipe, step
from tests.volumes import ball, volume_look, volume_shot
from texallon.core.derived import DerivedStore
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph

Arrays = dict[str, Any]
FILES = MadeFiles()


class Held:
    """A disk in memory."""

    def __init__(self) -> None:
        self.kept: dict[str, Arrays] = {}

    def load(self, key: str) -> Arrays | None:
        return self.kept.get(key)

    def keep(self, key: str, arrays: Any) -> None:
        self.kept[key] = dict(arrays)


def cloud(gain: float = 4.0) -> Any:
    density = {"recipe": recipe(step("noise", size=0.2, octaves=3), step("multiply", by=gain))}
    camera = {"position": [0, 0, 3], "target": [0, 0, 0], "focal_length": 300}
    return volume_shot(
        volume_look(density=density, volume_emission=0.3),
        objects=[ball()],
        camera=camera,
        sampling={"volume_detail": 2.0},
    )


def rendered(disk: Held, shot: Any) -> tuple[np.ndarray, int]:
    """The picture, and how many bricks were evaluated for it."""
    graph = FrameGraph(shot, FILES, DerivedStore(disk=disk))
    context = graph.context(48, 27)
    film = Film(48, 27, len(context.lights.names))
    for _ in range(2):
        film.add_sample(context)
    graph.filled.keep_on_disk()
    assert context.volumes is not None
    return film.picture(), context.volumes.fields[0].filled


def test_another_run_evaluates_nothing_and_gives_the_same_picture() -> None:
    disk = Held()
    first, evaluated = rendered(disk, cloud())
    again, more = rendered(disk, cloud())
    assert (first == again).all()
    assert evaluated > 100 and more < 0.1 * evaluated  # the coarsest level is filled as a field is made


def test_another_recipe_finds_nothing_there() -> None:
    disk = Held()
    _, evaluated = rendered(disk, cloud())
    other, more = rendered(disk, cloud(5.0))
    assert more > 0.5 * evaluated and len(disk.kept) == 2
    assert (other == rendered(Held(), cloud(5.0))[0]).all()


def broken(name: str, value: Any) -> Any:
    def change(arrays: Arrays) -> Arrays:
        changed = {each: array.copy() for each, array in arrays.items()}
        if value is None:
            del changed[name]
        elif callable(value):
            changed[name] = value(changed[name])
        else:
            changed[name].flat[0] = value
        return changed

    return change


@pytest.mark.parametrize(
    "change",
    [
        broken("values", None), broken("values", lambda each: each[:-1]), broken("values", lambda each: each.astype(np.float32)),
        broken("slots", 1 << 40), broken("slots", -3), broken("slots", lambda each: np.zeros_like(each)), broken("scales", np.nan),
    ],
)  # fmt: skip
def test_what_does_not_fit_is_not_taken(change: Any) -> None:
    disk = Held()
    first, evaluated = rendered(disk, cloud())
    disk.kept = {key: change(each) for key, each in disk.kept.items()}
    again, more = rendered(disk, cloud())
    assert (first == again).all() and more == evaluated


def test_only_as_much_is_saved_as_is_wanted() -> None:
    graph = FrameGraph(cloud(), FILES)
    context = graph.context(48, 27)
    Film(48, 27, len(context.lights.names)).add_sample(context)
    assert context.volumes is not None
    field = context.volumes.fields[0]
    assert len(field.save(10 * field.brick_bytes)["slots"]) == 10
    assert field.unsaved == 0
