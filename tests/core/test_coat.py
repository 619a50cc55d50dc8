"""The coat and the wet look: energy, reciprocity, tint, darkening, and a film of water against its published model."""

from math import cos, pi, sin, sqrt

import numpy as np
import pytest

from tests.builders import layer, look, recipe, step, value
from tests.core.test_render import floor_shot, mean
from tests.surfaces import TABLE, furnace, given_back, histogram, material, scatters
from texallon.core.shade.albedo import dielectric_albedo, dielectric_mean_albedo
from texallon.core.shade.rows import COAT_WEIGHT, MATERIAL_ROWS
from texallon.core.shade.wetness import FILM_ROUGHNESS, wet

pytestmark = pytest.mark.slow

WHITE = {"base_color": (1.0, 1.0, 1.0), "specular_weight": (0.0,)}


@pytest.mark.parametrize("mu", [0.15, 0.5, 1.0])
@pytest.mark.parametrize("roughness", [0.0, 0.1, 0.4, 0.9])
def test_a_coat_over_a_white_ground_gives_everything_back(mu: float, roughness: float) -> None:
    # White furnace: what the coat does not reflect comes back from below, in the end all of it.
    found = given_back(mu, coat_weight=(1.0,), coat_roughness=(roughness,), coat_ior=(1.5,), **WHITE)[0]
    assert found == pytest.approx(1.0, abs=0.01)


@pytest.mark.parametrize("mu", [0.05, 0.15, 0.5, 1.0])
@pytest.mark.parametrize("roughness", [0.0, 0.1, 0.5, 1.0])
@pytest.mark.parametrize("coat", [0.0, 0.3, 0.8])
def test_a_coat_over_a_white_metal_loses_nothing(mu: float, roughness: float, coat: float) -> None:
    # Albedo scaling (the standard's layer operator): what the coat does not reflect towards the viewer is left to the metal.
    metal = {"base_color": (1.0, 1.0, 1.0), "base_metalness": (1.0,), "specular_roughness": (roughness,)}
    found = given_back(mu, coat_weight=(1.0,), coat_roughness=(coat,), **metal)[0]
    assert found == pytest.approx(1.0, abs=0.02)


@pytest.mark.parametrize("inside", [False, True])
@pytest.mark.parametrize("wetness", [0.0, 1.0])
@pytest.mark.parametrize("roughness", [0.0, 0.4])
def test_a_coat_does_not_blacken_glass(inside: bool, wetness: float, roughness: float) -> None:
    m = material(
        inside, transmission_weight=(1.0,), coat_weight=(1.0,), wetness=(wetness,), specular_roughness=(roughness,)
    )
    wet(m)
    for mu in (0.1, 0.5, 1.0):
        assert furnace(m, mu, 0.4, not inside, False, TABLE, 40_000, 3) == pytest.approx(1.0, abs=0.01)


def test_no_coat_changes_nothing() -> None:
    plain = given_back(0.5, base_color=(0.4, 0.2, 0.1))
    none = given_back(0.5, base_color=(0.4, 0.2, 0.1), coat_weight=(0.0,), coat_roughness=(0.5,), coat_ior=(2.0,))
    assert np.array_equal(plain, none)


def test_half_a_coat_lies_halfway() -> None:
    ground = {"base_color": (0.5, 0.5, 0.5), "specular_weight": (0.0,), "coat_darkening": (0.0,)}
    none, half, whole = (given_back(1.0, coat_weight=(w,), coat_ior=(1.5,), **ground)[0] for w in (0.0, 0.5, 1.0))
    assert half == pytest.approx((none + whole) / 2, abs=0.01)


def test_a_coated_diffuse_ground_looks_the_same_from_both_ends() -> None:
    # Helmholtz reciprocity of f (without the cosine), of coat and ground but for what the coat leaves of the view alone: with a weight
    # of 0 that is the ground, and a black ground leaves the coat.
    for channels in (
        {"base_color": (0.5, 0.3, 0.1), "coat_weight": (0.0,), "base_metalness": (0.3,), "specular_roughness": (0.4,)},
        {"base_color": (0.0,) * 3, "specular_weight": (0.0,), "coat_weight": (0.8,), "coat_roughness": (0.4,)},
    ):
        m = material(**channels)
        rng = np.random.default_rng(0)
        for _ in range(200):
            ways = []
            for _ in range(2):
                z, phi = rng.uniform(0.05, 1), rng.uniform(0, 2 * pi)
                ring = sqrt(1 - z * z)
                ways.append((ring * cos(phi), ring * sin(phi), z))
            o, i = ways
            assert np.allclose(scatters(m, o, i)[:3] / i[2], scatters(m, i, o)[:3] / o[2], rtol=1e-5)


def test_directions_are_chosen_by_the_density_that_is_told() -> None:
    m = material(coat_weight=(0.9,), coat_roughness=(0.35,), coat_ior=(1.9,), specular_roughness=(0.5,))
    found = histogram(m, 0.6, True, False, TABLE, 200_000, 10, 16)
    assert np.abs(found[0] - found[1]).max() < 0.004


def test_a_tinted_coat_colours_by_its_square_root_each_way() -> None:
    # OpenPBR Surface 1.1, coat colour: what is left of light that goes straight in and out again.
    plain = {"coat_weight": (1.0,), "coat_darkening": (0.0,), "coat_ior": (1.5,), "coat_roughness": (0.0,), **WHITE}
    clear = given_back(1.0, **plain)
    tinted = given_back(1.0, **plain, coat_color=(1.0, 0.5, 0.25))
    back = dielectric_albedo(TABLE, 1.0, 0.0, 1.5)
    left = (tinted - back) / (clear - back)
    assert left[0] == pytest.approx(1.0, abs=0.01)
    # Light comes back from all sides, by a longer way through the coat than straight: a little less is left than 0.5.
    assert 0.44 < left[1] < 0.5
    assert 0.19 < left[2] < 0.25


@pytest.mark.parametrize("albedo", [0.05, 0.18, 0.5, 0.8])
def test_wet_ground_is_as_dark_as_lekner_and_dorf_say(albedo: float) -> None:
    """A rough absorbing ground under water: J. Lekner and M. C. Dorf, Applied Optics 27(7), 1988, their absorptance

    A = (1 − R) a / (1 − p (1 − a)), with a the ground's own, R what water reflects of light that comes straight in, and p
    what it throws back of light from below, 1 − (1 − R̄) / n².
    """
    n = 1.333
    thrown = 1 - (1 - dielectric_mean_albedo(TABLE, float(FILM_ROUGHNESS), n)) / n**2
    rows = material(base_color=(albedo,) * 3, specular_weight=(0.0,), wetness=(1.0,))
    wet(rows)
    found = furnace(rows, 1.0, 0.0, True, False, TABLE, 60_000, 3)[0]
    back = dielectric_albedo(TABLE, 1.0, float(FILM_ROUGHNESS), n)
    absorbed = (1 - back) * (1 - albedo) / (1 - thrown * albedo)
    assert found == pytest.approx(1 - absorbed, abs=0.01)


def test_wet_ground_is_darker_and_shinier() -> None:
    # Common practice, no published source: wet ground is darker and more reflective; dry ground is neither.
    dry = material(base_color=(0.3, 0.3, 0.3), specular_roughness=(0.7,))
    soaked = material(base_color=(0.3, 0.3, 0.3), specular_roughness=(0.7,), wetness=(1.0,))
    wet(soaked)

    def shade(m: np.ndarray) -> float:
        return float(furnace(m, 1.0, 0.0, True, False, TABLE, 30_000, 3)[0])

    assert shade(soaked) < 0.75 * shade(dry)
    glance = (sin(1.2), 0.0, cos(1.2)), (-sin(1.2), 0.0, cos(1.2))
    shine = [scatters(m, *glance)[0] for m in (dry, soaked)]
    assert shine[1] > 20 * shine[0], "a mirror where it was dull"


def test_wetness_fades_in_and_spares_what_is_dry() -> None:
    rows = np.repeat(material(coat_weight=(0.2,)), 3, axis=1)
    rows[MATERIAL_ROWS["wetness"]] = [0.0, 0.5, 1.0]
    before = rows.copy()
    wet(rows)
    assert np.array_equal(rows[:, 0], before[:, 0])
    assert rows[COAT_WEIGHT].tolist() == pytest.approx([0.2, 0.5, 1.0])
    ior = rows[MATERIAL_ROWS["coat_ior"]]
    assert ior.tolist() == pytest.approx([1.6, 1.4665, 1.333])


def test_wetness_is_one_channel_of_a_look() -> None:
    ground = {"base_color": value([0.5, 0.5, 0.5]), "specular_weight": value(0.0)}
    mask = recipe(step("constant", value=1.0))
    pictures = []
    for wetness in (0.0, 1.0):
        layers = [layer("dry", **ground), layer("wet", mask, wetness=value(wetness))]
        pictures.append(mean(floor_shot(environment={"colour": [1, 1, 1]}, looks=[look("dull", *layers)]), 128)[0])
    thrown = 1 - (1 - dielectric_mean_albedo(TABLE, float(FILM_ROUGHNESS), 1.333)) / 1.333**2
    back = dielectric_albedo(TABLE, 1.0, float(FILM_ROUGHNESS), 1.333)
    assert pictures[0] == pytest.approx(0.5, rel=0.02)
    assert pictures[1] == pytest.approx(1 - (1 - back) * 0.5 / (1 - thrown * 0.5), rel=0.02)
