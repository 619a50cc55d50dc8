"""Shining surfaces as lamps; light groups and the ways of light; all of them adding up."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, layer, look, recipe, shot, square, step, value
from tests.volumes import volume_look
from texallon.core.document import Shot
from texallon.core.render.film.film import Film
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import FrameOptions, group_weights, render_frame
from texallon.core.render.transport.light_aovs import LIGHT_AOVS

FLOOR = look("floor", layer("f", base_color=value([0.6, 0.5, 0.4]), specular_roughness=value(0.2)))
DARK = {"base_weight": value(0.0), "specular_weight": value(0.0)}
FILES = {"floor": square(6.0), "panel": square(1.0)}


def panel_shot(emission: Any, **members: Any) -> Shot:
    """A floor under a level panel that shines."""
    shining = layer("p", **DARK, emission_luminance=emission)
    return shot(
        **{
            "camera": {"position": [0, 2.5, 2.5], "target": [0, 0, 0]},
            "environment": {"colour": [0, 0, 0]},
            "objects": [
                {"name": "floor", "geometry": {"file": "floor"}, "look": "floor"},
                {
                    "name": "panel",
                    "geometry": {"file": "panel"},
                    "look": "panel",
                    "position": [0, 1.2, 0],
                    "group": "panels",
                },
            ],
            "looks": [FLOOR, look("panel", shining)],
            **members,
        }
    )


def test_a_shining_panel_lights_as_a_lamp_of_the_same_size_does() -> None:
    # Radiance P / (π A): a lamp of 5 W and a square metre sends out 5 / π of it, to one side.
    lamp = {
        "name": "l",
        "position": [0, 1.2, 0],
        "target": [0, 0, 0],
        "width": 1,
        "height": 1,
        "power": 5.0,
        "visible": False,
    }
    by_lamp = shot(
        camera={"position": [0, 2.5, 2.5], "target": [0, 0, 0]},
        environment={"colour": [0, 0, 0]},
        lights=[lamp],
        objects=[{"name": "floor", "geometry": {"file": "floor"}, "look": "floor"}],
        looks=[FLOOR],
        bounces=1,
    )
    one = render_frame(by_lamp, MadeFiles(**FILES), 48, 27, 64, 2).picture()
    two = render_frame(panel_shot(value(5 / np.pi), bounces=1), MadeFiles(**FILES), 48, 27, 64, 2).picture()
    below = slice(16, 27)  # the panel itself stands higher in the picture
    assert two[below].mean() == pytest.approx(one[below].mean(), rel=0.02)


def test_a_shining_panel_is_asked_for_light_and_not_found_by_chance() -> None:
    # A small panel lights a floor from afar: were it only found by scattered rays, 16 samples would be all noise.
    small = panel_shot(value(500.0), bounces=1)
    tiny = {"floor": square(6.0), "panel": square(0.02)}
    picture = render_frame(small, MadeFiles(**tiny), 32, 18, 16, 2).picture()[12:, 4:-4, 1]
    smooth = render_frame(small, MadeFiles(**tiny), 32, 18, 256, 2).picture()[12:, 4:-4, 1]
    assert np.abs(picture / smooth - 1).mean() < 0.25


def test_light_of_a_mask_comes_from_where_the_mask_is() -> None:
    half = {
        "recipe": recipe(
            step("position", space="world"), step("component", which="x"), step("threshold", level=0.0, width=0.0)
        )
    }
    graph = FrameGraph(panel_shot(half), MadeFiles(floor=square(6.0), panel=grid(1.0, 8)))
    glow = graph.store.value(graph.mesh_lights_value)
    middle = glow.corners.reshape(-1, 3, 3).mean(axis=1)[:, 0]
    chance = np.diff(glow.cumulative)
    assert chance[middle > 0].sum() > 0.95
    assert (chance > 0).all(), "no part of the panel is out of reach"
    assert glow.power == pytest.approx(np.pi / 2, rel=0.02)


def grid(size: float, cells: int) -> Any:
    from texallon.core.geometry.mesh import make_mesh

    x, z = np.meshgrid(np.linspace(-size / 2, size / 2, cells + 1), np.linspace(-size / 2, size / 2, cells + 1))
    points = np.stack([x.ravel(), np.zeros(x.size), z.ravel()], axis=1)
    corner = (np.arange(cells)[:, None] * (cells + 1) + np.arange(cells)).ravel()
    faces = np.concatenate(
        [
            np.stack([corner, corner + cells + 1, corner + 1], 1),
            np.stack([corner + 1, corner + cells + 1, corner + cells + 2], 1),
        ]
    )
    return make_mesh(points, faces)


def everything(**members: Any) -> Shot:
    """Sky, a lamp, a shining panel behind glass, a cut-out: all ways that light may come."""
    clear = look(
        "glass", layer("g", transmission_weight=value(1.0), specular_roughness=value(0.0), geometry_opacity=value(0.7))
    )
    return panel_shot(
        value(2.0),
        environment={"colour": [0.2, 0.3, 0.5], "group": "sky"},
        lights=[{"name": "lamp", "shape": "sphere", "position": [1.5, 1, 0.5], "width": 0.3, "power": 30.0, "group": "lamps"}],
        light_groups=[{"name": "sky"}, {"name": "lamps", "intensity": 0.5, "colour": [1, 0.5, 0.25]}, {"name": "panels", "on": False}],
        objects=[
            {"name": "floor", "geometry": {"file": "floor"}, "look": "floor"},
            {"name": "panel", "geometry": {"file": "panel"}, "look": "panel", "position": [0, 1.2, 0], "group": "panels"},
            {"name": "pane", "geometry": {"file": "panel"}, "look": "glass", "position": [-1.2, 0.6, 0.6], "rotation": [90, 0, 0], "scale": 1.5},
        ],
        looks=[FLOOR, look("panel", layer("p", **DARK, emission_luminance=value(2.0))), clear, volume_look(density=0.05)],
        **members,
    )  # fmt: skip


def test_light_groups_and_ways_of_light_both_add_up_to_the_picture() -> None:
    air = {"look": "mist", "ceiling": 3.0, "reach": 4.0}
    low = everything(camera={"position": [0, 0.9, 4], "target": [0, 0.8, 0], "focal_length": 22}, atmosphere=air)
    film = render_frame(low, MadeFiles(**FILES), 40, 24, 16, 2, FrameOptions(write_aovs=True))
    whole = film.picture()
    groups = sum(film.group(n) for n in range(film.groups))
    ways = sum(film.part(name) for name in LIGHT_AOVS)
    assert np.allclose(groups, whole, rtol=1e-5, atol=1e-5)
    assert np.allclose(ways, whole, rtol=1e-4, atol=1e-5)
    for name in LIGHT_AOVS:
        assert film.part(name).max() > 0, name
        assert film.part(name).min() >= 0, name
    assert film.group(0).max() == 0, "every light has a group here"
    assert all(film.group(n).max() > 0 for n in (1, 2, 3))


def test_keeping_ways_apart_does_not_change_the_picture() -> None:
    plain = render_frame(everything(), MadeFiles(**FILES), 24, 16, 4, 2).picture()
    write_aovs = render_frame(everything(), MadeFiles(**FILES), 24, 16, 4, 2, FrameOptions(write_aovs=True)).picture()
    assert np.array_equal(plain, write_aovs)


def test_weighing_groups_after_rendering_is_rendering_with_weighed_lights() -> None:
    shown = everything()
    film = render_frame(shown, MadeFiles(**FILES), 32, 20, 256, 2)
    after = film.picture(group_weights(shown))
    before = shown.model_copy(
        update={
            "lights": [light.model_copy(update={"power": 15.0, "colour": (1.0, 0.5, 0.25)}) for light in shown.lights],
            "looks": [
                shown.looks[0],
                Shot.model_validate({"schema": 2, "name": "x", "looks": [look("panel", layer("p", **DARK))]}).looks[0],
                shown.looks[2],
            ],
            "light_groups": [],
        }
    )
    direct = render_frame(before, MadeFiles(**FILES), 32, 20, 256, 2).picture()
    assert after.mean() == pytest.approx(direct.mean(), rel=0.02)


def test_direct_light_on_a_dull_floor_is_direct_and_diffuse() -> None:
    dull = look("floor", layer("f", base_color=value(0.5), specular_weight=value(0.0)))
    made = shot(
        camera={"position": [0, 2.5, 2.5], "target": [0, 0, 0], "focal_length": 100},
        objects=[{"name": "floor", "geometry": {"file": "floor"}, "look": "floor"}],
        looks=[dull],
    )
    film = render_frame(made, MadeFiles(**FILES), 16, 9, 16, 2, FrameOptions(write_aovs=True))
    assert film.part("direct.diffuse").mean() == pytest.approx(0.5, rel=0.05)
    assert sum(film.part(name).sum() for name in LIGHT_AOVS if name != "direct.diffuse") < 1e-4


def test_a_smooth_mirror_shows_only_glossy_light() -> None:
    mirror = look("floor", layer("f", base_metalness=value(1.0), specular_roughness=value(0.0)))
    made = shot(
        camera={"position": [0, 2.5, 2.5], "target": [0, 0, 0], "focal_length": 100},
        objects=[{"name": "floor", "geometry": {"file": "floor"}, "look": "floor"}],
        looks=[mirror],
    )
    film = render_frame(made, MadeFiles(**FILES), 16, 9, 8, 2, FrameOptions(write_aovs=True))
    assert film.part("direct.glossy").mean() == pytest.approx(0.8, rel=0.05)
    assert film.part("direct.diffuse").max() == 0


def test_only_noisy_parts_are_sampled_on() -> None:
    # Half of the picture is plain sky without noise; sampling leaves it when it has looked at it first.
    made = everything(camera={"position": [0, 0.6, 3], "target": [0, 0.9, 0], "focal_length": 30})
    film = render_frame(made, MadeFiles(**FILES), 64, 48, 128, 2, FrameOptions(noise=0.02))
    counts = film.counts.reshape(48, 64)
    assert counts[:4].max() <= 16, "sky"
    assert counts.max() > 16, "floor"
    reference = render_frame(made.model_copy(update={"seed": 3}), MadeFiles(**FILES), 64, 48, 128, 2).picture()
    assert film.picture().mean() == pytest.approx(reference.mean(), rel=0.02)


def test_a_lower_threshold_asks_for_more_samples() -> None:
    counts = [
        render_frame(everything(), MadeFiles(**FILES), 32, 32, 96, 2, FrameOptions(noise=level)).counts.sum()
        for level in (0.2, 0.05, 0.01)
    ]
    assert counts[0] < counts[1] < counts[2]


def test_only_a_region_is_sampled() -> None:
    film = render_frame(everything(), MadeFiles(**FILES), 40, 20, 2, 2, FrameOptions(region=(0.25, 0.5, 0.75, 1.0)))
    counts = film.counts.reshape(20, 40)
    assert (counts[10:, 10:30] == 2).all() and counts.sum() == 2 * 10 * 20
    whole = Film(40, 20)
    assert whole.sampled().sum() == 0 and film.sampled().sum() == 200
    alone = film.picture()[10:, 10:30]
    full = render_frame(everything(), MadeFiles(**FILES), 40, 20, 2, 2).picture()[10:, 10:30]
    assert np.array_equal(alone, full), "the region shows what the whole picture would"
