"""Light that wanders below a surface, and sheets without an inside."""

from math import pi, sqrt
from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, ball, box, layer, look, shot, square, value
from tests.surfaces import given_back
from texallon.core.random_numbers import uniform4
from texallon.core.render.render_frame import render_frame
from texallon.core.shade.half_space import single_albedo
from texallon.core.shade.media.phase import henyey_greenstein_pdf, sample_henyey_greenstein
from tools.half_space import given_back as given_back_by_doubling

pytestmark = pytest.mark.slow

WAX = {
    "subsurface_weight": value(1.0),
    "specular_weight": value(0.0),
    "subsurface_radius_scale": value([1.0, 1.0, 1.0]),
}


def seen(mesh: Any, wax: dict[str, Any], samples: int = 200, size: int = 8, **members: Any) -> np.ndarray:
    made = shot(
        **{
            "camera": {"position": [0, 0, 9], "target": [0, 0, 0], "focal_length": 2500},
            "environment": {"colour": [1, 1, 1]},
            "objects": [{"name": "w", "geometry": {"file": "w"}, "look": "wax"}],
            "looks": [look("wax", layer("wax", **(WAX | wax)))],
            **members,
        }
    )
    return render_frame(made, MadeFiles(w=mesh), size, size, samples, 2).picture()


@pytest.mark.parametrize("colour", [0.1, 0.3, 0.5, 0.8, 0.95])
@pytest.mark.parametrize("forward", [-0.9, -0.4, 0.0, 0.6, 0.9])
def test_a_deep_body_looks_of_the_colour_that_was_asked_for(colour: float, forward: float) -> None:
    # A half space under a white sky (see `single_albedo`); the body is a thousand mean free paths deep.
    wax = {
        "subsurface_color": value([colour] * 3),
        "subsurface_radius": value(0.004),
        "subsurface_scatter_anisotropy": value(forward),
    }
    found = seen(box(4, 4, 4), wax, 1200).mean()
    assert found == pytest.approx(colour, rel=0.03)


def test_white_wax_loses_nothing() -> None:
    found = seen(ball(1.0, 32), {"subsurface_color": value([1.0] * 3), "subsurface_radius": value(0.3)}, 400).mean()
    assert found == pytest.approx(1.0, abs=0.015)


def test_light_comes_out_beside_where_it_went_in() -> None:
    # Behind the edge of a shadow a hard surface is black and wax still glows, the farther the larger its radius.
    def in_shadow(radius: float) -> float:
        lamp = {"name": "l", "position": [0, 6, 0], "target": [0, 0, 0], "width": 0.1, "height": 0.1, "power": 4000.0}
        shade = look("black", layer("b", base_weight=value(0.0), specular_weight=value(0.0)))
        wax = look("wax", layer("w", **WAX, subsurface_color=value([0.9] * 3), subsurface_radius=value(radius)))
        made = shot(
            camera={"position": [0.15, 0.4, 0.001], "target": [0.15, 0, 0], "focal_length": 900},
            environment={"colour": [0, 0, 0]},
            lights=[lamp],
            objects=[
                {"name": "w", "geometry": {"file": "w"}, "look": "wax", "position": [0, -1, 0]},
                {"name": "s", "geometry": {"file": "s"}, "look": "black", "position": [1.0, 0.02, 0]},
            ],
            looks=[wax, shade],
        )
        files = MadeFiles(w=box(4, 2, 4), s=square(2.0))
        # The camera looks past the shade's edge from below it: it stands between camera and floor only from above.
        made = made.model_copy(
            update={
                "camera": made.camera.model_copy(update={"position": (-0.1, 0.015, 0.0), "target": (0.02, 0.0, 0.0)})
            }
        )
        return float(render_frame(made, files, 8, 8, 300, 2).picture().mean())

    near, far = in_shadow(0.002), in_shadow(0.05)
    assert far > 10 * max(near, 1e-6)


def test_red_goes_farther_than_blue_in_skin() -> None:
    wax = {
        "subsurface_color": value([0.8] * 3),
        "subsurface_radius": value(0.5),
        "subsurface_radius_scale": value([1.0, 0.5, 0.25]),
    }
    lamp = {"name": "l", "shape": "sphere", "position": [0, 0, -2], "width": 0.5, "power": 1000.0}
    light = seen(box(6, 6, 0.5), wax, 600, environment={"colour": [0, 0, 0]}, lights=[lamp]).mean(axis=(0, 1))
    assert light[0] > light[1] > light[2] > 0


@pytest.mark.parametrize("g", [-0.6, 0.0, 0.8])
def test_scattering_turns_by_its_density(g: float) -> None:
    # The mean cosine of Henyey and Greenstein's function is g (1941); it adds up to 1 over the sphere.
    turned = [sample_henyey_greenstein(0.6, 0.0, 0.8, g, *uniform4(n, 0, 0, 4)[:2]) for n in range(20_000)]
    cosines = np.array(turned) @ np.array([0.6, 0.0, 0.8])
    assert cosines.mean() == pytest.approx(g, abs=0.02)
    z = (np.arange(2000) + 0.5) / 1000 - 1
    assert sum(henyey_greenstein_pdf(c, g) for c in z) * 2 * pi / 1000 == pytest.approx(1.0, rel=0.01)


@pytest.mark.parametrize("colour", [0.04, 0.15, 0.45, 0.75, 0.93])
def test_single_albedo_inverts_the_half_space(colour: float) -> None:
    # Adding and doubling anew, between the table's own places; and van de Hulst's formula (1980), good to a per cent for g ≥ 0.
    for g in (-0.8, -0.3, 0.1, 0.6, 0.85):
        albedo = single_albedo(colour, g)
        assert given_back_by_doubling(albedo, g) == pytest.approx(colour, rel=0.012)
        if g >= 0:
            s = sqrt((1 - albedo) / (1 - albedo * g))
            assert (1 - s) * (1 - 0.139 * s) / (1 + 1.17 * s) == pytest.approx(colour, rel=0.02, abs=0.002)


# Thin walls -------------------------------------------------------------------------------------------------------


PETAL = {"subsurface_weight": 1.0, "geometry_thin_walled": 1.0, "specular_weight": 0.0}


def tuples(channels: dict[str, Any]) -> dict[str, tuple[float, ...]]:
    return {name: v if isinstance(v, tuple) else (v,) for name, v in channels.items()}


@pytest.mark.parametrize("forward", [-1.0, 0.0, 0.5, 1.0])
@pytest.mark.parametrize("mu", [0.2, 1.0])
def test_a_white_petal_gives_and_lets_through_everything(forward: float, mu: float) -> None:
    found = given_back(
        mu, **tuples(PETAL | {"subsurface_color": (1.0, 1.0, 1.0), "subsurface_scatter_anisotropy": forward})
    )
    assert found[0] == pytest.approx(1.0, abs=0.01)


def lit(petal: dict[str, Any], above: bool, **members: Any) -> float:
    """A level sheet seen from above, lit by a point lamp from above or below: its light over that of a white dull sheet."""
    made = shot(
        camera={"position": [0, 5, 0.001], "target": [0, 0, 0], "focal_length": 4000},
        environment={"colour": [0, 0, 0]},
        lights=[{"name": "l", "shape": "point", "position": [0, 2 if above else -2, 0], "power": 16 * pi * pi}],
        objects=[{"name": "p", "geometry": {"file": "p"}, "look": "petal"}],
        looks=[look("petal", layer("p", **{name: value(v) for name, v in petal.items()}))],
        **members,
    )
    return float(render_frame(made, MadeFiles(p=square(4.0)), 4, 4, 64, 2).picture()[..., 0].mean())


def test_a_petal_is_lit_from_behind() -> None:
    # Irradiance π at the sheet: half of its colour goes each way (OpenPBR Surface 1.1, thin-walled subsurface).
    petal = PETAL | {"subsurface_color": [0.6] * 3}
    assert lit(petal, True) == pytest.approx(0.3, rel=0.01)
    assert lit(petal, False) == pytest.approx(0.3, rel=0.01)
    forward = petal | {"subsurface_scatter_anisotropy": 1.0}
    assert lit(forward, True) == pytest.approx(0.0, abs=1e-6)
    assert lit(forward, False) == pytest.approx(0.6, rel=0.01)
    solid = petal | {"geometry_thin_walled": 0.0, "subsurface_weight": 0.0}
    assert lit(solid, False) == 0.0


def test_a_clear_wall_lets_light_straight_through_both_faces() -> None:
    # Reflection of a pane without thickness: 2R / (1 + R) (E. Hecht, *Optics*; R = 0.04 for index 1.5).
    pane = {"transmission_weight": 1.0, "geometry_thin_walled": 1.0, "specular_roughness": 0.0}
    made = shot(
        camera={"position": [0, 5, 0.001], "target": [0, 0, 0], "focal_length": 4000},
        environment={"colour": [0, 0, 0]},
        objects=[
            {"name": "p", "geometry": {"file": "p"}, "look": "pane"},
            {"name": "lit", "geometry": {"file": "p"}, "look": "lit", "position": [0, -1, 0]},
        ],
        looks=[
            look("pane", layer("p", **{name: value(v) for name, v in pane.items()})),
            look("lit", layer("l", emission_luminance=value(1.0), base_weight=value(0.0), specular_weight=value(0.0))),
        ],
    )
    found = render_frame(made, MadeFiles(p=square(4.0)), 4, 4, 200, 2).picture()[..., 0].mean()
    assert found == pytest.approx(1 - 2 * 0.04 / 1.04, abs=0.01)


@pytest.mark.parametrize("mu", [0.3, 1.0])
def test_a_clear_thin_wall_loses_nothing(mu: float) -> None:
    found = given_back(
        mu, **tuples({"transmission_weight": 1.0, "geometry_thin_walled": 1.0, "specular_roughness": 0.0})
    )
    assert found[0] == pytest.approx(1.0, abs=1e-3)
