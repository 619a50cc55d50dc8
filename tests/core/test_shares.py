"""A film rendered in parts, by rows and by samples, in any order: the same to the bit as in one piece."""

import numpy as np
import pytest

from tests.builders import MadeFiles
from tests.core.test_shutter import SIZE, disc, keys, moving
from texallon.core.derived import Interrupted
from texallon.core.document.resolved import ResolvedShot, resolve
from texallon.core.render.film.division import SUMMED, shares_of
from texallon.core.render.film.film import Film
from texallon.core.render.film.shares import join_shares, sampled_share
from texallon.core.render.render_frame import FrameOptions, render_frame

FILES = MadeFiles(thing=disc(0.5))


def lit(on: bool = True) -> ResolvedShot:
    tracks = [keys("/objects/aa/position/0", (1, -9), (19, 9))]
    made = moving(tracks, environment={"colour": [0.3, 0.5, 0.7]}, shutter={"on": on, "angle": 360})
    return resolve(made, 10)


def in_parts(shot: ResolvedShot, samples: int, noise: float, wanted: int) -> Film:
    shares = shares_of(SIZE[1], samples, noise > 0, wanted)
    made = []
    for share in reversed(shares):
        options = FrameOptions(write_aovs=True, noise=noise, share=share)
        made.append(sampled_share(render_frame(shot, FILES, *SIZE, samples, 2, options), share))
    film = Film(*SIZE, 1, True)
    join_shares(film, made)
    return film


@pytest.mark.parametrize(("samples", "noise", "wanted"), [(20, 0.0, 3), (140, 0.0, 12), (64, 0.0, 9), (80, 0.02, 4)])
def test_parts_join_to_the_whole_to_the_bit(samples: int, noise: float, wanted: int) -> None:
    shot = lit()
    whole = render_frame(shot, FILES, *SIZE, samples, 1, FrameOptions(write_aovs=True, noise=noise))
    joined = in_parts(shot, samples, noise, wanted)
    assert np.array_equal(whole.counts, joined.counts)
    assert np.array_equal(whole.picture(), joined.picture())
    assert np.array_equal(whole.part("direct.diffuse"), joined.part("direct.diffuse"))
    assert np.array_equal(whole.albedo(), joined.albedo()) and np.array_equal(whole.normal(), joined.normal())


@pytest.mark.parametrize("height", [16, 17, 64, 100, 1080])
@pytest.mark.parametrize("samples", [1, 63, 64, 65, 300])
@pytest.mark.parametrize("wanted", [1, 2, 7, 64, 1000])
@pytest.mark.parametrize("by_noise", [False, True])
def test_shares_cover_every_sample_of_every_row_once(height: int, samples: int, wanted: int, by_noise: bool) -> None:
    taken = np.zeros((height, samples), int)
    shares = shares_of(height, samples, by_noise, wanted)
    for (top, bottom), first, last in shares:
        assert top % 16 == 0 and first % SUMMED == 0 and bottom > top and last > first
        assert not by_noise or (first, last) == (0, samples)
        taken[top:bottom, first:last] += 1
    assert (taken == 1).all()
    assert len(shares) <= max(wanted, 1) or len({each.rows for each in shares}) == -(-height // 16)


def test_a_picture_that_is_not_wanted_any_more_ends() -> None:
    with pytest.raises(Interrupted):
        render_frame(lit(), FILES, *SIZE, 4, 1, FrameOptions(wanted=lambda: False))
