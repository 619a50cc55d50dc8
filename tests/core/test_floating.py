"""Floating bodies: the period of a box's heave, its tilt, and what carries it, through the document and the renderer."""

from typing import Any

import numpy as np
import pytest

from tests import builders
from tests.builders import MadeFiles, layer, look, recipe, step, value
from texallon.core.document import DocumentError, read_shot
from texallon.core.document.floats import Floats
from texallon.core.document.ids import complete_ids
from texallon.core.document.resolved import resolve
from texallon.core.document.shot import Shot
from texallon.core.motion.buoyancy import Hull, gather_floating, natural_frequencies, outline, plane_under
from texallon.core.motion.touches import Span
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import render_frame
from texallon.core.signal.check_recipes import check_shot

HULL = Hull(1.2, 0.3, 0.5)


def floats(**more: Any) -> Floats:
    return Floats(**{"signal": "water", "draught": 0.15, **more})


@pytest.mark.parametrize("draught", [0.05, 0.2, 1.0])
def test_a_box_heaves_with_the_period_of_its_draught(draught: float) -> None:
    """T = 2π √(draught/g) (Journée and Massie, Offshore Hydromechanics, 6.3, without added mass): let go above still water."""
    rate = 240.0
    made = gather_floating(
        None, Span(0, 0, 960, rate), floats(draught=draught, damping=0.0), HULL,
        lambda frame: np.array([0.1 if frame == 0 else 0.0, 0.0, 0.0]),
    )  # fmt: skip
    heave = made.arrays["height"][:, 0].astype(float)
    above = heave > 0
    falls = np.flatnonzero(above[:-1] & ~above[1:])
    times = (falls + heave[falls] / (heave[falls] - heave[falls + 1])) / rate
    assert len(times) >= 2
    assert np.diff(times).mean() == pytest.approx(2 * np.pi * np.sqrt(draught / 9.81), rel=1e-3)


def test_a_narrow_deep_body_tilts_more_slowly_than_a_broad_flat_one() -> None:
    narrow, broad = natural_frequencies(Hull(1.0, 0.5, 0.2), 0.2), natural_frequencies(Hull(1.0, 0.1, 0.8), 0.05)
    assert narrow[2] < narrow[1] and narrow[2] < broad[2]
    # Of a box the metacentric height is B²/12T here: GM = 1/2.4, radius² = (1 + ¼)/12.
    assert narrow[1] == pytest.approx(np.sqrt(9.81 * (1 / 2.4) / (1.25 / 12)), rel=1e-6)


def test_the_plane_under_it_is_that_of_level_and_sloping_water() -> None:
    flat = outline(HULL)
    found = plane_under(flat, 0.3 + 0.2 * flat[:, 0] - 0.1 * flat[:, 1])
    assert np.allclose(found, [0.3, 0.2, -0.1])


def document(formula: str, **of_object: Any) -> dict[str, Any]:
    boat = {
        "name": "boat", "look": "wood", "geometry": {"shape": "box", "width": 1.2, "height": 0.3, "depth": 0.5},
        "position": [0.4, 0.0, 0.2], "floats": {"signal": "water", "draught": 0.05, "damping": 1.0}, **of_object,
    }  # fmt: skip
    made: dict[str, Any] = complete_ids(
        builders.document(
            frames={"first": 1, "last": 49, "rate": 24.0},
            objects=[boat],
            signals=[{"name": "water", "recipe": recipe(step("formula", expression=formula))}],
            looks=[look("wood", layer("base", base_color=value([0.4, 0.3, 0.2])))],
        )
    )
    return made


def matrix(shot: Shot, frame: float) -> np.ndarray:
    graph = FrameGraph(resolve(shot, frame), MadeFiles())
    return graph.plans.places.object("boat")


def test_still_and_sloping_water_hold_it_level_and_sloping() -> None:
    level = matrix(read_shot(document("0.25 + position.x * 0")), 10)
    assert np.allclose(level[:3, 3], [0.4, 0.25, 0.2], atol=1e-6) and np.allclose(level[:3, :3], np.eye(3), atol=1e-6)
    sloping = matrix(read_shot(document("0.2 * position.x")), 10)
    assert sloping[1, 3] == pytest.approx(0.08, abs=1e-6)
    along = sloping[:3, 0]
    assert along[1] / along[0] == pytest.approx(0.2, abs=1e-5)
    half = matrix(read_shot(document("0.2 * position.x", floats={"signal": "water", "tilts": 0.5})), 10)[:3, 0]
    assert half[1] / half[0] == pytest.approx(0.1, abs=1e-5)


def test_what_is_turned_scaled_and_stretched_keeps_its_size() -> None:
    more = {"rotation": [0.0, 50.0, 0.0], "scale": 1.7, "stretch": [1.0, 0.5, 2.0]}
    made = matrix(read_shot(document("0.1 * sin(position.x * 3 + time * 4)", **more)), 20)
    assert np.allclose(np.linalg.norm(made[:3, :3], axis=0), [1.7, 0.85, 3.4], atol=1e-6)
    assert np.linalg.det(made[:3, :3]) == pytest.approx(1.7 * 0.85 * 3.4, rel=1e-6)


def test_it_is_the_same_whichever_frame_is_asked_first_and_moves_on_slow_water_with_it() -> None:
    shot = read_shot(document("0.1 * sin(time * 0.8) + position.x * 0"))
    backwards = {frame: matrix(shot, frame) for frame in (49, 20.5, 7, 1)}
    for frame in (1, 7, 20.5, 49):
        assert np.array_equal(matrix(shot, frame), backwards[frame])
        assert backwards[frame][1, 3] == pytest.approx(0.1 * np.sin((frame - 1) / 24 * 0.8), abs=0.02)
    assert np.array_equal(matrix(shot, 300), backwards[49])


def test_short_waves_hardly_move_a_long_boat() -> None:
    still = [matrix(read_shot(document("0.1 * sin(position.x * 60 + time * 9)")), frame)[1, 3] for frame in (5, 20, 40)]
    assert np.abs(still).max() < 0.02


def test_it_is_seen_to_move_and_is_measured_from_where_it_lies() -> None:
    made = document("0.4 * sin(time * 3) + position.x * 0", position=[0.0, 0.0, 0.0])
    near = {"name": "near", "recipe": recipe(step("contact", to={"object": "boat"}, end=0.1))}
    made["signals"].append(near)
    shot = read_shot(complete_ids(made | {"camera": {"position": [0, 0.4, 4], "target": [0, 0.4, 0]}}))
    first, later = (render_frame(resolve(shot, frame), MadeFiles(), 32, 24, 4, 2).picture() for frame in (1, 13))
    assert np.abs(first - later).max() > 0.05


def test_what_is_amiss_is_named() -> None:
    with pytest.raises(DocumentError) as found:
        check_shot(read_shot(document("0", floats={"signal": "wate"})))
    assert found.value.problems[0].pointer == "/objects/0/floats/signal" and "water" in found.value.problems[0].hint
