"""Wetness taken apart into the channels that it sets."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, document, layer, look, materials_of, recipe, square, step, value
from tests.surfaces import material
from texallon.core.document import DocumentError, apply_patch, read_shot
from texallon.core.document.resolved import resolve
from texallon.core.kernel import kernel
from texallon.core.render.graph import make_scene
from texallon.core.render.scene.surface import surface_at
from texallon.core.shade.fresnel import fresnel_dielectric
from texallon.core.shade.rows import MATERIAL, WETNESS
from texallon.core.shade.stack import facet_index
from texallon.core.shade.water_layer import expand_wetness

HALVES = recipe(step("position"), step("component", which="x"), step("remap", from_start=-1, from_end=1))


def shot_with(*layers: dict[str, Any]) -> dict[str, Any]:
    return document(
        looks=[look("stone", layer("dry", specular_roughness=value(0.7)), *layers)],
        objects=[{"name": "f", "geometry": {"file": "f"}, "look": "stone"}],
    )


def rows(data: dict[str, Any]) -> np.ndarray:
    """The material along a line over the floor."""
    shot = resolve(read_shot(data))
    scene = make_scene(shot, MadeFiles(f=square(4.0)))
    x = np.linspace(-1.2, 1.2, 25, dtype=np.float32)
    origin = np.ascontiguousarray(np.stack([x, np.ones(25), np.full(25, 0.3)]), np.float32)
    way = np.ascontiguousarray(np.tile([[0], [-1], [0]], 25), np.float32)
    hits = scene.rays.nearest(origin, way, np.zeros(25, np.float32))
    more = {"view": -way, "footprint": np.zeros((1, 25), np.float32)}
    return materials_of(shot).rows(scene, hits, surface_at(scene, hits), more)


@pytest.mark.parametrize(
    "wet",
    [
        layer("wet", HALVES, wetness=value(1.0)),
        layer("wet", HALVES, wetness=value(0.6)),
        layer("wet", wetness={"recipe": HALVES}),
        layer("wet", wetness=value(1.0)),
        {**layer("wet", HALVES, wetness=value(1.0)), "opacity": 0.5},
    ],
)
def test_the_parts_are_what_the_one_channel_was(wet: dict[str, Any]) -> None:
    data = shot_with(wet)
    write_aovs = apply_patch(data, expand_wetness(data, "stone", "wet"))
    one, other = rows(data), rows(write_aovs)
    kept = [row for row in range(MATERIAL) if row != WETNESS]
    assert np.allclose(one[kept], other[kept], atol=2e-4)
    assert other[WETNESS].max() == 0


def test_the_film_lies_above_its_layer_under_a_name_of_its_own() -> None:
    data = shot_with(layer("wet", wetness=value(1.0), base_color=value(0.1)), layer("film of water"))
    layers = apply_patch(data, expand_wetness(data, "stone", "wet"))["looks"][0]["layers"]
    assert [each["name"] for each in layers] == ["dry", "wet", "film of water 2", "film of water"]
    assert list(layers[1]["channels"]) == ["base_color"], "what else the layer says stays"


@kernel
def index_of_facets(m: np.ndarray) -> float:
    return facet_index(m, 0, True)


def test_reflection_under_water_by_fresnel() -> None:
    # ((1.5 − 1.333) / (1.5 + 1.333))² = 0.0035, worked by hand: stone reflects a twelfth of what it does in air.
    m = material(coat_weight=1.0, coat_ior=1.333, specular_ior=1.5)
    assert fresnel_dielectric(1.0, index_of_facets(m)) == pytest.approx(0.00347, abs=2e-5)


@pytest.mark.parametrize(("look_name", "layer_name"), [("cake", "wet"), ("stone", "cake"), ("stone", "dry")])
def test_what_is_not_there_is_said(look_name: str, layer_name: str) -> None:
    with pytest.raises(DocumentError, match=r"there is no|has no wetness"):
        expand_wetness(shot_with(layer("wet", wetness=value(1.0))), look_name, layer_name)
