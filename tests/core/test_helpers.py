"""Helper channels and what stands behind everything: self-lit colour, stops of emission, backdrops, and the noise measure."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles, layer, look, shot, square, value
from texallon.core.render.film.noise_level import TILE, tile_errors
from texallon.core.render.render_frame import render_frame

ABOVE = {"position": [0, 6, 0.001], "target": [0, 0, 0], "focal_length": 400}


def seen(channels: dict[str, Any], samples: int = 16, **members: Any) -> np.ndarray:
    """A level sheet seen from above."""
    made = shot(
        **{
            "camera": ABOVE,
            "objects": [{"name": "f", "geometry": {"file": "f"}, "look": "l"}],
            "looks": [look("l", layer("l", **{name: value(given) for name, given in channels.items()}))],
            **members,
        }
    )
    files = MadeFiles(f=square(20.0), **members.pop("files", {}))
    return render_frame(made, files, 8, 8, samples, 2).picture()


@pytest.mark.parametrize("exposure", [-3.0, 0.0, 2.0])
@pytest.mark.parametrize("sky", [0.0, 5.0])
def test_a_self_lit_colour_is_shown_as_it_is_whatever_the_light(exposure: float, sky: float) -> None:
    colour = [0.7, 0.3, 0.1]
    metal = {"base_metalness": 1.0, "coat_weight": 1.0, "fuzz_weight": 1.0, "subsurface_weight": 1.0}
    light = seen(
        {"self_lit": 1.0, "base_color": colour, **metal},
        camera={**ABOVE, "exposure": exposure},
        environment={"colour": [sky] * 3},
    )
    # Exposure is applied when the picture is shown: what is shown is the colour.
    assert light.mean(axis=(0, 1)) * 2.0**exposure == pytest.approx(colour, rel=1e-5)


def test_half_self_lit_lies_between() -> None:
    dull = {"base_color": [0.6, 0.6, 0.6], "specular_weight": 0.0}
    dark = {"environment": {"colour": [0, 0, 0]}}
    assert seen({**dull, "self_lit": 0.5}, **dark).mean() == pytest.approx(0.3, rel=1e-4)
    assert seen({**dull, "self_lit": 0.0}, **dark).max() == 0


@pytest.mark.parametrize("stops", [-2.0, 0.0, 3.0])
def test_emission_doubles_with_each_stop(stops: float) -> None:
    dark = {"base_weight": 0.0, "specular_weight": 0.0, "emission_luminance": 0.4, "emission_color": [1.0, 0.5, 0.25]}
    light = seen({**dark, "emission_exposure": stops}, environment={"colour": [0, 0, 0]})
    assert light.mean(axis=(0, 1)) == pytest.approx(np.array([0.4, 0.2, 0.1]) * 2**stops, rel=1e-5)


def test_a_backdrop_is_seen_past_everything_and_lights_nothing() -> None:
    aside = {"camera": {"position": [0, 1, 0], "target": [0, 1, -1]}, "environment": {"colour": [0, 0, 0]}}
    light = seen({"base_color": [0.8] * 3}, backdrop={"colour": [0.2, 0.4, 0.6]}, **aside)
    assert light[0, 0] == pytest.approx([0.2, 0.4, 0.6], rel=1e-5), "above the horizon"
    assert light[-1, 0].max() == 0, "the floor is not lit by it"


def test_a_backdrop_picture_fills_the_view_from_edge_to_edge() -> None:
    quarters = np.zeros((2, 2, 3), np.float32)
    quarters[0, 0], quarters[0, 1], quarters[1, 0], quarters[1, 1] = (1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 1)
    made = shot(
        camera={"position": [0, 1, 0], "target": [0, 9, 0.01]},
        objects=[],
        backdrop={"image": {"file": "plate.png"}, "colour": [2, 2, 2]},
    )
    light = render_frame(made, MadeFiles(**{"plate.png": quarters}), 8, 6, 1, 1).picture()
    assert light[0, 0] == pytest.approx([2, 0, 0]) and light[0, -1] == pytest.approx([0, 2, 0])
    assert light[-1, 0] == pytest.approx([0, 0, 2]) and light[-1, -1] == pytest.approx([2, 2, 2])


def test_a_mirror_sees_the_surroundings_and_not_the_backdrop() -> None:
    mirror = {"base_metalness": 1.0, "base_color": [1.0] * 3, "specular_roughness": 0.0}
    light = seen(mirror, environment={"colour": [0.5] * 3}, backdrop={"colour": [9, 0, 0]})
    assert light.mean(axis=(0, 1)) == pytest.approx([0.5] * 3, rel=1e-4)


# The measure of noise ---------------------------------------------------------------------------------------------


def film_of(noise: float, samples: int, size: int = 64, level: float = 0.5) -> np.ndarray:
    """Errors of a film of even light with normal noise in each sample."""
    rng = np.random.default_rng(3)
    taken = level + noise * rng.normal(size=(samples, 3, size * size)).astype(np.float32)
    counts = np.full(size * size, samples, np.int32)
    return tile_errors(taken.sum(axis=0), taken[1::2].sum(axis=0), counts, (size, size))


def test_the_measured_error_is_that_of_the_mean() -> None:
    # All samples and half of them differ by noise / √n (their covariance is that of the whole); the sum of three channels has √3
    # of one's noise, and the mean of |x| of a normal distribution is √(2/π): Dammertz et al. 2010, eq. 2.
    noise, samples, level = 0.2, 64, 0.5
    wanted = noise / np.sqrt(samples) * np.sqrt(3) * np.sqrt(2 / np.pi) / np.sqrt(3 * level)
    assert film_of(noise, samples, level=level).mean() == pytest.approx(wanted, rel=0.05)


def test_noise_falls_with_the_root_of_samples() -> None:
    assert film_of(0.2, 16).mean() / film_of(0.2, 64).mean() == pytest.approx(2, rel=0.1)


def test_tiles_cover_sizes_that_they_do_not_divide() -> None:
    counts = np.ones(20 * 37, np.int32)
    errors = tile_errors(np.ones((3, 740), np.float32), np.ones((3, 740), np.float32), counts, (20, 37))
    assert errors.shape == (2, 3) and TILE == 16
    assert np.isfinite(errors).all()
