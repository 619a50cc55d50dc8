"""The shell command, without server or database: most in this process, as starting one takes longer than what is looked at."""

import json
import os
import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path

import numpy as np
import OpenEXR
import OpenImageIO as oiio
import pytest
from click.testing import CliRunner
from PIL import Image

from texallon.cli import main
from texallon.core.document import read_shot
from texallon.formats.picture_file import read_picture

pytestmark = pytest.mark.slow


def in_own_process(*arguments: object, folder: Path | None = None) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "texallon.cli", *map(str, arguments)]
    environment = {name: value for name, value in os.environ.items() if not name.startswith("TEXALLON")}
    return subprocess.run(command, capture_output=True, text=True, cwd=folder, env=environment, check=False)


def texallon(
    *arguments: object, folder: Path | None = None, environment: Mapping[str, str] | None = None
) -> subprocess.CompletedProcess[str]:
    words = [*map(str, arguments)]
    before = Path.cwd()
    os.chdir(folder or before)
    try:
        unset = {name: None for name in os.environ if name.startswith("TEXALLON")}
        made = CliRunner(env=unset | dict(environment or {})).invoke(main, words, prog_name="texallon")
    finally:
        os.chdir(before)
    if made.exception is not None and not isinstance(made.exception, SystemExit):
        raise made.exception
    return subprocess.CompletedProcess(words, made.exit_code, made.stdout, made.stderr)


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("cli")
    done = texallon("demo", "--out", folder / "demo")
    assert done.returncode == 0, done.stderr
    return folder / "demo"


def test_the_demo_is_written_as_files(demo: Path) -> None:
    shot = json.loads((demo / "GH010.json").read_text())
    read_shot(shot)
    for item in shot["objects"]:
        assert (demo / item["geometry"]["file"]).stat().st_size > 10_000
    assert json.loads((demo / "project.json").read_text())["name"] == "Midwinter Glasshouse"


def test_a_frame_is_rendered_as_exr_and_png(demo: Path, tmp_path: Path) -> None:
    for name in ("basin.exr", "basin.png", "again.exr"):
        done = texallon(
            "render",
            demo / "GH010.json",
            "--frame",
            1,
            "--size",
            "96x54",
            "--samples",
            2,
            "--quiet",
            "--out",
            tmp_path / name,
        )
        assert done.returncode == 0, done.stderr
    light = read_picture(tmp_path / "basin.exr", True)
    assert light.shape == (54, 96, 3)
    assert np.isfinite(light).all()
    assert light.max() > 0.05
    assert np.array_equal(light, read_picture(tmp_path / "again.exr", True)), "a render repeats exactly"
    assert Image.open(tmp_path / "basin.png").size == (96, 54)
    with OpenEXR.File(str(tmp_path / "basin.exr")) as file:
        assert len(file.header()["texallon:document"]) == 64


def test_a_signal_is_sampled_at_given_points(demo: Path, tmp_path: Path) -> None:
    position = np.array([[0, 0.83, 0], [0, 1.18, 0], [0, 2.0, 0], [0.5, 0.5, 0.5]])
    np.savez(tmp_path / "points.npz", position=position, inside=np.ones(4))

    def sample(signal: str) -> np.ndarray:
        out = tmp_path / "values.npz"
        done = texallon(
            "sample",
            demo / "GH010.json",
            "--look",
            "basin stone",
            "--signal",
            signal,
            "--points",
            tmp_path / "points.npz",
            "--out",
            out,
        )
        assert done.returncode == 0, done.stderr
        return np.load(out)["values"]

    splash = sample("splash noise")
    assert splash.shape == (4,)
    wet = sample("wet.where")
    assert wet[0] == pytest.approx(splash[0], abs=1e-6), "at the waterline the range is 1"
    assert wet[1] == pytest.approx(0, abs=1e-6)
    assert wet[2] == 0
    assert sample("base_color").shape == (4, 3)
    assert sample("below water.where")[[0, 3]].tolist() == pytest.approx([0.5, 1.0], abs=1e-3)


def test_frames_stand_side_by_side_on_a_contact_sheet(demo: Path, tmp_path: Path) -> None:
    sheet = tmp_path / "sheet.png"
    frames = ["--frames", "1,20,48", "--size", "64x36", "--columns", "2", "--samples", "2", "--quiet"]
    done = texallon("contact-sheet", demo / "GH240.json", "--out", sheet, *frames)
    assert done.returncode == 0, done.stderr
    with Image.open(sheet) as picture:
        assert picture.size == (128, 72)
        shown = np.asarray(picture.convert("L"), np.float32)
    first, second, third, none = shown[:36, :64], shown[:36, 64:], shown[36:, :64], shown[36:, 64:]
    assert none.std() == 0 and first.std() > 1
    # The frost has come farther, and is brighter than the water.
    assert first[12:].mean() < second[12:].mean() < third[12:].mean()


def test_ops_and_schema_are_json(demo: Path) -> None:
    listed = json.loads(texallon("ops", "--json").stdout)
    noise = next(op for op in listed if op["name"] == "noise")
    size = next(parameter for parameter in noise["parameters"] if parameter["name"] == "size")
    assert (size["unit"], size["range"], size["default"]) == ("m", [1e-06, 1000000.0], 0.25)
    assert "Perlin" in noise["source"]
    assert json.loads(texallon("schema").stdout)["title"] == "Texallon shot"
    assert "remap" in texallon("ops").stdout


@pytest.mark.parametrize(("options", "file"), [((), "shot"), (("--pack",), "pack")])
def test_the_schemas_that_others_read_are_those_of_today(options: tuple[str, ...], file: str) -> None:
    kept = (Path(__file__).parents[2] / "docs" / "schema" / f"{file}.schema.json").read_text()
    assert kept == texallon("schema", *options).stdout, (
        f"texallon schema {' '.join(options)} > docs/schema/{file}.schema.json"
    )


def test_help_names_every_command() -> None:
    said = in_own_process("--help").stdout
    for command in ("render", "demo", "sample", "ops", "schema"):
        assert command in said


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["render", "missing.json", "--out", "x.png"], "missing.json: No such file"),
        (["render", "{demo}/GH010.json", "--out", "x.gif"], "written as .exr or .png"),
        (["render", "{demo}/GH010.json", "--out", "nowhere/x.png"], "there is no folder nowhere"),
        (["render", "{demo}/GH010.json", "--size", "big", "--out", "x.png"], "such as 640x360"),
        (["render", "{demo}/GH010.json", "--frame", "99", "--out", "x.png"], "has frames 1 to 48"),
        (["render", "{demo}/project.json", "--out", "x.png"], "/title|/shots|/looks|looks"),
        (["render", "{demo}/geometry/basin.glb", "--out", "x.png"], "not a text file|not JSON"),
        (["contact-sheet", "{demo}/GH010.json", "--out", "x.exr"], "written as .png"),
        (["contact-sheet", "{demo}/GH010.json", "--frames", "1,two", "--out", "x.png"], "such as 1-48, 1,24,48"),
        (["contact-sheet", "{demo}/GH010.json", "--frames", "1,49", "--out", "x.png"], "frames 1 to 48, not 49"),
        (["contact-sheet", "{demo}/GH010.json", "--size", "16000x16000", "--out", "x.png"], "fewer frames, or smaller"),
        (["sample", "{demo}/GH010.json", "--look", "basin", "--signal", "s", "--points", "p.npz", "--out", "o"], "no such file"),
        (["sample", "{demo}/GH010.json", "--look", "basin stoen", "--signal", "s", "--points", "{points}", "--out", "o.npz"], "did you mean “basin stone”"),
        (["sample", "{demo}/GH010.json", "--look", "basin stone", "--signal", "bowl", "--points", "{points}", "--out", "o.npz"], "the points lack inside"),
    ],
)  # fmt: skip
def test_bad_input_is_one_clear_line(demo: Path, tmp_path: Path, arguments: list[str], words: str) -> None:
    import re

    np.savez(tmp_path / "points.npz", position=np.zeros((2, 3)))
    filled = [text.format(demo=demo, points=tmp_path / "points.npz") for text in arguments]
    done = texallon(*filled, folder=tmp_path)
    assert done.returncode != 0
    assert "Traceback" not in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1, done.stderr
    assert re.search(words, done.stderr), done.stderr


def test_a_shot_without_its_geometry_says_which_file_is_missing(demo: Path, tmp_path: Path) -> None:
    (tmp_path / "alone.json").write_text((demo / "GH010.json").read_text())
    done = texallon("render", tmp_path / "alone.json", "--out", tmp_path / "x.png", "--quiet")
    assert done.returncode == 1
    assert "geometry/basin.glb" in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1


def test_advice_is_told_in_the_shell(demo: Path, tmp_path: Path) -> None:
    clean = texallon("advise", demo / "GH010.json")
    assert clean.returncode == 0
    document = json.loads((demo / "GH010.json").read_text())
    document["looks"][0]["layers"][1]["where"]["steps"][1]["params"] = {"from_start": 9, "from_end": 8}
    broken = demo / "advised.json"
    broken.write_text(json.dumps(document))
    told = texallon("advise", broken)
    assert told.stdout.startswith("error: basin stone · wet · where: The range 8 … 9 misses what comes in")
    found = json.loads(texallon("advise", broken, "--json").stdout)
    assert found[0]["rule"] == "range misses"
    assert found[0]["fix"]["patch"]
    broken.unlink()


def test_a_point_is_read_in_the_shell(demo: Path) -> None:
    told = texallon("read", demo / "GH010.json", "--at", "0.5", "0.62")
    assert told.returncode == 0, told.stderr
    assert told.stdout.splitlines()[0].startswith("basin, basin stone, at ")
    assert "    height: " in told.stdout
    whole = json.loads(texallon("read", demo / "GH010.json", "--at", "0.5", "0.62", "--json").stdout)
    assert [layer["name"] for layer in whole["layers"]] == ["stone", "wet", "below water"]
    sky = texallon("read", demo / "GH020.json", "--at", "0.5", "0.001")
    assert sky.returncode == 1
    assert sky.stderr.strip() == "texallon: --at 0.5 0.001: there is nothing but sky"


def test_data_passes_are_layers_of_one_exr(demo: Path, tmp_path: Path) -> None:
    out = tmp_path / "passes.exr"
    done = texallon(
        "render", demo / "GH070.json", "--size", "64x36", "--samples", "2", "--passes", "--denoise",
        "--signal", "waterline wetness", "--quiet", "--out", out,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    # Read back by OpenImageIO, not by what wrote it.
    opened = oiio.ImageInput.open(str(out))
    assert opened is not None, oiio.geterror()
    pixels, parts = {}, {}
    while opened.seek_subimage(len(parts), 0):
        spec = opened.spec()
        parts[spec.getattribute("oiio:subimagename")] = len(spec.channelnames)
        found = opened.read_image(len(parts) - 1, 0, 0, spec.nchannels, oiio.FLOAT)
        pixels |= zip(spec.channelnames, np.moveaxis(found, 2, 0), strict=True)
    opened.close()
    names = set(pixels)
    assert list(parts) == ["picture", "light", "data", "ids"] and sum(parts.values()) == len(names)
    wanted = {
        "R",
        "noisy.G",
        "denoised.B",
        "albedo.R",
        "position.X",
        "normal.Z",
        "uv.Y",
        "depth.Y",
        "object.Y",
        "look.Y",
    }
    assert wanted <= set(names)
    assert "signal.waterline wetness.Y" in names
    document = json.loads((demo / "GH070.json").read_text())
    eye = np.array(document["camera"]["position"])
    way = np.array(document["camera"]["target"]) - eye
    way = way / np.linalg.norm(way)
    there = pixels["object.Y"] >= 0
    assert there.mean() > 0.6
    position = np.stack([pixels[f"position.{axis}"] for axis in "XYZ"], axis=2)
    assert np.allclose(((position - eye) @ way)[there], pixels["depth.Y"][there], atol=1e-4)
    assert set(np.unique(pixels["object.Y"])) <= {-1, 0, 1, 2, 3, 4}
    length = sum(pixels[f"normal.{axis}"] ** 2 for axis in "XYZ")
    assert np.allclose(length[there], 1, atol=1e-3)
    # The ways of light, and the light groups, each add up to the noisy picture.
    for kind in ("light.", "group."):
        total = sum(values for name, values in pixels.items() if name.startswith(kind) and name.endswith(".G"))
        assert np.allclose(total, pixels["noisy.G"], rtol=1e-3, atol=1e-5), kind


def test_a_region_and_a_noise_level_are_rendered_from_the_shell(demo: Path, tmp_path: Path) -> None:
    out = tmp_path / "part.exr"
    done = texallon(
        "render", demo / "GH010.json", "--size", "64x36", "--samples", "40", "--noise", "0.5",
        "--region", "0.25", "0.25", "0.75", "0.75", "--out", out,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert "16 of 40 samples" in done.stderr and "17 of 40" not in done.stderr, "quiet enough after the first look"
    light = read_picture(out, True)
    assert light[:9].max() == 0 and light[12:24, 20:44].min() > 0
    wrong = texallon("render", demo / "GH010.json", "--region", "0.5", "0", "0.5", "1", "--out", out)
    assert wrong.returncode == 1 and wrong.stderr.startswith("texallon: --region: left and top come before")


def test_passes_need_an_exr_and_signals_that_are_there(demo: Path, tmp_path: Path) -> None:
    done = texallon("render", demo / "GH010.json", "--passes", "--out", tmp_path / "x.png")
    assert (done.returncode, done.stderr.strip()) == (1, "texallon: --passes: only an .exr file has room for them")
    done = texallon(
        "render", demo / "GH010.json", "--signal", "splsh noise", "--size", "8x8", "--out", tmp_path / "x.exr"
    )
    assert done.returncode == 1
    assert "did you mean “splash noise”?" in done.stderr


def test_what_an_edit_computes_anew_is_explained(demo: Path) -> None:
    shot = json.loads((demo / "GH010.json").read_text())
    shot["camera"]["exposure"] = 1.0
    (demo / "brighter.json").write_text(json.dumps(shot))
    done = texallon("explain", demo / "GH010.json", "--after", demo / "brighter.json", "--json")
    assert done.returncode == 0, done.stderr
    told = json.loads(done.stdout)
    before = {each["kind"] for each in told["shot"] if each["computed"]}
    after = {each["kind"] for each in told["after"] if each["computed"]}
    assert {"scene", "film", "plan"} <= before
    assert not after & {"scene", "film", "plan", "denoised picture"}, "exposure is a matter of display"
    plain = texallon("explain", demo / "GH010.json")
    assert "kept:" in plain.stdout and "scene" in plain.stdout
    refused = texallon("explain", demo / "nothing.json")
    assert refused.returncode == 1 and "nothing.json" in refused.stderr


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["render"], "Missing argument 'SHOT'"),
        (["nonsense"], "No such command 'nonsense'"),
        (["--bad"], "No such option"),
        (["render", "SHOT", "--samples", "-1", "--out", "o.exr"], "'--samples'"),
        (["render", "SHOT", "--frame", "1" + "0" * 400, "--out", "o.exr"], "'--frame'"),
        (["render", "SHOT", "--noise", "nan", "--out", "o.exr"], "nan is not a number from 0 to 1"),
        (["read", "SHOT", "--at", "nan", "0.5"], "nan is not a number from 0 to 1"),
        (["read", "SHOT", "--at", "0.5", "0.5", "--frame", "100000000000"], "'--frame'"),
        (["advise", "SHOT", "--frame", "1e400"], "'--frame'"),
        (["explain", "/bin/ls"], "is not a text file"),
        (["render", "/", "--out", "o.exr"], "Is a directory"),
        (["render", "SHOT", "--size", "16x16", "--samples", "1", "--out", "/proc/x/o.exr"], "there is no folder"),
        (["check", "--data", "/proc/x"], "is no data folder"),
        (["backup", "/proc/x", "--data", "/proc/y"], "is no data folder"),
        (["restore", "/proc"], "is no backup"),
    ],
)
def test_whatever_is_wrong_is_one_line_and_status_1(demo_folder: Path, arguments: list[str], words: str) -> None:
    given = [str(demo_folder / "GH010.json") if each == "SHOT" else each for each in arguments]
    done = subprocess.run([sys.executable, "-m", "texallon.cli", *given], capture_output=True, text=True, check=False)
    assert done.returncode == 1
    assert done.stderr.startswith("texallon: ") and done.stderr.count("\n") == 1 and len(done.stderr) < 500
    assert words in done.stderr


def test_a_pack_goes_out_and_in_by_the_shell(demo: Path, tmp_path: Path) -> None:
    out, folder = tmp_path / "film.zip", tmp_path / "laid out"
    done = texallon("pack", str(demo / "GH020.json"), str(demo / "GH070.json"), "--out", str(out))
    assert done.returncode == 0 and "2 shots" in done.stdout
    done = texallon("unpack", str(out), "--out", str(folder))
    assert done.returncode == 0 and (folder / "GH020.json").is_file() and (folder / "manifest.json").is_file()
    again = tmp_path / "again.zip"
    texallon(
        "pack", str(folder / "GH020.json"), str(folder / "GH070.json"), "--project", demo.name, "--out", str(again)
    )
    assert again.read_bytes() == out.read_bytes()
    refused = texallon("unpack", str(out), "--out", str(folder))
    assert refused.returncode == 1 and "not empty" in refused.stderr
    refused = texallon("unpack", str(demo / "GH020.json"), "--out", str(tmp_path / "no"))
    assert refused.returncode == 1 and "no zip" in refused.stderr and not (tmp_path / "no").exists()
    assert texallon("unpack", str(out)).returncode == 1
