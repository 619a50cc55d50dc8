"""Every kind of medium, through its interface: Beer and Lambert's law, and distances that follow from it."""

import numpy as np
import pytest

from texallon.core.derived import content_key
from texallon.core.shade.media.constant import ConstantMedium
from texallon.core.shade.media.medium import Medium, Segment

MEDIA: list[Medium] = [
    ConstantMedium((0.3, 1.2, 4.0)),
    ConstantMedium((0.0, 0.0, 0.0)),
    ConstantMedium((2.0, 2.0, 2.0), (1.5, 1.0, 2.0), 0.6),
    ConstantMedium((900.0, 0.001, 0.0), emission=(1.0, 0.0, 0.0)),
]


def rays(n: int, longest: float = 3.0) -> Segment:
    rng = np.random.default_rng(4)
    way = rng.normal(size=(3, n))
    way /= np.linalg.norm(way, axis=0)
    return Segment(
        rng.uniform(-1, 1, (3, n)).astype(np.float32),
        way.astype(np.float32),
        rng.uniform(0, longest, n).astype(np.float32),
    )


def optical_depth(medium: Medium, along: Segment, steps: int = 256) -> np.ndarray:
    """∫ extinction along each stretch, by the midpoint rule."""
    total = np.zeros((3, len(along.length)))
    for step in range(steps):
        at = along.origin + along.direction * along.length * np.float32((step + 0.5) / steps)
        total += medium.properties(at).extinction * along.length / steps
    return total


@pytest.mark.parametrize("medium", MEDIA)
def test_light_passes_by_the_law_of_beer_and_lambert(medium: Medium) -> None:
    # Beer–Lambert: transmittance = exp(−∫ extinction ds).
    along = rays(200)
    assert medium.transmittance(along) == pytest.approx(np.exp(-optical_depth(medium, along)), rel=2e-3, abs=1e-6)


@pytest.mark.parametrize("medium", MEDIA)
def test_nowhere_is_there_more_than_the_majorant(medium: Medium) -> None:
    along = rays(50)
    bound = medium.majorant(along)
    for share in np.linspace(0, 1, 21, dtype=np.float32):
        found = medium.properties(along.origin + along.direction * along.length * share)
        assert (found.extinction <= bound * (1 + 1e-5)).all()
        assert (found.scattering <= found.extinction * (1 + 1e-5)).all(), "no more is scattered than is lost"
        assert (np.abs(found.anisotropy) <= 1).all()


@pytest.mark.parametrize("medium", MEDIA)
@pytest.mark.parametrize("channel", [0, 1, 2])
def test_distances_are_drawn_in_proportion_to_what_arrives(medium: Medium, channel: int) -> None:
    # The share of distances beyond a length is the transmittance there (inversion of the cumulative distribution).
    n = 20_000
    one = Segment(np.zeros((3, n), np.float32), np.tile(np.float32([[0], [0], [1]]), n), np.full(n, 0.7, np.float32))
    random = ((np.arange(n) + 0.5) / n).astype(np.float32)
    drawn = medium.sample_distance(one, np.full(n, channel, np.int32), random)
    assert (drawn >= 0).all()
    assert (drawn >= 0.7).mean() == pytest.approx(medium.transmittance(one)[channel, 0], abs=2e-3)


def test_equal_media_have_equal_keys() -> None:
    assert content_key(ConstantMedium((1.0, 2.0, 3.0))) == content_key(ConstantMedium((1.0, 2.0, 3.0)))
    assert len({content_key(each) for each in MEDIA}) == len(MEDIA)
