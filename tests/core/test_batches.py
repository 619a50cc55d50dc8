"""How work is divided: a picture must not depend on it."""

import os
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, layer, look, recipe, shot, square, step, value
from texallon.core.render.film import film as film_module
from texallon.core.render.film.film import LEAST, Film, batch_size
from texallon.core.render.render_frame import make_context
from texallon.core.render.transport.paths import Paths, camera_paths
from texallon.core.shade.media.nesting import FIELDS, NESTED


def test_all_threads_get_equal_parts_to_the_end() -> None:
    for count in (5000, 57_600, 230_400, 921_600, 8_294_400):
        for threads in (1, 2, 3, 16):
            size = batch_size(count, 65_536, threads)
            parts = -(-count // size)
            assert size <= 65_536 and size * parts >= count
            assert parts % threads == 0 or size == LEAST, (count, threads)


def test_few_paths_are_not_divided_among_many_threads() -> None:
    assert batch_size(900, 12_288, 64) == LEAST


BUMPY = layer(
    "b",
    base_color={"recipe": recipe(step("noise", octaves=3, size=0.3), step("ramp"))},
    bump={"recipe": recipe(step("noise", size=0.1), step("multiply", by=0.01))},
    coat_weight=value(0.5),
)
GLASS = layer("g", transmission_weight=value(1.0), specular_roughness=value(0.1), geometry_opacity=value(0.8))
SCENE = {
    "camera": {"position": [0, 2, 4], "target": [0, 0.5, 0]},
    "lights": [{"name": "l", "shape": "sphere", "width": 0.5, "position": [2, 3, 1], "target": [0, 0, 0], "power": 60}],
    "objects": [
        {"name": "floor", "geometry": {"file": "floor"}, "look": "bumpy"},
        {"name": "ball", "geometry": {"file": "ball"}, "look": "glass", "position": [0, 0.6, 0]},
    ],
    "looks": [look("bumpy", BUMPY), look("glass", GLASS)],
}
FILES = MadeFiles(floor=square(8), ball=ball(0.5, 24))


@pytest.mark.parametrize(("most", "threads"), [(2048, 1), (2048, 2), (65_536, 1)])
def test_parts_of_any_size_on_any_threads_give_the_same_picture(
    monkeypatch: pytest.MonkeyPatch, most: int, threads: int
) -> None:
    context = make_context(shot(**SCENE), FILES, 96, 72)
    plain = Film(96, 72)
    plain.add_sample(context)
    monkeypatch.setattr(film_module, "FINAL_BATCH", most)
    other = Film(96, 72)
    with ThreadPoolExecutor(threads) as pool:
        other.add_sample(context, pool)
    # Sums within a pixel are the same; only the last places of vector arithmetic may depend on a chunk's end.
    assert np.abs(other.picture() - plain.picture()).max() <= 1e-5 * plain.picture().max()


def some_paths(count: int, nested: bool) -> Paths:
    rng = np.random.default_rng(0)
    origin, direction = rng.random((2, 3, count), np.float32)
    media = np.zeros((NESTED * FIELDS if nested else 0, 1), np.float32)
    made = camera_paths(np.arange(count, dtype=np.int32), origin, direction, 0.01, media, nested)
    for each in made[:-2]:
        each[...] = rng.integers(0, 1000, each.shape)
    return made


@pytest.mark.parametrize("nested", [False, True])
def test_paths_at_some_places_are_those_of_each_array(nested: bool) -> None:
    paths = some_paths(50, nested)
    chosen = np.array([3, 4, 17, 49])
    taken = paths.take(chosen)
    for name, before, after in zip(Paths._fields[:-2], paths[:-2], taken[:-2], strict=True):
        assert np.array_equal(after, before[..., chosen]), name
        assert after.dtype == before.dtype and after.flags.c_contiguous
    assert taken.media is paths.media and taken.walk is paths.walk, "looked up by slot"


def test_paths_joined_again_are_the_paths_that_were_parted() -> None:
    paths = some_paths(20, True)
    both = paths.take(np.arange(8)).join(paths.take(np.arange(8, 20)))
    for before, after in zip(paths, both, strict=True):
        assert np.array_equal(before, after)


@pytest.mark.skipif(not hasattr(os, "fork"), reason="processes are forked on POSIX only")
def test_a_forked_process_has_workers_of_its_own() -> None:
    program = """
import os
from texallon.core.render.workers import workers
assert list(workers().map(abs, [-1, -2])) == [1, 2]
child = os.fork()
if child == 0:
    os._exit(0 if list(workers().map(abs, [-3])) == [3] else 1)
raise SystemExit(os.waitpid(child, 0)[1])
"""
    done = subprocess.run([sys.executable, "-W", "ignore", "-c", program], timeout=60, check=False)
    assert done.returncode == 0
