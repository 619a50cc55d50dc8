"""Volumes cut across the view: what is measured of their recipes is what lies on the cut."""

import numpy as np
import pytest

from tests.builders import MadeFiles, look, recipe, step
from tests.volumes import ball, box, volume_look, volume_shot
from texallon.core.render.graph import FrameGraph
from texallon.core.render.volume_reading import pick_on_cut
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


def as_seen(*looks: dict[str, object], objects: list[dict[str, object]]) -> np.ndarray:
    """z where the first look is looked at as deep as the camera sees."""
    made = volume_shot(*looks, objects=objects, camera=CAMERA)
    return FrameGraph(made, MadeFiles()).gbuffer(64, 36, cut=None).batch(1).point("position")[2]


@pytest.mark.parametrize("density", [0.01, 1.0, 5.0, 40.0])
def test_half_of_what_is_seen_of_an_even_volume_lies_before_the_cut(density: float) -> None:
    # 1 − exp(−σ t) is half of 1 − exp(−σ L); rays lean a little, so the box is not met evenly by all.
    want = 0.5 + np.log1p(-0.5 * -np.expm1(-density)) / density
    z = as_seen(volume_look(density=density, scattering_color=[1, 1, 1]), objects=[box()])
    assert len(z) > 100 and np.median(z) == pytest.approx(want, abs=0.01)


def test_what_shines_counts_by_its_light() -> None:
    # A light of z + ½ in a clear box: ∫ of it is half of all at z + ½ = √½.
    glow = volume_look(density=0.0, volume_emission=along_z())
    assert np.median(as_seen(glow, objects=[box()])) == pytest.approx(np.sqrt(0.5) - 0.5, abs=0.01)


def test_what_hides_a_volume_is_counted_before_it() -> None:
    looks = [volume_look("mist", density=1.0), volume_look("wall", density=30.0)]
    objects = [box(), box("before", "wall", position=[0, -0.5, 0.9])]
    assert len(as_seen(*looks, objects=objects)) == 0  # half of all that is seen lies in what stands before
    assert len(as_seen(*reversed(looks), objects=objects)) > 100


def test_a_volume_of_nothing_is_cut_in_its_middle() -> None:
    assert np.median(as_seen(volume_look(density=0.0), objects=[box()])) == pytest.approx(0.0, abs=1e-3)


def test_a_place_is_read_as_deep_as_is_seen() -> None:
    made = volume_shot(volume_look(density=1.0, scattering_color=[1, 1, 1]), objects=[box()], camera=CAMERA)
    graph = FrameGraph(made, MadeFiles())
    view = graph.view(64, 36)
    picked = pick_on_cut(graph.filled, view, None, 0.5, 0.5)
    assert picked is not None
    assert picked.own[2] == pytest.approx(0.5 + np.log1p(-0.5 * -np.expm1(-1.0)), abs=0.01)


def test_cells_of_the_sheet_are_drawn_from_the_cut() -> None:
    made = volume_shot(volume_look(density=along_z()), objects=[box()], camera=CAMERA)
    graph = FrameGraph(made, MadeFiles())
    plans = sheet_plans(made, made.looks[1])
    cell = draw_cell(graph.gbuffer(64, 36, cut=0.25), 1, "0/density", plans["0/density"])
    assert cell["mean"] == pytest.approx([0.75], abs=1e-3)


def test_a_look_that_fills_nothing_has_no_points() -> None:
    made = volume_shot(volume_look(density=along_z()), look("other"), objects=[], camera=CAMERA)
    assert len(FrameGraph(made, MadeFiles()).gbuffer(32, 18).batch(1).pixels) == 0
