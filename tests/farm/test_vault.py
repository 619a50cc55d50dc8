"""Where workers find files: by their digests, whole or not at all, whoever puts and fetches at the same time."""

import hashlib
import random
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from texallon.farm.vault import Vault, VaultError

URLS = ["{folder}/vault", "memory://{name}"]


@pytest.fixture(params=URLS)
def vault(request: pytest.FixtureRequest, tmp_path: Path) -> Vault:
    return Vault(request.param.format(folder=tmp_path, name=tmp_path.name))


@pytest.mark.parametrize("size", [0, 1, 4096, 3_000_001])
def test_what_is_put_is_fetched_as_it_was(vault: Vault, tmp_path: Path, size: int) -> None:
    data = random.Random(size).randbytes(size)
    digest = vault.put(data, ".bin")
    assert digest == hashlib.sha256(data).hexdigest()
    there = vault.fetch(digest, ".bin", tmp_path / "kept")
    assert there.read_bytes() == data and there.suffix == ".bin"
    # A second time it is there already, and is not fetched again.
    before = there.stat().st_mtime_ns
    assert vault.fetch(digest, ".bin", tmp_path / "kept") == there and there.stat().st_mtime_ns == before


def test_many_may_put_and_fetch_the_same_at_once(vault: Vault, tmp_path: Path) -> None:
    contents = [random.Random(number).randbytes(40_000) for number in range(4)]
    together = threading.Barrier(8)

    def work(number: int) -> bool:
        together.wait(30)
        data = contents[number % 4]
        digest = vault.put(data, ".bin")
        return vault.fetch(digest, ".bin", tmp_path / "kept").read_bytes() == data

    with ThreadPoolExecutor(8) as pool:
        assert all(pool.map(work, range(8)))
    files = tmp_path / ("vault/files" if vault.local else "kept")
    assert len([each for each in files.rglob("*") if each.is_file()]) == 4, "nothing half made is left"


def test_results_are_replaced_whole_and_removed_with_their_folder(vault: Vault) -> None:
    for data in (b"first", b"second and longer", b"3"):
        vault.write("000001/S.0001.exr", data)
        assert vault.read("000001/S.0001.exr") == data
        with vault.opened("000001/S.0001.exr") as path:
            assert path.read_bytes() == data and path.suffix == ".exr"
    vault.write("000002/S.0001.exr", b"another order's")
    vault.remove("000001")
    assert not vault.exists("000001/S.0001.exr") and vault.exists("000002/S.0001.exr")
    vault.remove("000001")  # what is not there is removed


def test_a_file_that_was_cut_short_on_the_way_is_refused_and_fetched_again(tmp_path: Path) -> None:
    vault = Vault(str(tmp_path / "vault"))
    data = random.Random(1).randbytes(10_000)
    digest = vault.put(data, ".bin")
    (stored,) = [each for each in (tmp_path / "vault").rglob("*") if each.is_file()]
    stored.write_bytes(data[:5000])
    with pytest.raises(VaultError, match="damaged"):
        vault.fetch(digest, ".bin", tmp_path / "kept")
    assert not [each for each in (tmp_path / "kept").rglob("*") if each.is_file()]
    assert vault.put(data, ".bin") == digest, "whoever has it whole puts it again"
    assert vault.fetch(digest, ".bin", tmp_path / "kept").read_bytes() == data


def test_a_file_that_changed_since_it_was_named_is_refused(tmp_path: Path) -> None:
    vault = Vault(str(tmp_path / "vault"))
    source = tmp_path / "mesh.glb"
    source.write_bytes(b"whole")
    digest = hashlib.sha256(b"whole").hexdigest()
    vault.put_file(source, digest)
    vault.put_file(source, digest)
    assert vault.fetch(digest, ".glb", tmp_path / "kept").read_bytes() == b"whole"
    source.write_bytes(b"changed meanwhile")
    with pytest.raises(VaultError, match="damaged"):
        Vault(str(tmp_path / "other")).put_file(source, digest)
