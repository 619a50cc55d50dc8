"""Videos: what a decoder makes of them is what was written, and their colours are named."""

from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from PIL import Image

from tests.cli.test_cli import texallon
from texallon.formats.exr import write_exr
from texallon.formats.video import write_video
from texallon.video_of_frames import frames_in


def picture(number: int, height: int = 90, width: int = 160) -> np.ndarray:
    """A soft gradient over which a bright square moves."""
    y, x = np.mgrid[0:height, 0:width]
    made = np.stack([x * 255 / width, y * 255 / height, np.full_like(x, 40 + 10 * number)], axis=2).astype(np.uint8)
    made[20:40, 10 + 8 * number : 40 + 8 * number] = (230, 180, 60)
    return made


def decoded(path: Path) -> tuple[list[np.ndarray], Any]:
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        frames = [frame.to_ndarray(format="rgb24") for frame in container.decode(stream)]
        codec = stream.codec_context
        said = {
            "rate": stream.average_rate, "name": codec.name, "format": codec.pix_fmt, "primaries": int(codec.color_primaries),
            "transfer": int(codec.color_trc), "matrix": int(codec.colorspace), "range": int(codec.color_range),
        }  # fmt: skip
    return frames, said


def test_frames_decode_to_the_pictures_within_the_codecs_error(tmp_path: Path) -> None:
    pictures = [picture(number) for number in range(8)]
    assert write_video(tmp_path / "a.mp4", iter(pictures), 24) == 8
    frames, said = decoded(tmp_path / "a.mp4")
    assert len(frames) == 8 and [path.name for path in tmp_path.iterdir()] == ["a.mp4"]
    for found, want in zip(frames, pictures, strict=True):
        error = (found.astype(float) - want) ** 2
        # Peak signal to noise; above 36 dB a loss is not seen (common practice, no published source).
        assert 10 * np.log10(255**2 / error.mean()) > 36
        assert np.abs(found[60:80, 60:100].astype(float) - want[60:80, 60:100]).mean() < 2, "no shift of colour"
    # ITU-T H.273: primaries and matrix 1 are those of Rec. 709, transfer 13 is sRGB's (IEC 61966-2-1), range 1 is studio.
    assert said == {
        "rate": 24, "name": "h264", "format": "yuv420p", "primaries": 1, "transfer": 13, "matrix": 1, "range": 1,
    }  # fmt: skip


def test_odd_sizes_are_made_even_and_rates_of_film_are_exact(tmp_path: Path) -> None:
    write_video(tmp_path / "a.mp4", [picture(0, 45, 81), picture(1, 45, 81)], 23.976)
    frames, said = decoded(tmp_path / "a.mp4")
    assert frames[0].shape == (46, 82, 3) and said["rate"] == pytest.approx(24000 / 1001)
    assert np.abs(frames[0][45].astype(float) - frames[0][44]).mean() < 3


def test_nothing_half_made_is_left(tmp_path: Path) -> None:
    with pytest.raises(ValueError, match="picture 2 has 32 × 16 pixels, the first 160 × 90"):
        write_video(tmp_path / "a.mp4", [picture(0), np.zeros((16, 32, 3), np.uint8)], 24)
    with pytest.raises(ValueError, match="no pictures"):
        write_video(tmp_path / "a.mp4", [], 24)
    assert list(tmp_path.iterdir()) == []


def test_numbered_frames_become_a_video_in_their_order(tmp_path: Path) -> None:
    for number in (9, 10, 11):
        Image.fromarray(picture(number - 9)).save(tmp_path / f"GH240.{number:04d}.png")
    done = texallon("video", tmp_path, "--rate", "25", "--out", tmp_path / "frost.mp4")
    assert done.returncode == 0, done.stderr
    frames, said = decoded(tmp_path / "frost.mp4")
    assert len(frames) == 3 and said["rate"] == 25
    assert np.abs(frames[2].astype(float) - picture(2)).mean() < 3
    marked = texallon("video", tmp_path, "--burn-in", "--quiet", "--out", tmp_path / "marked.mp4")
    assert marked.returncode == 0, marked.stderr
    after, _ = decoded(tmp_path / "marked.mp4")
    apart = np.abs(after[0].astype(float) - frames[0]).mean(axis=(1, 2))
    assert apart[:60].mean() < 3 < apart[-12:].mean(), "in the lower edge alone"


def test_light_is_shown_as_the_camera_exposes_it(tmp_path: Path) -> None:
    grey = np.full((32, 32, 3), 0.09, np.float32)
    for number, stops in ((1, "0"), (2, "1")):
        write_exr(tmp_path / f"s.{number:04d}.exr", grey, {"exposureStops": stops})
    assert texallon("video", tmp_path, "--quiet", "--out", tmp_path / "s.mp4").returncode == 0
    (dark, bright), _ = decoded(tmp_path / "s.mp4")
    assert bright.mean() > dark.mean() + 20


def test_what_is_wrong_with_a_folder_is_said(tmp_path: Path) -> None:
    def put(*names: str) -> None:
        for name in names:
            Image.fromarray(picture(0)).save(tmp_path / name)

    with pytest.raises(ValueError, match="there are no frames"):
        frames_in(tmp_path)
    put("a.0001.png", "a.0002.png", "a.0005.png", "notes.png")
    with pytest.raises(ValueError, match="frame 3 and 1 more of a is missing"):
        frames_in(tmp_path)
    put("a.0003.png", "a.0004.png", "b.0001.png")
    with pytest.raises(ValueError, match="frames of a, b: choose by --name"):
        frames_in(tmp_path)
    assert list(frames_in(tmp_path, "a").files) == [1, 2, 3, 4, 5]
    bad = texallon("video", tmp_path, "--name", "a", "--out", tmp_path / "a.avi")
    assert bad.returncode == 1 and ".mp4" in bad.stderr
