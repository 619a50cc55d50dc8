"""Frames by several workers from the shell: as those of one process to the bit, resumed, refused; and what flickers in them."""

import os
import subprocess
import sys
import threading
import time
from pathlib import Path

import numpy as np
import psutil
import pytest

from tests.cli.test_cli import texallon
from tests.cli.test_frames import QUICK, light, shot_file
from tests.core.test_flicker import still
from texallon.formats.exr import write_exr

pytestmark = pytest.mark.slow


def test_workers_make_what_one_process_makes_and_go_on_where_they_were(tmp_path: Path) -> None:
    shot, out, alone = shot_file(tmp_path), tmp_path / "out", tmp_path / "alone"
    done = texallon("shot", shot, "--frames", "1-3", *QUICK, "--workers", "2", "--passes", "--out", out)
    assert done.returncode == 0, done.stderr
    assert "3 of 3 frames" in done.stderr
    assert texallon("frames", shot, "--frames", "2", *QUICK, "--passes", "--out", alone).returncode == 0
    assert (light(out / "roll_7_a.0002.exr") == light(alone / "roll_7_a.0002.exr")).all()
    # What one made, the other keeps: both say the same of what they made it from.
    kept = texallon("frames", shot, "--frames", "1-3", *QUICK, "--passes", "--out", out)
    assert kept.returncode == 0 and kept.stderr.count("kept") == 3
    (out / "roll_7_a.0002.exr").unlink()
    again = texallon("shot", shot, "--frames", "1-3", *QUICK, "--workers", "1", "--passes", "--quiet", "--out", out)
    assert again.returncode == 0 and again.stderr == ""
    assert sorted(os.listdir(out)) == [f"roll_7_a.000{frame}.exr" for frame in (1, 2, 3)]
    refused = texallon("shot", shot, "--frames", "1", "--size", "16x16", "--samples", "1", "--passes", "--out", out)
    assert refused.returncode == 1 and "--overwrite" in refused.stderr


def test_a_command_that_is_killed_leaves_whole_frames_and_no_worker_and_goes_on(tmp_path: Path) -> None:
    shot, out = shot_file(tmp_path), tmp_path / "out"
    ordered = ["shot", str(shot), "--frames", "1-6", "--size", "96x54", "--samples", "32", "--workers", "2", "--out", str(out)]  # fmt: skip
    begun = subprocess.Popen([sys.executable, "-m", "texallon.cli", *ordered], stderr=subprocess.DEVNULL)
    pause, until = threading.Event(), time.monotonic() + 120
    while len(list(out.glob("*.exr"))) < 2 and begun.poll() is None and time.monotonic() < until:
        pause.wait(0.02)
    workers = psutil.Process(begun.pid).children(recursive=True)
    begun.kill()
    begun.wait()
    _, alive = psutil.wait_procs(workers, timeout=30)
    assert alive == [], "its cluster ends with it"
    there = {path.name: path.stat().st_mtime_ns for path in out.glob("*.exr")}
    assert len(there) >= 2
    # Each that is there is whole; nothing else is left but what a file is written under before it has its name.
    for name in there:
        assert np.isfinite(light(out / name).astype(np.float32)).all()
    again = texallon(*ordered)
    assert again.returncode == 0, again.stderr
    assert "6 of 6 frames" in again.stderr
    assert {name: (out / name).stat().st_mtime_ns for name in there} == there, "what was there is kept as it was"
    alone = texallon("frames", shot, "--frames", "1-6", *ordered[4:8], "--out", tmp_path / "alone")
    assert alone.returncode == 0, alone.stderr
    for frame in range(1, 7):
        name = f"roll_7_a.{frame:04d}.exr"
        assert np.array_equal(light(out / name), light(tmp_path / "alone" / name))


def test_a_frame_that_fails_is_told_of_and_the_others_are_made(tmp_path: Path) -> None:
    (tmp_path / "good.obj").write_text("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n")
    (tmp_path / "bad.obj").write_text("v 0 0 0\n")
    files = {"files": [{"file": "good.obj"}, {"file": "bad.obj"}, {"file": "good.obj"}], "first": 1}
    item = {"name": "t", "look": "l", "geometry": {"file": "good.obj"}, "sequence": files}
    shot, out = shot_file(tmp_path, objects=[item]), tmp_path / "out"
    done = texallon("shot", shot, "--frames", "1-3", *QUICK, "--workers", "2", "--quiet", "--out", out)
    assert done.returncode == 3, done.stderr
    assert done.stderr.startswith("texallon: frame 2: ") and done.stderr.count("\n") == 1
    assert sorted(os.listdir(out)) == ["roll_7_a.0001.exr", "roll_7_a.0003.exr"]


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["shot", "nosuch", "--out", "x"], "there is no document nosuch"),
        (["shot", "{shot}", "--format", "png", "--passes", "--out", "x"], "only an .exr"),
        (["shot", "{shot}", "--farm", "tcp://127.0.0.1:9", "--out", "x"], "--store"),
        (["shot", "{shot}", "--farm", "127.0.0.1:9", "--store", "s", "--out", "x"], "tcp://HOST:PORT"),
        (["shot", "{shot}", "--farm", "tcp://127.0.0.1:9", "--store", "s", "--out", "x"], "does not answer"),
        (["shot", "{shot}", "--store", "nosuch://x", "--out", "x"], "no place for files"),
        (["farm", "worker"], "scheduler's address"),
        (["farm", "scheduler", "tcp://127.0.0.1:9"], "--host and --port"),
        (["farm", "worker", "tls://127.0.0.1:9", "--ca", "{shot}"], "together"),
        (["farm", "scheduler", "--ca", "nosuch.pem"], "there is no file nosuch.pem"),
        (["flicker", "nosuch"], "nosuch"),
    ],
)
def test_bad_input_is_one_clear_line(tmp_path: Path, arguments: list[str], words: str) -> None:
    shot = shot_file(tmp_path)
    given = [each.format(shot=shot) for each in arguments]
    given = [str(tmp_path / each) if each in ("x", "s") else each for each in given]
    done = texallon(*given)
    assert done.returncode == 1 and words in done.stderr and done.stderr.count("\n") == 1, done.stderr


def test_flicker_is_found_in_the_noise_free_passes(tmp_path: Path) -> None:
    chance = np.random.default_rng(1)
    for number, albedo in enumerate(still(6)):
        grainy = albedo * chance.uniform(0.2, 1.8, albedo.shape).astype(np.float32)
        if number == 3:
            albedo[32:64, 48:80] *= 1.6
        layers = {"albedo": albedo, "velocity": np.zeros((*albedo.shape[:2], 2), np.float32)}
        write_exr(tmp_path / f"S.{number + 1:04d}.exr", grainy, {}, {"data": layers})
    found = texallon("flicker", tmp_path)
    assert found.returncode == 3 and found.stdout.startswith("pops at frame 4, 38…62 % across and 33…67 % down")
    assert texallon("flicker", tmp_path, "--noticed", "5").stdout.strip() == "nothing boils, pops or jumps"
