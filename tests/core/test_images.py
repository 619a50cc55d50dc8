"""Pictures in recipes: raw or as colour by their role, repeated, filtered, thrown on, and never believed unread."""

import struct
import zlib
from pathlib import Path
from typing import Any

import colour
import numpy as np
import OpenImageIO as oiio
import pytest
from PIL import Image as Pillow

from tests.builders import MadeFiles, run, step
from texallon.core.document.object import FileRef
from texallon.core.ops.pyramid import make_pyramid
from texallon.formats.exr import PictureError, write_exr
from texallon.formats.picture_file import read_picture
from texallon.formats.shot_files import ShotFiles

RNG = np.random.default_rng(51)
CODES = RNG.integers(0, 256, (6, 10, 3)).astype(np.uint8)
FILE = {"file": "p.png"}


def looked_up(picture: np.ndarray, uv: np.ndarray, footprint: float = 0.0, **params: Any) -> np.ndarray:
    data = {"uv": uv, "uv_footprint": np.full((1, uv.shape[1]), footprint)}
    found = MadeFiles(**{"p.png": picture.astype(np.float32)})
    return run(step("image", file=FILE, **params), data=data, files=found)


def middles(width: int, height: int) -> np.ndarray:
    """UV of every pixel's middle, row by row from the top `(2, n)`."""
    u, v = np.meshgrid((np.arange(width) + 0.5) / width, 1 - (np.arange(height) + 0.5) / height)
    return np.stack([u.ravel(), v.ravel()])


@pytest.mark.parametrize("ending", ["png", "tif"])
def test_colour_goes_through_the_transfer_curve_and_data_does_not(tmp_path: Path, ending: str) -> None:
    # IEC 61966-2-1, by colour-science. Data maps are read raw (glTF 2.0, 3.9.2: normal and roughness textures are linear).
    path = tmp_path / f"p.{ending}"
    Pillow.fromarray(CODES).save(path)
    raw = read_picture(path, raw=True)
    assert np.allclose(raw, CODES / 255, atol=1e-6)
    light = read_picture(path, raw=False)
    assert np.allclose(light, colour.models.eotf_sRGB(CODES / 255), atol=1e-5)


def test_the_role_decides_how_numbers_are_read_and_can_be_overridden(tmp_path: Path) -> None:
    grey = np.full((2, 2, 3), 128, np.uint8)
    Pillow.fromarray(grey).save(tmp_path / "p.png")
    files = ShotFiles(root=tmp_path)
    uv = np.full((2, 1), 0.5)

    def read(**params: Any) -> float:
        return float(run(step("image", file=FILE, **params), data={"uv": uv}, files=files)[0, 0])

    for role in ("mask", "roughness", "height", "normal"):
        assert read(role=role) == pytest.approx(128 / 255, abs=1e-6)
    assert read(role="colour") == pytest.approx(0.2158605, abs=1e-5)  # IEC 61966-2-1 at 128
    assert read(role="colour", read_as="raw") == pytest.approx(128 / 255, abs=1e-6)
    assert read(role="mask", read_as="colour") == pytest.approx(0.2158605, abs=1e-5)


def test_an_exr_comes_back_within_half_float(tmp_path: Path) -> None:
    picture = (RNG.uniform(0, 1, (5, 7, 3)) * np.float32([0.01, 1, 300])).astype(np.float32)
    write_exr(tmp_path / "p.exr", picture)
    for raw in (True, False):
        back = read_picture(tmp_path / "p.exr", raw)
        assert np.allclose(back, picture, rtol=2**-11, atol=1e-7), "linear already: a colour is left as it is"


def test_radiance_and_jpeg_files_are_read(tmp_path: Path) -> None:
    light = RNG.uniform(0.1, 20, (6, 9, 3)).astype(np.float32)
    out = oiio.ImageOutput.create(str(tmp_path / "p.hdr"))
    out.open(str(tmp_path / "p.hdr"), oiio.ImageSpec(9, 6, 3, oiio.FLOAT))
    out.write_image(light)
    out.close()
    back = read_picture(tmp_path / "p.hdr", raw=False)
    assert np.allclose(back, light, atol=light.max() / 128), "RGBE keeps 8 bits a channel (G. Ward, 1991)"
    Pillow.fromarray(np.full((8, 8, 3), 90, np.uint8)).save(tmp_path / "p.jpg", quality=95)
    assert np.allclose(read_picture(tmp_path / "p.jpg", raw=True), 90 / 255, atol=0.01)


def test_alpha_stays_apart_from_colour(tmp_path: Path) -> None:
    rgba = np.dstack([CODES, np.full((6, 10), 64, np.uint8)])
    Pillow.fromarray(rgba).save(tmp_path / "p.png")
    back = read_picture(tmp_path / "p.png", raw=True)
    assert np.allclose(back[..., :3], CODES / 255, atol=1e-6), "not multiplied by alpha"
    assert np.allclose(back[..., 3], 64 / 255, atol=1e-6)
    light = read_picture(tmp_path / "p.png", raw=False)
    assert np.allclose(light[..., 3], 64 / 255, atol=1e-6), "alpha has no transfer curve"


def test_pixels_lie_where_the_map_says() -> None:
    picture = RNG.uniform(0, 1, (4, 6, 3))
    found = looked_up(picture, middles(6, 4))
    assert np.allclose(found, picture.reshape(-1, 3).T, atol=1e-5), "v points up, the first row is at the top"
    half = looked_up(picture, middles(6, 4) + np.array([[0.5 / 6], [0.0]]))
    expected = (picture + np.roll(picture, -1, axis=1)) / 2
    assert np.allclose(half, expected.reshape(-1, 3).T, atol=1e-5), "between pixels they are mixed"


@pytest.mark.parametrize("edges", ["repeat", "mirror", "hold"])
def test_what_lies_beyond_the_edges(edges: str) -> None:
    row = np.arange(4.0)[None, :, None] / 4
    u = (np.arange(-8, 12) + 0.5) / 4
    found = looked_up(row, np.stack([u, np.full(20, 0.5)]), role="mask", edges=edges)[0] * 4
    pixel = np.arange(-8, 12)
    expected = {
        "repeat": pixel % 4,
        "mirror": np.where(pixel % 8 < 4, pixel % 8, 7 - pixel % 8),
        "hold": np.clip(pixel, 0, 3),
    }[edges]
    assert np.allclose(found, expected, atol=1e-5)


def test_far_away_a_picture_is_its_average() -> None:
    picture = RNG.uniform(0, 1, (64, 64, 3))
    far = looked_up(picture, RNG.uniform(0, 1, (2, 50)), footprint=2.0)
    assert np.allclose(far, picture.mean(axis=(0, 1))[:, None], atol=1e-4)


@pytest.mark.parametrize("level", [1, 2, 3])
def test_each_smaller_copy_averages_the_pixels_it_stands_for(level: int) -> None:
    # L. Williams, "Pyramidal Parametrics", SIGGRAPH 1983.
    picture = RNG.uniform(0, 1, (32, 16, 2)).astype(np.float32)
    pyramid = make_pyramid(picture)
    start, width, height = pyramid.levels[level]
    size = 2**level
    expected = picture.reshape(32 // size, size, 16 // size, size, 2).mean(axis=(1, 3))
    assert np.allclose(pyramid.pixels[start : start + width * height].reshape(height, width, 2), expected, atol=1e-6)


@pytest.mark.parametrize("shape", [(1, 1), (1, 9), (7, 5), (3, 64)])
def test_odd_sizes_keep_their_mean_and_end_in_one_pixel(shape: tuple[int, int]) -> None:
    pyramid = make_pyramid(np.ones((*shape, 1), np.float32))
    assert pyramid.levels[-1, 1:].tolist() == [1, 1]
    assert np.allclose(pyramid.pixels, 1)


def test_a_filtered_picture_shimmers_less_than_a_bare_one() -> None:
    checks = (np.indices((64, 64)).sum(axis=0) % 2)[..., None].astype(float)
    uv = RNG.uniform(0, 1, (2, 4000))
    bare = looked_up(checks, uv, role="mask", footprint=0.0)
    wide = looked_up(checks, uv, role="mask", footprint=4 / 64)
    assert wide.std() < 0.05 < bare.std()


def test_triplanar_throws_the_picture_on_from_the_side_it_faces() -> None:
    picture = RNG.uniform(0, 1, (8, 8, 3))
    p = RNG.uniform(-2, 2, (3, 300))
    up = np.tile([[0.0], [1.0], [0.0]], (1, 300))
    found = MadeFiles(**{"p.png": picture.astype(np.float32)})
    op = step("image", file=FILE, projection="triplanar", size=1.0, space="world")
    from_above = run(op, data={"position": p, "normal": up}, files=found)
    flat = looked_up(picture, np.stack([p[0], p[2]]))
    assert np.allclose(from_above, flat, atol=1e-5)
    corner = np.full((3, 300), 3**-0.5)
    mixed = run(op, data={"position": p, "normal": corner}, files=found)
    sides = [looked_up(picture, np.stack([p[a], p[b]])) for a, b in ((2, 1), (0, 2), (0, 1))]
    assert np.allclose(mixed, np.mean(sides, axis=0), atol=1e-5), "where all three face alike, a third of each"


def test_a_grey_picture_widens_to_a_colour() -> None:
    found = looked_up(np.full((2, 2, 1), 0.3), np.full((2, 1), 0.5))
    assert found[:, 0] == pytest.approx([0.3] * 3)


def test_a_missing_channel_takes_the_last_there_is() -> None:
    picture = np.dstack([np.full((2, 2), v) for v in (0.1, 0.2, 0.3)])
    at = np.full((2, 1), 0.5)
    assert looked_up(picture, at, role="mask", channel="blue")[0, 0] == pytest.approx(0.3)
    assert looked_up(picture, at, role="mask", channel="alpha")[0, 0] == pytest.approx(0.3)


def test_coordinates_that_are_no_number_give_none() -> None:
    uv = np.array([[np.nan, 0.5, np.inf], [0.5, 0.5, 0.5]])
    found = looked_up(np.ones((2, 2, 3)), uv)
    assert np.isnan(found[:, [0, 2]]).all()
    assert np.allclose(found[:, 1], 1)


def test_a_picture_that_is_not_there_is_named() -> None:
    with pytest.raises(FileNotFoundError, match=r"missing\.png"):
        ShotFiles(root=Path("/nonexistent")).pyramid(FileRef(file="missing.png"), True)


def png_of(width: int, height: int) -> bytes:
    """A PNG that claims a size and holds next to nothing."""

    def chunk(kind: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 64)) + chunk(b"IEND", b"")


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.png", b"this is text", "not a PNG file"),
        ("a.png", b"\xff\xd8\xff\xe0" + b"\0" * 99, "looks like JPG"),
        ("a.gif", b"GIF89a", "comes as PNG, JPEG, TIFF, EXR or HDR"),
        ("a", b"\x89PNG\r\n\x1a\n", "without an ending"),
        ("a.png", png_of(60_000, 60_000), "million pixels|can't be read|damaged"),
        ("a.png", png_of(400, 400)[:60], "can't be read|damaged"),
        ("a.exr", b"\x76\x2f\x31\x01" + b"\xff" * 200, "can't be read|damaged"),
        ("a.hdr", b"#?RADIANCE\n\n-Y 99999999 +X 99999999\n", "million pixels|can't be read|damaged"),
        ("a.tif", b"II*\x00" + b"\xff" * 64, "can't be read|damaged"),
        ("a.jpg", b"\xff\xd8\xff" + b"\x00" * 40, "can't be read|damaged"),
    ],
)
def test_a_file_that_is_no_picture_is_refused_in_words(tmp_path: Path, name: str, data: bytes, words: str) -> None:
    path = tmp_path / name
    path.write_bytes(data)
    with pytest.raises(PictureError, match=words):
        read_picture(path, raw=True)
