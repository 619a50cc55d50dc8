"""Finding and reading the files that a shot refers to."""

import os
from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest
from PIL import Image
from pydantic import ValidationError

from texallon.core.derived import DerivedStore
from texallon.core.document import FileRef
from texallon.core.render.stored_files import StoredFiles
from texallon.formats.exr import PictureError, write_exr
from texallon.formats.shot_files import ShotFiles


def write_hdr(path: Path, picture: np.ndarray) -> None:
    """Radiance RGBE, by OpenImageIO."""
    out = oiio.ImageOutput.create(str(path))
    out.open(str(path), oiio.ImageSpec(picture.shape[1], picture.shape[0], 3, "float"))
    out.write_image(np.ascontiguousarray(picture, np.float32))
    out.close()


def test_an_environment_in_radiance_format_keeps_its_range(tmp_path: Path) -> None:
    # G. Ward, "Real Pixels", Graphics Gems II, 1991: a shared exponent and eight bits for each colour, so 1 % of the brightest.
    picture = np.array([[[1000.0, 500.0, 250.0], [0.001, 0.002, 0.001]]], np.float32)
    write_hdr(tmp_path / "sky.hdr", picture)
    found = ShotFiles(root=tmp_path).image(FileRef(file="sky.hdr"))
    assert found.dtype == np.float32 and found.shape == (1, 2, 3)
    assert np.abs(found - picture).max(axis=2) == pytest.approx(0, abs=8)
    assert found[0, 1] == pytest.approx(picture[0, 1], rel=0.01, abs=1e-5)


def test_an_exr_environment_is_read_as_it_is(tmp_path: Path) -> None:
    picture = np.full((4, 8, 3), [4.0, 2.0, 0.5], np.float32)
    write_exr(tmp_path / "sky.exr", picture)
    assert np.array_equal(ShotFiles(root=tmp_path).image(FileRef(file="sky.exr")), picture)


def test_a_screen_picture_becomes_linear_light(tmp_path: Path) -> None:
    # IEC 61966-2-1: 188 of 255 is about 0.5 of the light (0.5029).
    Image.fromarray(np.full((3, 5, 3), 188, np.uint8)).save(tmp_path / "plate.png")
    found = ShotFiles(root=tmp_path).image(FileRef(file="plate.png"))
    assert found == pytest.approx(np.full((3, 5, 3), ((188 / 255 + 0.055) / 1.055) ** 2.4), abs=2e-3)


@pytest.mark.parametrize("mode", ["L", "LA", "RGBA"])
def test_grey_pictures_and_those_with_alpha_have_three_colours(tmp_path: Path, mode: str) -> None:
    Image.new(mode, (6, 2), tuple([255] * len(mode)) if len(mode) > 1 else 255).save(tmp_path / "a.png")
    found = ShotFiles(root=tmp_path).image(FileRef(file="a.png"))
    assert found.shape == (2, 6, 3)
    assert found == pytest.approx(1.0, abs=1e-3)


def test_the_file_of_a_digest_comes_before_one_of_the_same_name(tmp_path: Path) -> None:
    store, beside = tmp_path / "store", tmp_path / "beside"
    store.mkdir()
    beside.mkdir()
    digest = "a" * 64
    Image.new("L", (1, 1), 255).save(store / f"{digest}.png")
    Image.new("L", (1, 1), 0).save(beside / "p.png")
    files = ShotFiles(beside, store)
    assert files.image(FileRef(file="p.png", sha256=digest)).max() == pytest.approx(1.0)
    assert files.image(FileRef(file="p.png")).max() == 0.0
    assert files.image(FileRef(file="p.png", sha256="b" * 64)).max() == 0.0, (
        "not in the store: the one beside the document"
    )


def test_a_way_out_of_the_folder_is_refused_in_the_document_already() -> None:
    for name in ("../secret.png", "a/../../secret.png", "/etc/passwd"):
        with pytest.raises(ValidationError, match="relative path"):
            FileRef(file=name)


@pytest.mark.parametrize("name", ["missing.png", "folder"])
def test_what_is_no_file_is_said_not_to_be_there(tmp_path: Path, name: str) -> None:
    inside = tmp_path / "in"
    (inside / "folder").mkdir(parents=True)
    Image.new("L", (1, 1)).save(tmp_path / "secret.png")
    with pytest.raises(FileNotFoundError, match="is not there"):
        ShotFiles(root=inside).image(FileRef(file=name))


def test_a_link_that_leads_out_of_the_folder_is_not_followed(tmp_path: Path) -> None:
    inside = tmp_path / "in"
    inside.mkdir()
    Image.new("L", (1, 1)).save(tmp_path / "secret.png")
    (inside / "link.png").symlink_to(tmp_path / "secret.png")
    with pytest.raises(FileNotFoundError):
        ShotFiles(root=inside).image(FileRef(file="link.png"))


def test_each_content_is_read_once_while_there_is_room(tmp_path: Path) -> None:
    for number in range(40):
        Image.new("L", (64, 64), number).save(tmp_path / f"{number}.png")
    refs = [FileRef(file=f"{number}.png") for number in range(40)]
    roomy = StoredFiles(ShotFiles(root=tmp_path), DerivedStore(10_000_000))
    first = [roomy.image(ref) for ref in refs]
    assert all(roomy.image(ref) is image for ref, image in zip(refs, first, strict=True)), "whatever their number"
    each = first[0].nbytes
    narrow = StoredFiles(ShotFiles(root=tmp_path), DerivedStore(10 * each))
    kept = [narrow.image(ref) for ref in refs]
    assert narrow.image(refs[-1]) is kept[-1]
    assert narrow.image(refs[0]) is not kept[0], "the oldest had to go"


def test_a_file_that_changed_is_read_again(tmp_path: Path) -> None:
    files = StoredFiles(ShotFiles(root=tmp_path), DerivedStore())
    for tone in (10, 200):
        Image.new("L", (1, 1), tone).save(tmp_path / "a.png")
        os.utime(tmp_path / "a.png", ns=(tone, tone))
        found = files.image(FileRef(file="a.png"))
        assert found[0, 0, 0] == pytest.approx(((tone / 255 + 0.055) / 1.055) ** 2.4, rel=1e-3), "IEC 61966-2-1"


def test_what_is_no_picture_is_said_in_words(tmp_path: Path) -> None:
    (tmp_path / "sky.hdr").write_bytes(b"#?RADIANCE\nnonsense")
    with pytest.raises(PictureError, match="HDR"):
        ShotFiles(root=tmp_path).image(FileRef(file="sky.hdr"))
