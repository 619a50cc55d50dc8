"""Review sheets: the chart as it is published, references as they must be, and a whole sheet as PNG and OpenEXR."""

import json
import subprocess
import sys
from pathlib import Path
from typing import Any

import colour
import numpy as np
import OpenEXR
import pytest
from PIL import Image

from texallon.core.derived import DerivedStore
from texallon.core.document import read_shot
from texallon.core.document.resolved import resolve
from texallon.core.render.graph import FrameGraph
from texallon.core.render.render_frame import render_frame
from texallon.formats.shot_files import ShotFiles
from texallon.review.chart import GREYS, SAMPLES, luminance_factor, patches
from texallon.review.rigs import NEUTRAL, RIGS
from texallon.review.sheet import ReviewError, body_reference, render_review
from texallon.review.shell import FilesAndBody
from texallon.review.tiles import find_own, make_tiles, references_shot

D65 = np.array([0.3127, 0.3290])
TO_XYZ = colour.RGB_COLOURSPACES["sRGB"].matrix_RGB_to_XYZ


def lab(linear: Any) -> Any:
    return colour.XYZ_to_Lab(np.asarray(linear, np.float64) @ TO_XYZ.T, D65)


def published(name: str) -> Any:
    """XYZ of a sample under D65, from its published spectral reflectance or value, by the colour-science library."""
    if name.startswith("N "):
        y = colour.notation.munsell.luminance_ASTMD1535(float(name[2:])) / 100
        return colour.xyY_to_XYZ([*D65, y])
    cmfs = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(colour.SpectralShape(380, 780, 5))
    sample = colour.quality.datasets.SDS_TCS["CIE 1995"][name].copy().align(cmfs.shape)
    light = colour.SDS_ILLUMINANTS["D65"].copy().align(cmfs.shape)
    return colour.sd_to_XYZ(sample, cmfs, light, method="Integration") / 100


@pytest.fixture(scope="module")
def measured() -> dict[str, np.ndarray]:
    """The middle of each patch of the chart as rendered under an even white light: linear Rec. 709."""
    document = references_shot(NEUTRAL)
    width, height = 320, 240
    picture = render_frame(resolve(document), ShotFiles(), width, height, 16, 2).picture()
    view = FrameGraph(resolve(document), ShotFiles()).view(width, height)
    found = {}
    for item in document.objects:
        if item.name in dict(patches()):
            x, y, _ = view.project(np.array(item.position, np.float32) + np.float32([0, 0, 0.001]))
            column, row = int(x * width), int(y * height)
            found[item.name] = picture[row - 2 : row + 3, column - 2 : column + 3].mean(axis=(0, 1))
    return found


@pytest.mark.parametrize("name", [name for name, _ in patches()])
def test_a_rendered_patch_is_its_published_colour(measured: dict[str, np.ndarray], name: str) -> None:
    # CIE 13.3-1995 and ASTM D1535-08; the difference is CIEDE2000 (CIE 142-2001).
    exact = colour.XYZ_to_Lab(published(name), D65)
    assert colour.delta_E(lab(measured[name]), exact, method="CIE 2000") < 1.0


def test_greys_are_those_of_the_standard() -> None:
    for value in (1.0, *GREYS, 10.0):
        assert luminance_factor(value) * 100 == pytest.approx(
            colour.notation.munsell.luminance_ASTMD1535(value), rel=1e-4
        )
    assert len(patches()) == len(SAMPLES) + len(GREYS) == 18


@pytest.mark.parametrize("rig", RIGS, ids=lambda rig: rig.name)
def test_a_grey_ball_comes_out_near_the_middle_under_every_light(rig: Any) -> None:
    # Common practice, no published source: one exposure for all, a grey of 18 % neither black nor white where it is lit.
    document = references_shot(rig)
    picture = render_frame(resolve(document), ShotFiles(), 80, 60, 16, 2).picture()
    view = FrameGraph(resolve(document), ShotFiles()).view(80, 60)
    x, y, _ = view.project(np.array([-0.21, 0.47, 0.17], np.float32))
    lit = picture[int(y * 60) - 5 : int(y * 60) + 6, int(x * 80) - 5 : int(x * 80) + 6].mean(axis=2)
    assert 0.08 < np.percentile(lit, 90) < 0.5


@pytest.fixture(scope="module")
def kept(demo_folder: Path, tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, dict[str, str]]:
    folder = tmp_path_factory.mktemp("review")
    return folder, body_reference(folder)


def test_every_demo_look_has_its_pictures(demo_folder: Path, kept: tuple[Path, dict[str, str]]) -> None:
    for path in sorted(demo_folder.glob("GH*.json")):
        shot, store = read_shot(json.loads(path.read_text())), DerivedStore()
        for look in shot.looks:
            own = find_own(shot, look.name, FilesAndBody(kept[0], root=demo_folder), store)
            names = [tile.name for tile in make_tiles(shot, look.name, kept[1], own)]
            assert len(set(names)) == len(names) == (15 if own else 12)


def test_the_own_object_stays_where_masks_expect_it(demo_folder: Path, kept: tuple[Path, dict[str, str]]) -> None:
    shot = read_shot(json.loads((demo_folder / "GH010.json").read_text()))
    own = find_own(shot, "basin stone", FilesAndBody(kept[0], root=demo_folder))
    assert own is not None and own.name == "basin" and own.high[1] == pytest.approx(1.0, abs=0.02)
    tiles = {tile.name: tile.document for tile in make_tiles(shot, "basin stone", kept[1], own)}
    moved = next(item for item in tiles["overcast.own"].objects if item.name == "basin")
    assert moved.position == next(item for item in shot.objects if item.name == "basin").position
    assert [item.name for item in tiles["overcast.own"].objects if item.visible] == ["basin"]


def test_a_look_that_is_not_there_is_said(demo_folder: Path, kept: tuple[Path, dict[str, str]]) -> None:
    shot = read_shot(json.loads((demo_folder / "GH010.json").read_text()))
    with pytest.raises(ReviewError, match="did you mean “basin stone”"):
        render_review(shot, "basin stome", FilesAndBody(kept[0], root=demo_folder), kept[1], 1)


def test_a_whole_sheet_by_the_shell(demo_folder: Path, tmp_path: Path) -> None:
    out, parts = tmp_path / "sheet.png", tmp_path / "sheet.exr"
    command = [sys.executable, "-m", "texallon.cli", "review", str(demo_folder / "GH130.json"), "--look", "petal"]
    command += ["--samples", "1", "--size", "48x36", "--quiet", "--out", str(out), "--parts", str(parts)]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    with Image.open(out) as sheet:
        assert sheet.width > 3 * 48 and np.asarray(sheet).std() > 5
    with OpenEXR.File(str(parts)) as file:
        names = [part.name() for part in file.parts]
        assert len(names) == 15 and "low sun.own" in names and "turntable.6" in names
        assert file.channels(names.index("overcast.references"))["RGB"].pixels.shape == (36, 48, 3)
