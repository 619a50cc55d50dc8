"""Volumes cut across the view: what is measured of their recipes is what lies on the cut."""

import numpy as np
import pytest

from tests.builders import MadeFiles, look, recipe, step
from tests.volumes import ball, box, volume_look, volume_shot
from texallon.core.render.graph import FrameGraph
from texallon.core.signal.look_plan import plan_look
from texallon.engine.measure import draw_cell, sheet_plans

CAMERA = {"position": [0, 0, 5], "target": [0, 0, 0], "focal_length": 50}


def along_z() -> dict[str, object]:
    return {"recipe": recipe(step("position", read="z"), step("add", by=0.5))}


@pytest.mark.parametrize("cut", [0.0, 0.25, 0.5, 1.0])
def test_a_cut_lies_where_it_is_put(cut: float) -> None:
    made = volume_shot(volume_look(density=along_z()), objects=[box()], camera=CAMERA)
    points = FrameGraph(made, MadeFiles()).gbuffer(64, 36, cut=cut).batch(1)
    density = points.values(plan_look(made, made.looks[1]))["density"][0]
    assert len(density) > 100
    assert density == pytest.approx(1 - cut, abs=1e-3)


def test_a_cut_shows_the_body_that_is_filled() -> None:
    made = volume_shot(volume_look(density=along_z()), objects=[ball()], camera=CAMERA)
    size = (200, 112)
    pixels = FrameGraph(made, MadeFiles()).gbuffer(*size).batch(1).pixels
    # A disc of 0.5 m at 5 m: π r² over the area that the picture shows there.
    wide = 36 / 50 * 5
    assert len(pixels) / (size[0] * size[1]) == pytest.approx(np.pi * 0.25 / (wide * wide * 112 / 200), rel=0.03)


def test_what_only_surfaces_have_takes_what_stands_in_for_it() -> None:
    made = volume_shot(volume_look(density={"recipe": recipe(step("slope"))}), objects=[box()], camera=CAMERA)
    values = FrameGraph(made, MadeFiles()).gbuffer(32, 18).batch(1).values(plan_look(made, made.looks[1]))["density"]
    assert np.isfinite(values).all()


def test_cells_of_the_sheet_are_drawn_from_the_cut() -> None:
    made = volume_shot(volume_look(density=along_z()), objects=[box()], camera=CAMERA)
    graph = FrameGraph(made, MadeFiles())
    plans = sheet_plans(made, made.looks[1])
    cell = draw_cell(graph.gbuffer(64, 36, cut=0.25), 1, "0/density", plans["0/density"])
    assert cell["mean"] == pytest.approx([0.75], abs=1e-3)


def test_a_look_that_fills_nothing_has_no_points() -> None:
    made = volume_shot(volume_look(density=along_z()), look("other"), objects=[], camera=CAMERA)
    assert len(FrameGraph(made, MadeFiles()).gbuffer(32, 18).batch(1).pixels) == 0
