"""What each layer does to those below it, through points and through the renderer (OpenPBR Surface 1.1)."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, box, layer, look, recipe, shot, square, step, value
from tests.core.test_reading import reading
from tests.engine.test_parts import seen as seen_look
from tests.surfaces import TABLE, given_back
from texallon.core.render.render_frame import render_frame
from texallon.core.shade.albedo import dielectric_albedo
from texallon.core.shade.fuzz import fuzz_albedo
from texallon.core.signal.reading import lines
from texallon.engine.measure import draw_cell, sheet_plans

BLACK = {"colour": [0, 0, 0]}


def picture(things: dict[str, tuple[Any, dict[str, Any]]], samples: int = 16, **members: Any) -> float:
    """The mean picture of things, each a mesh, the channels it wears, and where it stands."""
    made = shot(
        objects=[
            {"name": n, "geometry": {"file": n}, "look": n, "position": [0, 2 if n == "pane" else 0, 0]} for n in things
        ],
        looks=[look(n, layer("l", **{c: value(v) for c, v in each[1].items()})) for n, each in things.items()],
        **members,
    )
    return float(
        render_frame(made, MadeFiles(**{n: each[0] for n, each in things.items()}), 6, 6, samples, 2).picture().mean()
    )


@pytest.mark.parametrize("weight", [0.0, 0.3, 1.0])
@pytest.mark.parametrize("roughness", [0.0, 0.5])
def test_specular_weight_scales_metals_too(weight: float, roughness: float) -> None:
    channels = {"base_metalness": 1.0, "base_color": 1.0, "specular_roughness": roughness}
    assert given_back(0.7, **channels, specular_weight=weight) == pytest.approx(weight, abs=0.01)


LAMP = {"lights": [{"name": "l", "shape": "point", "position": [0, 9, 0], "power": 500.0}], "environment": BLACK}
ABOVE = {"camera": {"position": [0, 1, 0.001], "target": [0, 0, 0], "focal_length": 500}}
DULL = (square(6.0), {"base_color": 0.5, "specular_weight": 0.0})
ONE_TURN = {"limits": {"diffuse": 0, "glossy": 0}}


def lit_through(**layers: Any) -> float:
    """A floor lit from above by a lamp through a clear body of index 1 with some layers on it."""
    clear = {"transmission_weight": 1.0, "specular_ior": 1.0, "specular_roughness": 0.0, **layers}
    return picture({"floor": DULL, "pane": (box(6, 0.4, 6), clear)}, **LAMP, **ABOVE, **ONE_TURN)


@pytest.mark.parametrize("colour", [0.25, 0.7])
def test_shadow_rays_are_tinted_by_a_coat_once_for_in_and_out(colour: float) -> None:
    # Coat colour is what is left after in and out, so its root at each of the body's two boundaries.
    coat = {"coat_weight": 1.0, "coat_ior": 1.0}
    plain, tinted = lit_through(**coat), lit_through(**coat, coat_color=[colour] * 3)
    assert tinted / plain == pytest.approx(colour, rel=0.02)


def test_shadow_rays_are_weakened_by_fuzz_and_by_what_a_coat_reflects() -> None:
    bare = lit_through()
    fuzz = lit_through(fuzz_weight=0.8, fuzz_roughness=0.6)
    assert fuzz / bare == pytest.approx(1 - 0.8 * fuzz_albedo(1.0, 0.6), rel=0.02)
    # The base's index is taken against the coat's: 1 under 1.5 reflects as 1.5 does.
    coat = lit_through(coat_weight=1.0, coat_ior=1.5)
    back = dielectric_albedo(TABLE, 1.0, 0.0, 1.5)
    assert coat / bare == pytest.approx((1 - back) ** 2, rel=0.02)


def test_a_coat_weakens_and_tints_what_shines_below_it_for_the_eye_and_for_floors() -> None:
    # Head on: colour × (1 − F0), with F0 of index 1.5.
    glow = {"emission_luminance": 2.0, "base_weight": 0.0, "specular_weight": 0.0}
    coat = {"coat_weight": 1.0, "coat_ior": 1.5, "coat_color": [0.5] * 3, "coat_darkening": 0.0}
    straight = {"camera": {"position": [0, 3, 0.001], "target": [0, 0, 0], "focal_length": 3000}, "environment": BLACK}
    bare, seen = (picture({"floor": (square(2.0), channels)}, **straight) for channels in (glow, glow | coat))
    assert seen / bare == pytest.approx(0.5 * 0.96, rel=0.01)
    # A floor that a small shining square above it lights, straight down.
    lit = []
    for channels in (glow, glow | coat):
        things = {"floor": DULL, "pane": (square(0.2), channels)}
        beside = {"camera": {"position": [0, 1, 0.001], "target": [0, 0, 0], "focal_length": 900}, "environment": BLACK}
        lit.append(picture(things, 64, **beside, **ONE_TURN))
    assert lit[1] / lit[0] == pytest.approx(0.5 * 0.96, rel=0.03)


def mirrored(channels: dict[str, Any]) -> float:
    """What a level floor mirrors straight up of a sky that is bright on one side of the world only."""
    sky = np.zeros((16, 32, 3), np.float32)
    sky[:, :16] = 1.0
    made = shot(
        camera={"position": [0, 3, 0.001], "target": [0, 0, 0], "focal_length": 3000},
        environment={"image": {"file": "sky"}, "rotation": 0},
        objects=[{"name": "f", "geometry": {"file": "f"}, "look": "l"}],
        looks=[look("l", layer("l", **{name: value(v) for name, v in channels.items()}))],
    )
    return float(render_frame(made, MadeFiles(f=square(4.0), sky=sky), 4, 4, 64, 2).picture().mean())


def test_a_coat_has_a_normal_of_its_own() -> None:
    varnish = {"base_weight": 0.0, "specular_weight": 0.0, "coat_weight": 1.0, "coat_roughness": 0.05}
    left, right = ([-0.4, 0.0, 0.917], [0.4, 0.0, 0.917])
    sides = [mirrored(varnish | {"geometry_coat_normal": each}) for each in (left, right)]
    assert max(sides) > 20 * max(min(sides), 1e-6), "each side mirrors the other half of the sky"
    # A map that tilts the base leaves the coat on the geometry, and the other way round.
    flat = [mirrored(varnish | {"geometry_normal": each}) for each in (left, right)]
    assert flat[0] == pytest.approx(flat[1], rel=0.1)
    metal = {"base_metalness": 1.0, "specular_roughness": 0.05}
    tilted = [mirrored(metal | {"geometry_normal": each}) for each in (left, right)]
    assert max(tilted) > 20 * max(min(tilted), 1e-6)


@pytest.mark.parametrize("part", ["base", "coat"])
def test_the_grain_lies_along_the_tangent_that_is_given(part: str) -> None:
    names = {
        "base": ("specular_roughness_anisotropy", "geometry_tangent"),
        "coat": ("coat_roughness_anisotropy", "geometry_coat_tangent"),
    }[part]
    base = {
        "base": {"base_metalness": 1.0, "specular_roughness": 0.35},
        "coat": {"base_weight": 0.0, "specular_weight": 0.0, "coat_weight": 1.0, "coat_roughness": 0.35},
    }[part]

    def spread(tangent: list[float]) -> float:
        made = shot(
            camera={"position": [0, 6, 0.001], "target": [0, 0, 0], "focal_length": 100},
            environment=BLACK,
            lights=[{"name": "l", "shape": "point", "position": [0, 1.5, 0], "power": 100.0}],
            objects=[{"name": "f", "geometry": {"file": "f"}, "look": "l"}],
            looks=[
                look("l", layer("l", **{n: value(v) for n, v in (base | {names[0]: 0.95, names[1]: tangent}).items()}))
            ],
        )
        light = render_frame(made, MadeFiles(f=square(4.0)), 33, 33, 16, 2).picture()[..., 0]
        place = np.arange(33) - 16
        return float((light.sum(axis=0) * place**2).sum() / (light.sum(axis=1) * place**2).sum())

    assert spread([1.0, 0.0, 0.0]) > 2 and spread([0.0, 1.0, 0.0]) < 0.5


def test_values_beyond_a_range_are_said_to_be_held() -> None:
    found = reading(layer("a", specular_ior=value(0.1), base_weight=value(0.5)))
    by_name = {each.name: each for each in found.channels}
    assert (by_name["specular_ior"].value, by_name["specular_ior"].asked) == ((1.0,), pytest.approx((0.1,)))
    assert by_name["base_weight"].asked == ()
    assert any("held, asked for 0.1" in line for line in lines(found))


def test_the_sheet_says_it_too() -> None:
    made, points = seen_look(looks=[look("ground", layer("a", specular_ior=value(0.1), coat_weight={
        "recipe": recipe(step("constant", value=0.5))}))])  # fmt: skip
    cells = sheet_plans(made, made.looks[0])
    drawn = {name: draw_cell(points, 0, name, plan) for name, plan in cells.items()}
    assert drawn["0/specular_ior"]["held"] == {"at": 1.0, "asked": pytest.approx(0.1)}
    assert "held" not in drawn["0/coat_weight"]
