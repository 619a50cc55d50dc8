"""Bright points of volumes: their energy in closed form, wherever in a pixel they lie and however small they are."""

from typing import Any

import numpy as np
import pytest

from tests.builders import MadeFiles
from tests.volumes import NO_SCATTER, box, volume_look, volume_shot
from texallon.core.document.resolved import ResolvedShot
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import render_frame

WIDTH, HEIGHT = 64, 36


def cloud(
    radius: float, shift: float = 0.0, density: float = 0.0, filled: float = 1.0, spacing: float = 0.25
) -> ResolvedShot:
    fill = volume_look(
        density=density, **NO_SCATTER, absorption_color=[1, 1, 1], point_emission=900.0, point_radius=radius,
        points={"spacing": spacing, "filled": filled, "seed": 5},
    )  # fmt: skip
    camera = {"position": [shift, 0, 4], "target": [shift, 0, 0], "focal_length": 60}
    return volume_shot(fill, objects=[box()], light=0.0, camera=camera)


def picture(made: ResolvedShot, samples: int = 4, **size: Any) -> np.ndarray:
    return render_frame(made, MadeFiles(), size.get("width", WIDTH), size.get("height", HEIGHT), samples, 2).picture()


def positions(made: ResolvedShot) -> np.ndarray:
    filled = FrameGraph(made, MadeFiles()).filled
    (listed,) = filled._points
    assert listed is not None
    return filled.store.value(listed).position


@pytest.mark.parametrize("radius", [0.0005, 0.002, 0.02, 0.06])
def test_the_light_of_points_is_what_their_volume_sends(radius: float) -> None:
    # ∫ gain (1 − d / w) dV = gain π w³ / 3; towards the eye over the square of the distance, summed over pixels' solid angles.
    made = cloud(radius)
    away = np.linalg.norm(positions(made) - np.array([[0], [0], [4.0]]), axis=0)
    want = (900 * np.pi * radius**3 / 3 / away**2).sum()
    half = 18 / 60
    x = (np.arange(WIDTH) + 0.5) / WIDTH * 2 - 1
    y = (np.arange(HEIGHT) + 0.5) / HEIGHT * 2 - 1
    gx, gy = np.meshgrid(x * half, y * half * HEIGHT / WIDTH)
    solid = (2 * half / WIDTH) ** 2 / (1 + gx**2 + gy**2) ** 1.5
    got = (picture(made)[..., 1] * solid).sum()
    assert got == pytest.approx(want, rel=0.01)


def test_every_point_is_there_however_small() -> None:
    made = cloud(1e-5)
    shown = picture(made, 1, width=256, height=144)[..., 1] > 0
    assert positions(made).shape[1] == 64
    # A tent reaches over four pixels, or fewer where two points meet.
    assert 64 * 2 < shown.sum() <= 64 * 4


def test_a_moved_camera_changes_no_points_light() -> None:
    # Steps of a fifth of a pixel: the brightness of the whole stays within 1 %, of any 16 pixels square within 5 % where points stay within.
    pixel = 2 * 18 / 60 / WIDTH * 4
    sums = [picture(cloud(0.001, shift * pixel))[..., 1].sum() for shift in np.arange(0, 1, 0.2)]
    assert np.ptp(sums) / np.mean(sums) < 0.01


def test_points_shine_through_what_lies_before_them() -> None:
    bright, veiled = picture(cloud(0.002), 64)[..., 1].sum(), picture(cloud(0.002, density=1.0), 256)[..., 1].sum()
    place = positions(cloud(0.002)) - np.array([[0], [0], [4.0]])
    away = np.linalg.norm(place, axis=0)
    depth = away * (1 - 3.5 / -place[2])  # from the face at 3.5 m on
    assert veiled / bright == pytest.approx(np.average(np.exp(-depth), weights=away**-2), rel=0.02)


def test_some_cells_have_none() -> None:
    count = positions(cloud(0.002, filled=0.5, spacing=0.05)).shape[1]
    assert count == pytest.approx(8000 * 0.5, rel=0.05)


def test_too_many_are_refused_with_what_would_do() -> None:
    from texallon.core.geometry.mesh import MeshError

    with pytest.raises(MeshError, match=r"a spacing of 0\.0063 m or more"):
        positions(cloud(0.002, spacing=0.001))
