"""Surroundings turned about any axis: as if camera and objects were turned the other way, for what is seen and for what is lit."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.builders import MadeFiles, layer, look, shot, square, value
from texallon.core.render.render_frame import render_frame


def sky() -> np.ndarray:
    """A dim sky with a bright patch and a coloured one."""
    picture = np.full((32, 64, 3), 0.2, np.float32)
    picture[8:11, 20:24] = [30.0, 20.0, 10.0]
    picture[18:22, 44:50] = [0.5, 2.0, 6.0]
    return picture


FILES = MadeFiles(floor=square(1.2), sky=sky())
LOOKS = [look("plain", layer("l", base_color=value([0.7, 0.5, 0.4]), specular_roughness=value(0.3)))]


def picture(turn: Rotation, tilt: tuple[float, float, float], rotation: float, samples: int) -> np.ndarray:
    angles = turn.as_euler("xyz", degrees=True)
    made = shot(
        environment={"image": {"file": "sky"}, "tilt": list(tilt), "rotation": rotation},
        objects=[
            {"name": "f", "geometry": {"file": "floor"}, "look": "plain", "rotation": angles.tolist()},
            {
                "name": "b", "geometry": {"shape": "sphere", "radius": 0.3, "segments": 48}, "look": "plain",
                "rotation": angles.tolist(), "position": turn.apply([0.0, 0.1, 0.0]).tolist(),
            },
        ],
        looks=LOOKS,
        camera={"position": turn.apply([0.4, 1.1, 1.9]).tolist(), "target": [0, 0, 0]},
    )  # fmt: skip
    return render_frame(made, FILES, 40, 40, samples, 2).picture()


@pytest.mark.parametrize("tilt", [(35.0, 0.0, 0.0), (0.0, 0.0, -50.0), (25.0, 140.0, -70.0)])
def test_turning_everything_else_the_same_way_changes_nothing(tilt: tuple[float, float, float]) -> None:
    """The camera keeps upright, so its picture is turned about its axis: compared by what all of it comes to, and by its brightest."""
    turn = Rotation.from_euler("xyz", tilt, degrees=True)
    still = picture(Rotation.identity(), (0.0, 0.0, 0.0), 20.0, 48)
    moved = picture(turn, tilt, 20.0, 48)
    inner = np.hypot(*np.meshgrid(np.linspace(-1, 1, 40), np.linspace(-1, 1, 40))) < 0.95
    assert moved[inner].mean(axis=0) == pytest.approx(still[inner].mean(axis=0), rel=0.03)
    other = picture(turn, (0.0, 0.0, 0.0), 20.0, 48)
    assert np.abs(other[inner].mean(axis=0) / still[inner].mean(axis=0) - 1).max() > 0.06


def test_what_is_seen_is_where_scipy_turns_it() -> None:
    tilt = (40.0, -30.0, 65.0)
    turn = Rotation.from_euler("xyz", tilt, degrees=True)
    u, v = (22.0 / 64 - 0.5) * 2 * np.pi, 9.5 / 32 * np.pi  # the patch's middle
    patch = np.array([np.sin(v) * np.sin(u), np.cos(v), -np.sin(v) * np.cos(u)])
    towards = turn.apply(patch)
    made = shot(
        environment={"image": {"file": "sky"}, "tilt": list(tilt)},
        camera={"position": [0, 0, 0], "target": towards.tolist(), "focal_length": 80},
        looks=LOOKS,
    )
    seen = render_frame(made, FILES, 31, 31, 2, 2).picture()
    assert seen[15, 15] == pytest.approx([30.0, 20.0, 10.0], rel=0.02)


def test_no_tilt_is_as_before_to_the_last_bit() -> None:
    def plain(**members: object) -> np.ndarray:
        made = shot(
            environment={"image": {"file": "sky"}, "rotation": 33.0, **members},
            objects=[{"name": "f", "geometry": {"file": "floor"}, "look": "plain"}],
            looks=LOOKS,
            camera={"position": [0, 1, 1], "target": [0, 0, 0]},
        )
        return render_frame(made, FILES, 16, 16, 2, 2).picture()

    assert np.array_equal(plain(), plain(tilt=[0, 0, 0]))
    assert not np.array_equal(plain(), plain(tilt=[0, 10, 0]))
    assert plain(tilt=[0, 27, 0]).mean() == pytest.approx(plain(rotation=33.0 - 27.0).mean(), rel=0.05)
