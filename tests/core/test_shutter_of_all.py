"""Everything that may move while a shutter is open, each against the mean over the interval, worked out in closed form; from both ends of it."""

from collections.abc import Sequence
from math import exp
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, document, layer, look, recipe, step, value
from tests.core.test_shutter import ACROSS, SIZE, card, disc, keys, moving, places, seen
from tests.volumes import NO_SCATTER, box, volume_look
from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.render.render_frame import render_frame

pytestmark = pytest.mark.slow

FRAME = 10
LATE = ((1, 0.0), (10, 0.0), (11, 4.0))
"""Nothing until the frame, then more by four a frame: at the frame 0, over the interval ½ in the mean."""


def still(made: Any) -> Any:
    """The same with the shutter shut."""
    return read_shot(made.model_dump(mode="json", by_alias=True) | {"shutter": {"on": False}})


def middle(picture: np.ndarray, half: int = 3) -> float:
    rows, columns = SIZE[1] // 2, SIZE[0] // 2
    return float(picture[rows - half : rows + half, columns - half : columns + half].mean())


def test_surroundings_that_brighten_are_seen_at_their_mean() -> None:
    made = moving([keys("/environment/intensity", *LATE)], objects=[], environment={"colour": [1, 1, 1]})
    assert middle(seen(made, None)) == pytest.approx(0.5, abs=0.01)
    assert middle(seen(still(made), None)) == 0


@pytest.mark.parametrize(("angle", "offset", "mean"), [(360, 0, 0.5), (360, 180, 2.0), (360, -180, 0.0), (90, 45, 0.5), (180, 90, 1.0)])  # fmt: skip
def test_the_mean_is_over_the_interval_that_angle_and_offset_say(angle: float, offset: float, mean: float) -> None:
    # Light grows by four a frame from the frame on: its mean over [a, b] is 2 (b² − a²) / (b − a), what lies before the frame counted as 0.
    made = moving([keys("/environment/intensity", *LATE)], angle, offset, objects=[], environment={"colour": [1, 1, 1]})
    assert middle(seen(made, None)) == pytest.approx(mean, abs=0.02)


@pytest.mark.parametrize("shape", ["sphere", "point", "sun"])
def test_lamps_that_brighten_light_by_their_mean(shape: str) -> None:
    lamp = {"id": "ll", "name": "lamp", "shape": shape, "position": [0, 0, 4], "target": [0, 0, 0], "visible": False}
    dull = look("glow", layer("dull", base_color=value([0.5, 0.5, 0.5]), specular_weight=value(0.0)))

    def light(tracks: list[dict[str, Any]], power: float) -> float:
        made = moving(tracks, lights=[lamp | {"power": power}], looks=[dull])
        return middle(seen(made, card(8.0, 8.0)), 6)

    grown = [keys("/lights/ll/power", (1, 0.0), (10, 0.0), (11, 400.0))]
    assert light(grown, 1.0) == pytest.approx(light([], 50.0), rel=0.02)


def test_a_lamp_that_moves_lights_by_its_mean_over_its_way() -> None:
    """A point over a dull floor, nearer and nearer: the mean of the inverse square of its height over the interval."""
    lamp = {"id": "ll", "name": "lamp", "shape": "point", "position": [0, 0, 2], "visible": False, "power": 100.0}
    dull = look("glow", layer("dull", base_color=value([0.5, 0.5, 0.5]), specular_weight=value(0.0)))

    def light(tracks: list[dict[str, Any]], height: float) -> float:
        made = moving(tracks, lights=[lamp | {"position": [0, 0, height]}], looks=[dull])
        return middle(seen(made, card(8.0, 8.0)), 1)

    # From 3 m at 9.5 to 1 m at 10.5: the mean of 1 / h² over h is (1/1 − 1/3) / 2 = 1/3, where at the frame it is 1/4.
    nearer = light([keys("/lights/ll/position/2", (9, 4.0), (11, 0.0))], 2.0)
    assert nearer / light([], 2.0) == pytest.approx((1 / 3) / (1 / 4), rel=0.03)


def test_a_lens_that_zooms_spreads_edges_by_how_far_they_lie_from_the_middle() -> None:
    focal = 36 * 10 / ACROSS
    made = moving([keys("/camera/focal_length", (9, 0.8 * focal), (11, 1.2 * focal))])
    row = seen(made, card(2.0, 8.0))[SIZE[1] // 2]
    x, _ = places()
    # The edge at one metre stands at 0.9 m at the beginning and 1.1 m at the end of the interval, and goes evenly between.
    expected = np.clip((1.1 - np.abs(x[0])) / 0.2, 0, 1)
    assert np.abs(row - expected).max() < 0.1
    assert np.abs(row - expected).mean() < 0.01


def test_copies_move_with_what_they_are_copies_of() -> None:
    """Three discs in a row that move by a metre while the shutter is open are seen as three that moved, each by itself."""
    item = {"id": "aa", "name": "thing", "geometry": {"file": "thing"}, "look": "glow", "scale": 0.4}
    grid = {"along": "grid", "counts": [3, 1, 1], "spacing": [3.0, 1, 1]}
    track = keys("/objects/aa/position/0", (1, -9), (19, 9))
    row = seen(moving([track], objects=[item | {"array": grid}]), disc(0.5))
    shifted = [
        keys("/objects/aa/position/0", (1, -9 + aside), (19, 9 + aside)) for aside in (-3.0 * 0.4, 0.0, 3.0 * 0.4)
    ]
    apart = [seen(moving([each], objects=[item]), disc(0.5)) for each in shifted]
    # They cover each other nowhere at one moment; their blurs overlap, and add.
    assert np.abs(row - sum(apart)).max() < 0.02
    assert row.max() < 0.9 and (row > 0.05).mean() > 1.5 * (apart[0] > 0.05).mean()


@pytest.mark.parametrize("threads", [1, 2])
def test_fog_that_thickens_lets_through_the_mean_of_what_it_lets_through(threads: int) -> None:
    """Beer and Lambert at each moment: of an extinction from 1/m to 3/m through one metre ∫ exp(−d) / 2 = (e⁻¹ − e⁻³) / 2, not e⁻²."""
    density = {"recipe": recipe(step("formula", expression="2 * (frame - 9)"))}
    light, shut = (through(density, on, threads=threads) for on in (True, False))
    assert light == pytest.approx((exp(-1) - exp(-3)) / 2, rel=0.02)
    assert shut == pytest.approx(exp(-2), rel=0.02)


def test_a_body_of_fog_that_moves_is_in_the_way_for_its_share_of_the_time() -> None:
    moves = [keys("/objects/bb/position/0", (9, -2), (11, 2))]
    # A metre wide, two metres a frame: half of the time it is before the eye.
    assert through(value(2.0), True, moves) == pytest.approx(0.5 + 0.5 * exp(-2), abs=0.03)
    assert through(value(2.0), False, moves) == pytest.approx(exp(-2), rel=0.02)


def through(density: dict[str, Any], on: bool, tracks: Sequence[dict[str, Any]] = (), threads: int = 2) -> float:
    """What a box of fog lets through of even surroundings, along a metre of it."""
    made = document(
        looks=[look("plain"), volume_look(density=density, absorption_color=[1, 1, 1], **NO_SCATTER)],
        objects=[box(id="bb")],
        camera={"position": [0, 0, 5], "target": [0, 0, 0], "focal_length": 4000.0},
        environment={"intensity": 1.0},
        shutter={"on": on, "angle": 360},
        tracks=list(tracks),
    )
    shot = resolve(read_shot(made), FRAME)
    return float(render_frame(shot, MadeFiles(), 8, 8, 64, threads).picture().mean())
