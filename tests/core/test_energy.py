"""Light in closed white rooms: nothing gains, and nothing loses more than is stated, through the whole renderer and from both sides.

White furnace: in even radiance 1 a thing that absorbs nothing can't be seen, whatever it is made of (radiometry; E. Heitz et al. 2016
use it for facets). Where a body has an index its inside is even too, in terms of radiance over n².
"""

from math import exp
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, box, layer, look, shot, square, value
from texallon.core.document.channels import SURFACE_CHANNELS
from texallon.core.render.render_frame import render_frame

pytestmark = pytest.mark.slow

FILES = {"ball": ball(1.0, 32), "small": ball(0.4, 24), "box": box(2, 2, 2), "sheet": square(3.0)}


def furnace(*things: tuple[str, dict[str, Any]], samples: int = 100, size: int = 8, **members: Any) -> np.ndarray:
    """The mean picture of things, each a mesh with the channels it wears, in even white light."""
    made = shot(
        **{
            "camera": {"position": [0, 0, 9], "target": [0, 0, 0], "focal_length": 250},
            "environment": {"colour": [1, 1, 1]},
            "objects": [
                {"name": f"{k}", "geometry": {"file": mesh}, "look": f"{k}", "priority": k}
                for k, (mesh, _) in enumerate(things)
            ],
            "looks": [
                look(f"{k}", layer("l", **{name: value(v) for name, v in channels.items()}))
                for k, (_, channels) in enumerate(things)
            ],
            "bounces": 64,
            "limits": {"diffuse": 64, "glossy": 64, "transmission": 64},
            **members,
        }
    )
    return render_frame(made, MadeFiles(**FILES), size, size, samples, 2).picture().mean(axis=(0, 1))


EYES = {
    "outside": {},
    "inside": {"camera": {"position": [0, 0.05, 0.7], "target": [0, 0, 0], "focal_length": 24}},
}


def glass(**channels: Any) -> dict[str, Any]:
    return {"transmission_weight": 1.0, "specular_roughness": 0.0, **channels}


@pytest.mark.parametrize("eye", EYES)
@pytest.mark.parametrize(("roughness", "ior"), [(0.0, 1.5), (0.2, 1.33), (0.5, 1.05), (0.5, 2.5), (1.0, 1.5)])
def test_glass_of_any_roughness_can_not_be_seen(eye: str, roughness: float, ior: float) -> None:
    found = furnace(("ball", glass(specular_roughness=roughness, specular_ior=ior)), **EYES[eye])
    assert found == pytest.approx(1.0, abs=0.025)


@pytest.mark.parametrize("eye", EYES)
@pytest.mark.parametrize("clear", [0.3, 0.5, 0.8])
def test_partly_clear_white_things_can_not_be_seen(eye: str, clear: float) -> None:
    # The opaque and the clear part are a mix (OpenPBR Surface 1.1), each whole by itself.
    mixed = {"transmission_weight": clear, "base_color": [1.0] * 3, "specular_roughness": 0.1}
    assert furnace(("ball", mixed), samples=200, **EYES[eye]) == pytest.approx(1.0, abs=0.025)


@pytest.mark.parametrize("roughness", [0.0, 0.3])
@pytest.mark.parametrize("mesh", ["small", "box"])
def test_a_white_thing_in_glass_can_not_be_seen(roughness: float, mesh: str) -> None:
    things = [("ball", glass(specular_roughness=roughness)), ("small", {"base_color": [1.0] * 3})]
    if mesh == "box":
        things[0] = ("box", things[0][1])
    assert furnace(*things, samples=200) == pytest.approx(1.0, abs=0.025)


@pytest.mark.parametrize("albedo", [0.2, 0.6])
def test_a_grey_thing_in_the_middle_of_a_glass_ball(albedo: float) -> None:
    # Along radii light meets the boundary straight on, where R = 0.04 for index 1.5 (Fresnel): 1 − R of the sky comes in, R of what the
    # small ball sends out comes back to it, or, where the facets of the large one turn it aside, light from elsewhere, as bright as 1:
    # B lies between ρ (1 − R) / (1 − ρ R) and ρ, and R + (1 − R) B is seen.
    files = {**FILES, "tiny": ball(0.02, 24)}
    made = shot(
        camera={"position": [0, 0, 9], "target": [0, 0, 0], "focal_length": 20000},
        environment={"colour": [1, 1, 1]},
        objects=[
            {"name": "g", "geometry": {"file": "ball"}, "look": "g"},
            {"name": "t", "geometry": {"file": "tiny"}, "look": "t"},
        ],
        looks=[
            look("g", layer("l", transmission_weight=value(1.0), specular_roughness=value(0.0))),
            look("t", layer("l", base_color=value([albedo] * 3), specular_weight=value(0.0))),
        ],
        bounces=64,
    )
    found = render_frame(made, MadeFiles(**files), 6, 6, 300, 2).picture().mean()
    r = 0.04
    least, most = r + (1 - r) * albedo * (1 - r) / (1 - albedo * r), r + (1 - r) * albedo
    assert 0.995 * least <= found <= 1.005 * most


@pytest.mark.parametrize("ior", [1.0, 1.33, 1.5])
@pytest.mark.parametrize("depth", [1.0, 0.05])
@pytest.mark.parametrize("forward", [-0.4, 0.8])
def test_milk_of_any_index_and_density_can_not_be_seen(ior: float, depth: float, forward: float) -> None:
    milk = glass(
        specular_ior=ior, transmission_depth=depth, transmission_color=[exp(-1.0)] * 3, transmission_scatter=[1.0] * 3,
        transmission_scatter_anisotropy=forward,
    )  # fmt: skip
    # Few bounces: turns within the milk are ended by chance alone, never by a count.
    found = furnace(("ball", milk), samples=100, bounces=32, limits={"transmission": 16, "glossy": 32, "diffuse": 8})
    assert found == pytest.approx(1.0, abs=0.02)


def test_nested_clear_bodies_can_not_be_seen() -> None:
    inner = glass(specular_ior=1.8, specular_roughness=0.2)
    outer = glass(specular_ior=1.33, coat_weight=1.0, coat_roughness=0.3)
    assert furnace(("ball", outer), ("small", inner), samples=200) == pytest.approx(1.0, abs=0.025)


LEFT_ALONE = {"emission_luminance", "emission_exposure", "emission_color", "self_lit", "bump", "geometry_opacity"}
BOUNDS = {
    "specular_ior": (1.0, 2.5), "coat_ior": (1.0, 2.5), "thin_film_ior": (1.0, 2.5), "transmission_depth": (0.0, 1.0),
    "subsurface_radius": (0.05, 0.5), "thin_film_thickness": (0.0, 1.0), "transmission_dispersion_abbe_number": (9.0, 91.0),
    "subsurface_scatter_anisotropy": (-0.9, 0.9), "transmission_scatter_anisotropy": (-0.9, 0.9),
}  # fmt: skip
"""What would take too long to render, or is no surface at all, is left out."""


def any_material(seed: int, thin: bool, white: bool) -> dict[str, Any]:
    """A value for every channel: anywhere in its range, and in a third of the cases at an end of it; `white` absorbs nothing."""
    rng = np.random.default_rng(seed)
    found: dict[str, Any] = {}
    for channel in SURFACE_CHANNELS:
        if channel.name in LEFT_ALONE or channel.name.startswith(
            ("geometry_normal", "geometry_coat", "geometry_tangent")
        ):
            continue
        low, high = BOUNDS.get(channel.name, (channel.low, channel.high))
        number = rng.uniform(low, high, channel.width)
        if rng.random() < 0.35:
            number[:] = rng.choice([low, high])
        if white and (
            (channel.width == 3 and "radius" not in channel.name) or channel.name in ("base_weight", "specular_weight")
        ):
            number[:] = 1.0
        if white and channel.name in ("transmission_depth", "transmission_dispersion_scale"):
            number[:] = 0.0
        if channel.name == "geometry_thin_walled":
            number[:] = float(thin)
        found[channel.name] = float(number[0]) if channel.width == 1 else [float(x) for x in number]
    return found


SHAPES = {
    "body": ("ball", False, {}),
    "thin wall": ("ball", True, {}),
    "sheet": ("sheet", False, {"camera": {"position": [0, 6, 0.001], "target": [0, 0, 0], "focal_length": 200}}),
}


@pytest.mark.parametrize("seed", range(8))
@pytest.mark.parametrize("shape", SHAPES)
def test_no_material_makes_light(shape: str, seed: int) -> None:
    mesh, thin, members = SHAPES[shape]
    found = furnace((mesh, any_material(seed, thin, False)), samples=96, **members)
    assert found.max() <= 1.01


STATED_LOSS = 0.035
"""Of white materials: an open sheet keeps what walks below it and comes out nowhere, so that it has another."""


@pytest.mark.parametrize("seed", range(100, 110))
@pytest.mark.parametrize("shape", SHAPES)
def test_no_white_material_takes_light(shape: str, seed: int) -> None:
    mesh, thin, members = SHAPES[shape]
    # The mean of the colours: walks below a sheet that has no other side are noisy in each of them.
    found = furnace((mesh, any_material(seed, thin, True)), samples=400 if shape == "sheet" else 160, **members).mean()
    assert found <= 1.012
    assert found >= 1 - (0.12 if shape == "sheet" else STATED_LOSS)
