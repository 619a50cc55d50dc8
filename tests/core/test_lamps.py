"""Lamps of every shape against inverse-square and cosine laws and the form factors of their shapes."""

from math import cos, pi, radians, sin, sqrt
from typing import Any

import numpy as np
import pytest
from scipy import stats

from tests.builders import layer, look, value
from tests.core.test_render import floor_shot, mean
from texallon.core.document.light import Light
from texallon.core.kernel import allocating
from texallon.core.random_numbers import uniform4
from texallon.core.render.light.lamps import lamp_hit_pdf, lamp_row, sample_lamp
from texallon.core.render.scene.lamp_shapes import lamp_mesh

NARROW = {"position": [0, 3, 0.001], "target": [0, 0, 0], "focal_length": 4000}


def floor_under(samples: int = 256, **light: Any) -> float:
    """What a dull floor of albedo ½ gives back at the origin."""
    lamp = {"name": "l", "visible": False, **light}
    return float(mean(floor_shot(lights=[lamp], camera=NARROW), samples)[0])


@pytest.mark.parametrize("height", [1.0, 3.0])
@pytest.mark.parametrize("aside", [0.0, 2.0])
def test_a_point_lights_by_the_inverse_square_and_the_cosine(height: float, aside: float) -> None:
    # Intensity P / 4π; irradiance I cos θ / d²; a dull floor gives back ρ E / π.
    d2 = height**2 + aside**2
    expected = 0.5 / pi * 40 / (4 * pi) * height / sqrt(d2) / d2
    assert floor_under(shape="point", position=[aside, height, 0], target=[0, 0, 0], power=40) == pytest.approx(
        expected, rel=0.01
    )


def test_a_spot_is_a_point_within_its_cone_and_fades_at_its_edge() -> None:
    def at(degrees: float, **more: Any) -> float:
        # Turned away from the floor's middle by some angle.
        target = [2 * np.tan(radians(degrees)), 0, 0]
        return floor_under(64, shape="spot", position=[0, 2, 0], target=target, power=40, cone=60, **more)

    point = floor_under(64, shape="point", position=[0, 2, 0], target=[0, 0, 0], power=40)
    assert at(0) == pytest.approx(point, rel=1e-4)
    assert at(20, blend=0.3) == pytest.approx(point, rel=1e-4), "inside 70 % of the half angle"
    assert 0.05 * point < at(27, blend=0.3) < 0.95 * point
    assert at(31) == 0.0


@pytest.mark.parametrize("degrees", [0.0, 30.0, 70.0])
@pytest.mark.parametrize("angle", [0.0, 0.53, 10.0])
def test_the_sun_lights_by_the_cosine_from_any_distance(degrees: float, angle: float) -> None:
    # Irradiance of a small disc of the sky: the given watts per square metre times the cosine. For a disc of 10° the mean cosine
    # over it is lower by (1 + cos α) / 2.
    way = [5 * sin(radians(degrees)), 5 * cos(radians(degrees)), 0]
    found = floor_under(128, shape="sun", position=way, target=[0, 0, 0], power=2.0, angle=angle)
    expected = 0.5 / pi * 2.0 * cos(radians(degrees))
    assert found == pytest.approx(expected, rel=0.01)


@pytest.mark.parametrize("width", [0.2, 1.0, 6.0])
def test_a_disc_lights_its_axis_by_its_form_factor(width: float) -> None:
    # E = π L R² / (R² + h²) on the axis of a Lambertian disc (J. R. Howell, Catalog of Configuration Factors, B-12; from memory).
    radius, height = width / 2, 2.0
    radiance = 30 / (pi * pi * radius**2)
    expected = 0.5 * radiance * radius**2 / (radius**2 + height**2)
    found = floor_under(600, shape="disc", position=[0, height, 0], target=[0, 0, 0], width=width, power=30)
    assert found == pytest.approx(expected, rel=0.02)


@pytest.mark.parametrize("width", [0.1, 1.0, 3.0])
def test_a_sphere_lights_by_the_square_of_its_apparent_size(width: float) -> None:
    # E = π L (R / d)² cos θ for a sphere wholly above the horizon (Lambert 1760).
    radius, d = width / 2, 2.0
    radiance = 30 / (pi * 4 * pi * radius**2)
    expected = 0.5 * radiance * (radius / d) ** 2
    found = floor_under(600, shape="sphere", position=[0, d, 0], target=[0, 0, 0], width=width, power=30)
    assert found == pytest.approx(expected, rel=0.02)


@pytest.mark.parametrize("shape", ["disc", "sphere", "sun"])
@pytest.mark.parametrize("roughness", [0.0, 0.15, 0.4])
def test_lamps_by_both_strategies_are_counted_once(shape: str, roughness: float) -> None:
    # A white metal floor under lamps of radiance 1 that fill the sky shows that radiance, whichever way they are found.
    metal = layer(
        "m", base_color=value([1.0, 1.0, 1.0]), base_metalness=value(1.0), specular_roughness=value(roughness)
    )
    lamp: dict[str, Any] = {"name": "l", "shape": shape, "target": [0, 0, 0], "visible": False}
    if shape == "disc":
        lamp |= {"position": [0, 6, 0], "width": 200, "power": pi * pi * 100**2}
    elif shape == "sphere":
        lamp |= {"position": [0, 60, 0], "width": 119, "power": pi * 4 * pi * 59.5**2}
    else:
        lamp |= {"position": [0, 6, 0], "angle": 90, "power": pi * sin(radians(45)) ** 2}
    found = mean(floor_shot(lights=[lamp], looks=[look("dull", metal)]), 200)[0]
    # The sun fills 45° about the mirror direction only: facets that lean more than 22.5° look past it (the share of GGX normals
    # beyond θ is α² / (α² + tan²θ)).
    alpha = roughness**2
    past = alpha**2 / (alpha**2 + np.tan(radians(22.5)) ** 2) if shape == "sun" else 0.0
    assert found == pytest.approx(1.0 - past, rel=0.03)


def test_the_sun_is_seen_where_it_stands_if_it_may_be() -> None:
    up = {"position": [0, 0, 3], "target": [0, 3, 0]}
    sun = {"name": "s", "shape": "sun", "position": [0, 3, -3], "target": [0, 0, 0], "angle": 20, "power": 1.0}

    def seen(visible: bool) -> float:
        made = floor_shot(camera=up, lights=[{**sun, "visible": visible}], objects=[])
        return float(mean(made, 4)[0])

    assert seen(True) > 0.05
    assert seen(False) == 0.0


@pytest.mark.parametrize("shape", ["disc", "sphere"])
def test_rays_meet_what_is_sampled(shape: str) -> None:
    light = Light.model_validate({"name": "l", "shape": shape, "position": [1, 2, 3], "width": 0.8})
    found = lamp_mesh(light)
    assert found is not None
    points, faces = found
    a, b, c = (points[faces[:, corner]].astype(float) for corner in range(3))
    area = np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2
    assert area == pytest.approx(lamp_row(light)[15], rel=2e-3)


@allocating
def ask_often(lamps: np.ndarray, count: int) -> np.ndarray:
    out = np.empty((4, count))
    for i in range(count):
        u, v, _, _ = uniform4(i, 0, 0, 11)
        wx, wy, wz, far, p, _, _, _, _ = sample_lamp(lamps, 0, 0.0, 0.0, 0.0, u, v)
        emits, again = lamp_hit_pdf(lamps, 0, 0.0, 0.0, 0.0, wx, wy, wz, far)
        out[0, i], out[1, i], out[2, i], out[3, i] = p, again, emits, wy
    return out


@pytest.mark.parametrize("shape", ["rectangle", "disc", "sphere"])
def test_the_density_of_asking_is_that_of_meeting(shape: str) -> None:
    light = Light.model_validate(
        {"name": "l", "shape": shape, "position": [0.3, 2, -0.4], "target": [0, 0, 0], "width": 1.2}
    )
    asked = ask_often(np.array([lamp_row(light)], np.float32), 4000)
    lit = asked[0] > 0
    assert lit.mean() > 0.99
    assert np.allclose(asked[0, lit], asked[1, lit], rtol=1e-3)
    assert (asked[2, lit] == 1).all()


def test_directions_within_a_sphere_are_even_in_solid_angle() -> None:
    light = Light.model_validate(
        {"name": "l", "shape": "sphere", "position": [0, 2, 0], "target": [0, 0, 0], "width": 2.0}
    )
    up = ask_often(np.array([lamp_row(light)], np.float32), 20_000)[3]
    least = sqrt(1 - 0.25)
    assert up.min() >= least - 1e-4
    assert stats.kstest((up - least) / (1 - least), "uniform").pvalue > 1e-3
