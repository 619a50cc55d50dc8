"""The coat and the wet look: energy, reciprocity, tint, darkening, and a film of water against its published model."""

from math import cos, pi, sin, sqrt

import numpy as np
import pytest

from tests.builders import layer, look, recipe, step, value
from tests.core.test_render import floor_shot, mean
from tests.core.test_shading import material
from texallon.core.kernel import allocating
from texallon.core.shade.albedo import albedo_tables, dielectric_albedo, dielectric_mean_albedo
from texallon.core.shade.base import NOTHING, SPREAD
from texallon.core.shade.random import uniform4
from texallon.core.shade.rows import COAT_WEIGHT, MATERIAL_ROWS
from texallon.core.shade.surface import reflected, sample_surface
from texallon.core.shade.wetting import FILM_ROUGHNESS, wet

TABLE, MEAN = albedo_tables()
WHITE = {"base_color": (1.0, 1.0, 1.0), "specular_weight": (0.0,)}


@allocating
def furnace(m: np.ndarray, mu: float, table: np.ndarray, mean_table: np.ndarray, count: int) -> np.ndarray:
    """Share of light that a surface gives back in a white furnace, by channel."""
    total = np.zeros(3)
    ox = sqrt(1 - mu * mu)
    for s in range(count):
        pick, u, v, _ = uniform4(s, 0, 0, 3)
        kind, _, _, _, r, g, b, _, _ = sample_surface(m, 0, ox, 0.0, mu, True, pick, u, v, table, mean_table)
        if kind != NOTHING:
            total[0] += r
            total[1] += g
            total[2] += b
    return total / count


def given_back(mu: float, count: int = 60_000, **channels: tuple[float, ...]) -> np.ndarray:
    return furnace(material(**channels), mu, TABLE, MEAN, count)


@pytest.mark.parametrize("mu", [0.15, 0.5, 1.0])
@pytest.mark.parametrize("roughness", [0.0, 0.1, 0.4, 0.9])
def test_a_coat_over_a_white_ground_gives_everything_back(mu: float, roughness: float) -> None:
    # White furnace: what the coat does not reflect comes back from below, in the end all of it. At grazing angles a rough coat
    # loses what its single scattering loses (not compensated): under 2 %.
    found = given_back(mu, coat_weight=(1.0,), coat_roughness=(roughness,), coat_ior=(1.5,), **WHITE)[0]
    assert found <= 1.01
    assert found >= 0.975


@pytest.mark.parametrize("mu", [0.15, 0.5, 1.0])
@pytest.mark.parametrize("roughness", [0.1, 0.5])
@pytest.mark.parametrize("coat", [0.0, 0.3])
def test_a_coat_over_a_white_metal_never_gains_and_loses_little(mu: float, roughness: float, coat: float) -> None:
    # Facets are left the smaller of what either direction passes: reciprocal, and a loss that is stated: at most 12 % seen at
    # grazing angles, 5 % head on.
    metal = {"base_color": (1.0, 1.0, 1.0), "base_metalness": (1.0,), "specular_roughness": (roughness,)}
    found = given_back(mu, coat_weight=(1.0,), coat_roughness=(coat,), **metal)[0]
    assert found <= 1.01
    assert found >= (0.88 if mu < 0.3 else 0.95)


def test_no_coat_changes_nothing() -> None:
    plain = given_back(0.5, base_color=(0.4, 0.2, 0.1))
    none = given_back(0.5, base_color=(0.4, 0.2, 0.1), coat_weight=(0.0,), coat_roughness=(0.5,), coat_ior=(2.0,))
    assert np.array_equal(plain, none)


def test_half_a_coat_lies_halfway() -> None:
    ground = {"base_color": (0.5, 0.5, 0.5), "specular_weight": (0.0,), "coat_darkening": (0.0,)}
    none, half, whole = (given_back(1.0, coat_weight=(w,), coat_ior=(1.5,), **ground)[0] for w in (0.0, 0.5, 1.0))
    assert half == pytest.approx((none + whole) / 2, abs=0.01)


@pytest.mark.parametrize("roughness", [0.1, 0.4])
def test_a_coated_surface_looks_the_same_from_both_ends(roughness: float) -> None:
    # Helmholtz reciprocity of f (without the cosine).
    m = material(
        base_color=(0.5, 0.3, 0.1), coat_weight=(0.8,), coat_roughness=(roughness,), coat_color=(0.7, 0.9, 0.5),
        specular_roughness=(0.4,), base_metalness=(0.3,),
    )  # fmt: skip
    rng = np.random.default_rng(0)
    for _ in range(200):
        ways = []
        for _ in range(2):
            z, phi = rng.uniform(0.05, 1), rng.uniform(0, 2 * pi)
            ring = sqrt(1 - z * z)
            ways.append((ring * cos(phi), ring * sin(phi), z))
        o, i = ways
        there = np.array(reflected(m, 0, *o, *i, True, TABLE, MEAN)[:3]) / i[2]
        back = np.array(reflected(m, 0, *i, *o, True, TABLE, MEAN)[:3]) / o[2]
        assert np.allclose(there, back, rtol=1e-5)


@allocating
def histogram(m: np.ndarray, mu: float, table: np.ndarray, mean_table: np.ndarray, count: int) -> np.ndarray:
    """Chances of 10 × 8 cells of the hemisphere: as sampled, and as the density says."""
    found = np.zeros((2, 10, 8))
    ox = sqrt(1 - mu * mu)
    for s in range(count):
        pick, u, v, _ = uniform4(s, 2, 0, 3)
        kind, ix, iy, iz, _, _, _, _, _ = sample_surface(m, 0, ox, 0.0, mu, True, pick, u, v, table, mean_table)
        if kind == SPREAD:
            i = int((np.arctan2(iy, ix) / (2 * pi) + 0.5) * 10) % 10
            found[0, i, min(int(iz * 8), 7)] += 1.0 / count
    fine = 48
    for i in range(10 * fine):
        for j in range(8 * fine):
            phi, z = ((i + 0.5) / (10 * fine) - 0.5) * 2 * pi, (j + 0.5) / (8 * fine)
            ring = sqrt(1 - z * z)
            _, _, _, density = reflected(
                m, 0, ox, 0.0, mu, ring * cos(phi), ring * sin(phi), z, True, table, mean_table
            )
            found[1, i // fine, j // fine] += density * 2 * pi / (10 * fine) / (8 * fine)
    return found


def test_directions_are_chosen_by_the_density_that_is_told() -> None:
    m = material(coat_weight=(0.9,), coat_roughness=(0.35,), coat_ior=(1.9,), specular_roughness=(0.5,))
    found = histogram(m, 0.6, TABLE, MEAN, 200_000)
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
    thrown = 1 - (1 - dielectric_mean_albedo(MEAN, float(FILM_ROUGHNESS), n)) / n**2
    rows = material(base_color=(albedo,) * 3, specular_weight=(0.0,), wetness=(1.0,))
    wet(rows)
    found = furnace(rows, 1.0, TABLE, MEAN, 60_000)[0]
    back = dielectric_albedo(TABLE, 1.0, float(FILM_ROUGHNESS), n)
    absorbed = (1 - back) * (1 - albedo) / (1 - thrown * albedo)
    assert found == pytest.approx(1 - absorbed, abs=0.01)


def test_wet_ground_is_darker_and_shinier() -> None:
    # Common practice, no published source: wet ground is darker and more reflective; dry ground is neither.
    dry = material(base_color=(0.3, 0.3, 0.3), specular_roughness=(0.7,))
    soaked = material(base_color=(0.3, 0.3, 0.3), specular_roughness=(0.7,), wetness=(1.0,))
    wet(soaked)
    assert furnace(soaked, 1.0, TABLE, MEAN, 30_000)[0] < 0.75 * furnace(dry, 1.0, TABLE, MEAN, 30_000)[0]
    glance = (sin(1.2), 0.0, cos(1.2)), (-sin(1.2), 0.0, cos(1.2))
    shine = [reflected(m, 0, *glance[0], *glance[1], True, TABLE, MEAN)[0] for m in (dry, soaked)]
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
    thrown = 1 - (1 - dielectric_mean_albedo(MEAN, float(FILM_ROUGHNESS), 1.333)) / 1.333**2
    back = dielectric_albedo(TABLE, 1.0, float(FILM_ROUGHNESS), 1.333)
    assert pictures[0] == pytest.approx(0.5, rel=0.02)
    assert pictures[1] == pytest.approx(1 - (1 - back) * 0.5 / (1 - thrown * 0.5), rel=0.02)
