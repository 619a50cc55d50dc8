"""Voxel grids in and out: OpenVDB against the reference library, NumPy files, and what is no such file."""

import io
import zipfile
from pathlib import Path

import numpy as np
import pytest

from texallon.formats.import_voxels import SECONDS
from texallon.formats.look_into import UnusableFileError, look_into_file
from texallon.formats.voxel_file import list_grids, read_voxels
from texallon.formats.voxel_grids import VoxelError
from texallon.formats.voxel_vdb import read_vdb, reader
from texallon.formats.write_vdb import WrittenGrid, write_vdb
from texallon.formats.write_voxels import write_voxels

needs_openvdb = pytest.mark.skipif(reader() is None, reason="python3-openvdb is not installed")
TURNED = np.array([[0.1, 0.02, 0, 5], [0, 0.2, 0.01, -3], [0.03, 0, 0.3, 1.0]])


def sparse(seed: int, *shape: int) -> np.ndarray:
    random = np.random.default_rng(seed)
    return (random.normal(size=shape) * (random.random(shape) > 0.8)).astype(np.float32)


@needs_openvdb
@pytest.mark.parametrize("shape", [(1, 1, 1), (7, 8, 9), (150, 37, 61), (8, 300, 8), (129, 9, 130), (5, 6, 7, 3)])
def test_openvdb_reads_to_the_bit_what_is_written(tmp_path: Path, shape: tuple[int, ...]) -> None:
    # The reader is the reference library, OpenVDB 10 (Debian's python3-openvdb), which shares no code with the writer.
    values = sparse(3, *shape)
    values[0, 0, 0] = values[-1, -1, -1] = 1.5  # so that the active voxels reach from corner to corner
    write_vdb(tmp_path / "a.vdb", [WrittenGrid("density", values, TURNED)])
    read = read_vdb(tmp_path / "a.vdb", "density")
    assert read.values.reshape(shape).tobytes() == values.tobytes()
    assert np.allclose(read.to_place, TURNED, rtol=1e-9, atol=1e-9)
    assert not read.background.any()


@needs_openvdb
def test_a_file_holds_several_grids_far_beyond_one_node(tmp_path: Path) -> None:
    # 4 100 voxels reach over the side of the root's children, which is 4 096.
    long = np.zeros((4100, 2, 2), np.float32)
    long[[0, 17, 4095, 4096, 4099], 1, 1] = [1, 2, 3, 4, 5]
    long[0, 0, 0] = long[4099, 0, 0] = 9
    heat = np.full((3, 3, 3), 1200, np.float32)
    grids = [WrittenGrid("density", long, TURNED), WrittenGrid("temperature", heat, TURNED)]
    write_vdb(tmp_path / "a.vdb", [*grids, WrittenGrid("nothing", np.zeros((4, 4, 4), np.float32), TURNED)])
    found = {each.name: each.size for each in list_grids(tmp_path / "a.vdb")}
    assert found == {"density": (4100, 2, 2), "temperature": (3, 3, 3), "nothing": (1, 1, 1)}
    assert np.array_equal(read_vdb(tmp_path / "a.vdb", "density").values[..., 0], long)
    assert np.array_equal(read_vdb(tmp_path / "a.vdb", "temperature").values[..., 0], heat)
    assert not read_vdb(tmp_path / "a.vdb", "nothing").values.any()


@pytest.mark.parametrize("ending", ["npz", pytest.param("vdb", marks=needs_openvdb)])
def test_what_is_written_is_found_where_it_was(tmp_path: Path, ending: str) -> None:
    values = sparse(5, 6, 7, 8)
    values[0, 0, 0] = values[-1, -1, -1] = 1
    to_place = np.array([[0.1, 0, 0, -2], [0, 0.2, 0, 1], [0, 0, 0.05, 3.0]])
    path = tmp_path / f"a.{ending}"
    write_voxels(path, {"density": values}, to_place)
    grid = read_voxels(path, "density")
    assert np.array_equal(grid.finest[..., 0], values)
    place = to_place[:, :3] @ [3, 2, 5] + to_place[:, 3]
    assert np.allclose(grid.to_index[:, :3] @ place + grid.to_index[:, 3], [3, 2, 5])
    assert grid.voxel == pytest.approx((0.1 * 0.2 * 0.05) ** (1 / 3))


def test_a_bare_array_stands_about_the_origin_a_metre_long(tmp_path: Path) -> None:
    np.save(tmp_path / "a.npy", np.arange(4 * 2 * 8, dtype=np.int16).reshape(4, 2, 8))
    assert [each.name for each in list_grids(tmp_path / "a.npy")] == ["density"]
    grid = read_voxels(tmp_path / "a.npy", "density")
    assert grid.voxel == pytest.approx(1 / 8)
    assert np.allclose(grid.to_index @ [0, 0, 0, 1], [1.5, 0.5, 3.5])


def test_coarser_levels_keep_the_whole(tmp_path: Path) -> None:
    values = sparse(9, 13, 6, 9)
    np.save(tmp_path / "a.npy", values)
    grid = read_voxels(tmp_path / "a.npy", "density")
    for level, (start, nx, ny, nz) in enumerate(grid.levels):
        whole = grid.values[start : start + nx * ny * nz].sum(dtype=np.float64) * 8**level
        assert whole == pytest.approx(float(values.sum(dtype=np.float64)), rel=1e-4)


def read_all(path: Path) -> None:
    for each in list_grids(path):
        read_voxels(path, each.name)


def npz(**arrays: object) -> bytes:
    out = io.BytesIO()
    np.savez(out, **arrays)  # type: ignore[arg-type]
    return out.getvalue()


def claims(shape: tuple[int, ...]) -> bytes:
    """An archive whose array claims more than it holds."""
    out, inner = io.BytesIO(), io.BytesIO()
    np.lib.format.write_array_header_1_0(inner, {"descr": "<f4", "fortran_order": False, "shape": shape})
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("density.npy", inner.getvalue() + bytes(1000))
    return out.getvalue()


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.npy", b"nothing of the kind", "this is not a NPY file"),
        ("a.npz", b"PK\x03\x04 cut short", "damaged"),
        ("a.npz", npz(density=np.zeros((4, 4))), "a grid is x × y × z numbers"),
        ("a.npz", npz(density=np.zeros((4, 0, 4))), "a grid is x × y × z numbers"),
        ("a.npz", npz(density=np.array([{"a": 1}] * 8, object).reshape(2, 2, 2)), "not numbers"),
        ("a.npz", npz(density=np.zeros((2, 2, 2)), voxel_size=[1, -1, 1]), "each more than 0"),
        ("a.npz", npz(density=np.zeros((2, 2, 2)), origin=[1, 2]), "must hold 3 numbers"),
        ("a.npz", npz(voxel_size=1.0), "has no grids"),
        ("a.npz", claims((100_000, 100_000, 100_000)), "million are read"),
        ("a.npz", claims((100, 100, 100)), "can't be read"),
        pytest.param("a.vdb", b" BDV\x00\x00\x00\x00" + bytes(100), "no grids", marks=needs_openvdb),
        pytest.param("a.vdb", b" BDV\x00\x00\x00\x00" + bytes(range(256)) * 9, "read", marks=needs_openvdb),
        ("a.vdb", b"no grid", "this is not a VDB file"),
        ("a.txt", b"no grid", "not as “txt”"),
    ],
)
def test_what_is_no_grid_is_refused_in_words(tmp_path: Path, name: str, data: bytes, words: str) -> None:
    (tmp_path / name).write_bytes(data)
    with pytest.raises(VoxelError, match=words):
        read_all(tmp_path / name)
    with pytest.raises(UnusableFileError, match=words):
        look_into_file("texallon.formats.import_voxels", data, name.split(".")[1], SECONDS)


@needs_openvdb
def test_a_file_cut_short_anywhere_is_refused_or_read_but_breaks_nothing(tmp_path: Path) -> None:
    write_vdb(tmp_path / "a.vdb", [WrittenGrid("density", sparse(4, 20, 20, 20), TURNED)])
    data = (tmp_path / "a.vdb").read_bytes()
    for share in (0.01, 0.2, 0.5, 0.9, 0.999):
        (tmp_path / "b.vdb").write_bytes(data[: int(len(data) * share)])
        with pytest.raises(VoxelError):
            read_voxels(tmp_path / "b.vdb", "density")


def test_a_grid_that_is_not_there_is_named_with_those_that_are(tmp_path: Path) -> None:
    (tmp_path / "a.npz").write_bytes(npz(smoke=np.zeros((2, 2, 2)), heat=np.zeros((2, 2, 2))))
    with pytest.raises(VoxelError, match="no grid “density” in the file; it has “smoke”, “heat”"):
        read_voxels(tmp_path / "a.npz", "density")


def test_a_turned_volume_is_written_only_where_that_can_be_said(tmp_path: Path) -> None:
    with pytest.raises(ValueError, match=r"write it as \.vdb"):
        write_voxels(tmp_path / "a.npz", {"density": sparse(1, 2, 2, 2)}, TURNED)
    with pytest.raises(ValueError, match=r"\.vdb or \.npz"):
        write_voxels(tmp_path / "a.txt", {"density": sparse(1, 2, 2, 2)}, TURNED)
    assert not list(tmp_path.iterdir())


def test_without_the_library_it_is_said_what_to_install(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("texallon.formats.voxel_vdb.reader", lambda: None)
    write_vdb(tmp_path / "a.vdb", [WrittenGrid("density", sparse(1, 3, 3, 3), TURNED)])
    with pytest.raises(VoxelError, match="apt-get install python3-openvdb"):
        list_grids(tmp_path / "a.vdb")
