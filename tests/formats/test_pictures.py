"""OpenEXR and point files."""

import zipfile
from pathlib import Path

import numpy as np
import OpenEXR
import pytest

from texallon.formats.exr import PictureError, write_exr
from texallon.formats.picture_file import read_picture
from texallon.formats.points_file import read_points


def test_a_picture_survives_within_half_floats(tmp_path: Path) -> None:
    # OpenEXR: half has 11 significant bits, so the relative error stays below 2⁻¹¹.
    picture = (2.0 ** np.random.default_rng(0).uniform(-10, 10, (20, 30, 3))).astype(np.float32)
    write_exr(tmp_path / "p.exr", picture, {"texallon:document": "abc"})
    back = read_picture(tmp_path / "p.exr", True)
    assert np.abs(back / picture - 1).max() <= 2.0**-11
    with OpenEXR.File(str(tmp_path / "p.exr")) as file:
        header = dict(file.header())
    assert header["texallon:document"] == "abc"
    assert np.allclose(header["chromaticities"][:2], (0.64, 0.33)), "red of ITU-R BT.709"
    assert [path.name for path in tmp_path.iterdir()] == ["p.exr"]


@pytest.mark.parametrize("data", [b"", b"not a picture", b"\x76\x2f\x31\x01 and then nonsense"])
def test_what_is_no_picture_is_refused(tmp_path: Path, data: bytes) -> None:
    (tmp_path / "p.exr").write_bytes(data)
    with pytest.raises(PictureError, match=r"not a EXR file|can't be read"):
        read_picture(tmp_path / "p.exr", True)


def test_points_are_never_unpickled(tmp_path: Path) -> None:
    np.savez(tmp_path / "bad.npz", position=np.array([print], dtype=object))
    with pytest.raises(ValueError, match=r"Object arrays|pickle"):
        read_points(tmp_path / "bad.npz")
    (tmp_path / "no.npz").write_bytes(b"PK nothing")
    with pytest.raises(ValueError, match=r"not an \.npz|pickle|Cannot load"):
        read_points(tmp_path / "no.npz")
    with zipfile.ZipFile(tmp_path / "many.npz", "w") as archive:
        for number in range(70):
            archive.writestr(f"a{number}.npy", b"")
    with pytest.raises(ValueError, match="70 arrays"):
        read_points(tmp_path / "many.npz")
