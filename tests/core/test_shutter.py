"""What moves while a shutter is open, against the share of the time that it covers each place, worked out in closed form."""

from math import asin, degrees, pi
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, document, layer, look, recipe, step, value
from texallon.core.document import Shot, read_shot
from texallon.core.document.resolved import resolve
from texallon.core.document.shutter import Shutter
from texallon.core.geometry.mesh import make_mesh
from texallon.core.render.render_frame import FrameOptions, render_frame
from texallon.core.render.shutter import radical_inverse, shutter_times

pytestmark = pytest.mark.slow

SIZE = (96, 64)
ACROSS = 4.0
"""Metres that the camera sees from left to right at the origin."""

GLOWING = layer(
    "glow", base_weight=value(0.0), specular_weight=value(0.0), emission_luminance=value(1.0), emission_color=value([1.0, 1.0, 1.0])
)  # fmt: skip


def keys(at: str, *pairs: tuple[float, float]) -> dict[str, Any]:
    return {"at": at, "keys": [{"frame": f, "value": v, "interpolation": "linear"} for f, v in pairs]}


def moving(tracks: list[dict[str, Any]], angle: float = 360, offset: float = 0, **members: Any) -> Shot:
    """A glowing thing before black, seen straight on from ten metres; one metre is 24 pixels."""
    made: dict[str, Any] = {
        "frames": {"first": 1, "last": 48},
        "camera": {"position": [0, 0, 10], "target": [0, 0, 0], "focal_length": 36 * 10 / ACROSS, "film_width": 36},
        "objects": [{"id": "aa", "name": "thing", "geometry": {"file": "thing"}, "look": "glow"}],
        "looks": [look("glow", GLOWING)],
        "environment": {"colour": [0, 0, 0]},
        "shutter": {"on": True, "angle": angle, "offset": offset},
        "tracks": tracks,
    }
    return read_shot(document(**(made | members)))


def disc(radius: float, sides: int = 256) -> Any:
    turns = np.linspace(0, 2 * pi, sides, endpoint=False)
    rim = np.stack([radius * np.cos(turns), radius * np.sin(turns), 0 * turns], 1)
    faces = [[sides, k, (k + 1) % sides] for k in range(sides)]
    return make_mesh(np.vstack([rim, np.zeros(3)]), faces)


def card(width: float, height: float) -> Any:
    w, h = width / 2, height / 2
    return make_mesh([[-w, -h, 0], [w, -h, 0], [w, h, 0], [-w, h, 0]], [[0, 1, 2], [0, 2, 3]])


def seen(made: Shot, thing: Any, frame: float = 10, samples: int = 64, threads: int = 2) -> np.ndarray:
    film = render_frame(resolve(made, frame), MadeFiles(thing=thing), *SIZE, samples, threads)
    return film.picture()[:, :, 1]


def places() -> tuple[np.ndarray, np.ndarray]:
    """The middles of all pixels in metres at the origin, `(h, w)`."""
    width, height = SIZE
    x = (np.arange(width) + 0.5 - width / 2) * ACROSS / width
    y = -(np.arange(height) + 0.5 - height / 2) * ACROSS / width
    return np.meshgrid(x, y)


def test_times_are_even_and_within_the_interval() -> None:
    times = np.sort(shutter_times((3.0, 3.5), range(64), 9))
    assert times[0] >= 3.0 and times[-1] < 3.5
    assert np.allclose(np.diff(times), 0.5 / 64, rtol=1e-9)
    assert [radical_inverse(n) for n in (1, 2, 3, 6)] == [0.5, 0.25, 0.75, 0.375]


@pytest.mark.parametrize(
    ("angle", "offset", "interval"), [(180, 0, (9.75, 10.25)), (180, 90, (10, 10.5)), (360, -180, (9, 10)), (0, 0, (10, 10))]
)  # fmt: skip
def test_the_interval_follows_angle_and_offset(angle: float, offset: float, interval: tuple[float, float]) -> None:
    assert Shutter(on=True, angle=angle, offset=offset).interval(10) == pytest.approx(interval)
    assert Shutter(angle=angle, offset=offset).interval(10) == (10, 10)


@pytest.mark.parametrize("speed", [0.3, 1.0, 3.0])
@pytest.mark.parametrize(("angle", "offset"), [(180, 0), (90, 45), (360, 0)])
def test_a_moving_disc_covers_each_place_for_its_chord(speed: float, angle: float, offset: float) -> None:
    # A disc of radius r that moves at v covers a place at distance y from its way while |x − x(t)| < √(r² − y²).
    radius = 0.5
    made = moving([keys("/objects/aa/position/0", (1, -9 * speed), (19, 9 * speed))], angle, offset)
    x, y = places()
    opens, closes = Shutter(on=True, angle=angle, offset=offset).interval(10)
    chord = np.sqrt(np.maximum(radius**2 - y**2, 0))
    first, last = (x - chord) / speed + 10, (x + chord) / speed + 10
    covered = np.clip(np.minimum(last, closes) - np.maximum(first, opens), 0, None) / (closes - opens)
    picture = seen(made, disc(radius))
    # Pixels at the disc's upper and lower rim are covered in part.
    inside = np.abs(np.abs(y) - radius) > 2 * ACROSS / SIZE[0]
    assert np.abs(picture - covered)[inside].max() < 0.5 * ACROSS / SIZE[0] / (speed * (closes - opens)) + 3 / 64
    assert picture.mean() == pytest.approx(pi * radius**2 / (ACROSS * ACROSS * SIZE[1] / SIZE[0]), rel=0.01)


def test_a_spinning_rod_is_seen_for_the_angle_that_it_fills() -> None:
    # A rod of half width w that turns by φ covers a place at radius r for 2·asin(w/r) of φ.
    half, turn = 0.1, 120.0
    made = moving([keys("/objects/aa/rotation/2", (1, -9 * turn), (19, 9 * turn))])
    x, y = places()
    away, angle = np.hypot(x, y), np.degrees(np.arctan2(y, x))
    fills = 2 * np.degrees(np.arcsin(np.minimum(half / np.maximum(away, half), 1)))
    from_axis = np.minimum(np.abs(angle), 180 - np.abs(angle))
    well_within = (away > 0.3) & (away < 1.1) & (from_axis < turn / 2 - fills / 2 - 4)
    outside = (away > 0.3) & (away < 1.1) & (from_axis > turn / 2 + fills / 2 + 4)
    picture = seen(made, card(2.4, 2 * half), samples=256)
    assert well_within.sum() > 500 and outside.sum() > 100
    assert np.abs(picture - fills / turn)[well_within].max() < 0.035
    assert picture[outside].max() == 0
    # Placements move on curves: halfway between two positions a quarter turn apart the rod is as long as ever.
    assert picture[(away > 1.05) & (away < 1.15) & (from_axis < 10)].mean() == pytest.approx(
        degrees(2 * asin(half / 1.1)) / turn, rel=0.1
    )


def test_a_dolly_spreads_an_edge_by_how_far_it_moves_in_the_picture() -> None:
    # Towards a card of half width w from d₀ to d₁: its edge lies at w/(d·tan) of half the picture's width.
    half = 0.6
    made = moving(
        [keys("/camera/position/2", (1, 10 + 9 * 3), (19, 10 - 9 * 3))],
        objects=[{"id": "aa", "name": "thing", "geometry": {"file": "thing"}, "look": "glow"}],
    )
    picture = seen(made, card(2 * half, 8.0), samples=128)[SIZE[1] // 2]
    x, _ = places()
    aside = np.abs(x[SIZE[1] // 2])
    # At a distance d the edge is seen where aside = half · 10 / d; the shutter is open from 11.5 m to 8.5 m.
    distance = half * 10 / np.maximum(aside, 1e-6)
    covered = np.clip((distance - 8.5) / 3.0, 0, 1)
    assert np.abs(picture - covered).max() < 0.12
    assert picture.mean() == pytest.approx(covered.mean(), rel=0.01)


def test_a_camera_that_turns_blurs_what_stands() -> None:
    # Its target moves by 1 m at ten metres: a card of 0.5 m is spread over 1.5 m, in its middle there for half of the time.
    made = moving([keys("/camera/target/0", (1, -9), (19, 9))])
    picture = seen(made, card(0.5, 8.0))[SIZE[1] // 2]
    x, _ = places()
    assert picture[np.abs(x[0]) < 0.2].mean() == pytest.approx(0.5, abs=0.02)
    assert picture[np.abs(x[0]) > 0.8].max() == 0


def test_signals_of_looks_move_while_the_shutter_is_open() -> None:
    # Emission by a named number that grows from 0 to 2 over the interval: what is seen is its mean.
    glow = layer("glow", base_weight=value(0.0), specular_weight=value(0.0), emission_luminance={"recipe": recipe(step("formula", expression="frame - 9.5"))})  # fmt: skip
    made = moving([], looks=[look("glow", glow)])
    picture = seen(made, card(2.0, 2.0))
    assert picture[SIZE[1] // 2, SIZE[0] // 2] == pytest.approx(0.5, abs=0.02)


def test_a_surface_that_a_look_raises_is_blurred() -> None:
    # A wall seen from the side, pushed to the right by a look at 1 m a frame.
    push = layer("push", base_weight=value(0.0), specular_weight=value(0.0), emission_luminance=value(1.0),
                 displacement={"recipe": recipe(step("formula", expression="frame - 10"))})  # fmt: skip
    side = make_mesh([[0, -2, -1], [0, -2, 1], [0, 2, 1], [0, 2, -1]], [[0, 2, 1], [0, 3, 2]], [[1, 0, 0]] * 4)
    item = {"id": "aa", "name": "thing", "geometry": {"file": "thing"}, "look": "glow", "displacement": {"most": 1.0}}
    camera = {"position": [1, 0, 10], "target": [0, 0, 0], "focal_length": 90}
    made = moving([], looks=[look("glow", push)], objects=[item], camera=camera)
    still = read_shot(made.model_dump(mode="json", by_alias=True) | {"shutter": {"on": False}})
    blurred, sharp = (seen(each, side)[SIZE[1] // 2] > 0.02 for each in (made, still))
    assert blurred.sum() > 1.5 * sharp.sum() > 0


def test_what_does_not_blur_stands_as_at_the_frame_even_in_a_group_that_moves() -> None:
    item = {
        "id": "aa",
        "name": "thing",
        "geometry": {"file": "thing"},
        "look": "glow",
        "belongs_to": "cart",
        "rotation": [0, 0, 30],
    }
    members = {
        "object_groups": [{"id": "cc", "name": "cart", "rotation": [0, 0, 10]}],
        "objects": [item | {"blurs": False}],
    }
    tracks = [keys("/object_groups/cc/position/0", (1, -9), (19, 9)), keys("/objects/aa/rotation/2", (1, 0), (19, 90))]
    held = seen(moving(tracks, **members), card(1.0, 0.4))
    sharp = seen(moving(tracks, **members | {"shutter": {"on": False}}), card(1.0, 0.4))
    assert np.mean(np.abs(held - sharp)) < 1e-3
    moved = seen(moving(tracks, **members | {"objects": [item]}), card(1.0, 0.4))
    assert np.mean(np.abs(moved - sharp)) > 0.02


def test_what_does_not_move_costs_nothing_and_changes_nothing() -> None:
    open_, shut = (seen(moving([], shutter={"on": on}), disc(0.5)) for on in (True, False))
    assert np.array_equal(open_, shut)


@pytest.mark.parametrize("samples", [1, 2, 3, 5, 16, 33])
def test_few_samples_are_right_in_the_mean_and_threads_change_nothing(samples: int) -> None:
    made = moving([keys("/objects/aa/position/0", (1, -9), (19, 9))])
    one, two = (seen(made, disc(0.5), samples=samples, threads=threads) for threads in (1, 3))
    assert np.array_equal(one, two)
    assert one.mean() == pytest.approx(pi * 0.25 / (ACROSS * ACROSS * SIZE[1] / SIZE[0]), rel=0.06)


def test_noise_may_end_it_sooner() -> None:
    made = moving([keys("/objects/aa/position/0", (1, -9), (19, 9))])
    film = render_frame(resolve(made, 10), MadeFiles(thing=disc(0.5)), *SIZE, 256, 2, FrameOptions(noise=0.05))
    assert film.counts.min() < 256 and film.samples > 16
    assert film.picture()[:, :, 1].mean() == pytest.approx(pi * 0.25 / (ACROSS * ACROSS * SIZE[1] / SIZE[0]), rel=0.02)


def test_before_and_after_the_shot_things_stand_as_their_keys_say() -> None:
    made = moving([keys("/objects/aa/position/0", (1, 0), (48, 47))], angle=720)
    picture = seen(made, card(0.5, 8.0), frame=1)[SIZE[1] // 2]
    # Open from frame 0 to 2: held at 0 for half of the time, then a metre to the right.
    x, _ = places()
    assert picture[np.abs(x[0]) < 0.15].mean() == pytest.approx(0.5 + 0.125, abs=0.04)
    assert picture[x[0] < -0.3].max() == 0
