"""Numbered frames by the shell: what they are made from stands in them, a broken order goes on, and one bad frame stops no other."""

import json
import os
from pathlib import Path
from typing import Any

import numpy as np
import OpenEXR
import pytest
from PIL import Image

from tests.builders import document, layer, look, recipe, step, value
from tests.cli.test_cli import texallon
from texallon.core.document import read_shot
from texallon.frame_files import frames_of

pytestmark = pytest.mark.slow

QUICK = ("--size", "32x18", "--samples", "2")


def shot_file(folder: Path, **members: Any) -> Path:
    """A ball on the ground that moves, with a mask that remembers where it has been."""
    ground = {
        "name": "ground", "look": "l", "geometry": {"shape": "plane", "width": 4, "depth": 4, "segments": 24},
        "remembers": [{"kind": "growth", "name": "trail", "signal": "near", "above": 0.5, "speed": 0.0}],
    }  # fmt: skip
    ball = {"name": "ball", "id": "ball", "look": "b", "geometry": {"shape": "sphere", "radius": 0.3}}
    whole = document(
        frames={"first": 1, "last": 6, "rate": 24},
        camera={"position": [0, 3, 3], "target": [0, 0, 0]},
        objects=[ground, ball, *members.pop("objects", [])],
        signals=[{"name": "near", "recipe": recipe(step("contact", to={"object": "ball"}, end=0.4))}],
        looks=[look("l", layer("x", emission_luminance={"recipe": recipe(step("attribute", attribute="trail"))})), look("b", layer("y", base_color=value([0.5, 0.1, 0.1])))],
        tracks=[{"at": "/objects/ball/position/0", "keys": [{"frame": 1, "value": -1.5}, {"frame": 6, "value": 1.5}]}],
        **members,
    )  # fmt: skip
    path = folder / "shot.json"
    path.write_text(json.dumps(whole | {"name": "roll 7 a"}))
    return path


def light(path: Path) -> np.ndarray:
    return OpenEXR.File(str(path)).channels()["RGB"].pixels


def test_frames_are_numbered_and_say_what_they_are_made_from(tmp_path: Path) -> None:
    shot, out = shot_file(tmp_path), tmp_path / "out"
    done = texallon("frames", shot, "--frames", "1-6/2", *QUICK, "--out", out)
    assert done.returncode == 0, done.stderr
    assert sorted(os.listdir(out)) == [f"roll_7_a.{frame:04d}.exr" for frame in (1, 3, 5)]
    header = OpenEXR.File(str(out / "roll_7_a.0003.exr")).header()
    assert header["texallon:frame"] == "3" and header["texallon:made"].startswith("32x18, 2 samples")
    alone = texallon("render", shot, "--frame", "5", *QUICK, "--out", tmp_path / "five.exr", "--quiet")
    assert alone.returncode == 0, alone.stderr
    assert (light(tmp_path / "five.exr") == light(out / "roll_7_a.0005.exr")).all(), "as a frame of its own, to the bit"
    assert light(out / "roll_7_a.0005.exr").sum() > light(out / "roll_7_a.0001.exr").sum(), "the trail grows"


def test_a_broken_order_goes_on_and_what_is_broken_is_made_anew(tmp_path: Path) -> None:
    shot, out = shot_file(tmp_path), tmp_path / "out"
    assert texallon("frames", shot, "--frames", "1-3", *QUICK, "--out", out).returncode == 0
    first, second = (out / f"roll_7_a.000{frame}.exr" for frame in (1, 2))
    before = first.read_bytes()
    os.utime(first, ns=(7, 7))
    second.write_bytes(second.read_bytes()[:200])
    refused = texallon("frames", shot, "--frames", "1-4", *QUICK, "--out", out)
    assert refused.returncode == 1 and "0002.exr" in refused.stderr and "--overwrite" in refused.stderr
    second.unlink()
    done = texallon("frames", shot, "--frames", "1-4", *QUICK, "--out", out)
    assert done.returncode == 0
    assert first.stat().st_mtime_ns == 7 and first.read_bytes() == before, "it was kept as it was"
    assert "0001.exr kept" in done.stderr and "0002.exr made" in done.stderr
    assert not [each for each in os.listdir(out) if each.endswith(".part")]


def test_nothing_that_is_of_something_else_is_written_over_unasked(tmp_path: Path) -> None:
    shot, out = shot_file(tmp_path), tmp_path / "out"
    assert texallon("frames", shot, "--frames", "2", *QUICK, "--out", out).returncode == 0
    before = light(out / "roll_7_a.0002.exr")
    more = ("--size", "32x18", "--samples", "3", "--out", out)
    refused = texallon("frames", shot, *more)
    assert refused.returncode == 1 and sorted(os.listdir(out)) == ["roll_7_a.0002.exr"], "nothing is begun"
    assert texallon("frames", shot, "--frames", "2", *more, "--overwrite").returncode == 0
    assert (light(out / "roll_7_a.0002.exr") != before).any()


def test_a_frame_that_fails_says_why_and_stops_no_other(tmp_path: Path) -> None:
    (tmp_path / "a.obj").write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
    for frame in (1, 3):
        (tmp_path / f"tri.{frame}.obj").write_text((tmp_path / "a.obj").read_text())
    sequence = {
        "name": "tri", "look": "b", "geometry": {"file": "tri.1.obj"},
        "sequence": {"files": [{"file": f"tri.{each}.obj"} for each in (1, 2, 3)]},
    }  # fmt: skip
    shot, out = shot_file(tmp_path, objects=[sequence]), tmp_path / "out"
    done = texallon("frames", shot, "--frames", "1-3", *QUICK, "--out", out, "--quiet")
    assert done.returncode == 3, done.stderr
    assert "frame 2" in done.stderr and "tri.2.obj" in done.stderr and len(done.stderr.splitlines()) == 1
    assert sorted(os.listdir(out)) == ["roll_7_a.0001.exr", "roll_7_a.0003.exr"]


def test_pictures_as_shown_go_on_too(tmp_path: Path) -> None:
    shot, out = shot_file(tmp_path), tmp_path / "out"
    for words in ("made", "kept"):
        done = texallon("frames", shot, "--frames", "3", *QUICK, "--format", "png", "--out", out)
        assert done.returncode == 0 and f"0003.png {words}" in done.stderr
    with Image.open(out / "roll_7_a.0003.png") as picture:
        assert picture.size == (32, 18) and picture.info["texallon:frame"] == "3"
    assert texallon("frames", shot, "--format", "png", "--passes", "--out", out).returncode == 1


def test_frames_are_written_as_people_do() -> None:
    shot = read_shot(document(frames={"first": -2, "last": 12, "rate": 24}))
    assert frames_of("", shot) == list(range(-2, 13))
    assert frames_of("5, 1-3,3", shot) == [1, 2, 3, 5]
    assert frames_of("-2-2/2", shot) == [-2, 0, 2]
    for text in ("1-", "a", "1-3/0", "3-1", "0-99", "1/2", "1--9", "1;2"):
        with pytest.raises(ValueError, match="frame"):
            frames_of(text, shot)
