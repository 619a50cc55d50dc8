"""OpenEXR files in parts, read by OpenImageIO and not by what wrote them."""

from pathlib import Path

import numpy as np
import OpenImageIO as oiio
import pytest

from texallon.formats.exr import COMPRESSIONS, MOST_CHANNELS, Compression, read_channels, write_exr

SIZE = (6, 9)


def parts_of(path: Path) -> dict[str, tuple[oiio.ImageSpec, dict[str, np.ndarray]]]:
    """The header and the channels of each part, by its name."""
    opened = oiio.ImageInput.open(str(path))
    assert opened is not None, oiio.geterror()
    found: dict[str, tuple[oiio.ImageSpec, dict[str, np.ndarray]]] = {}
    while opened.seek_subimage(len(found), 0):
        spec = oiio.ImageSpec(opened.spec())
        values = opened.read_image(len(found), 0, 0, spec.nchannels, oiio.FLOAT)
        name = spec.getattribute("oiio:subimagename") or ""
        found[name] = (spec, dict(zip(spec.channelnames, np.moveaxis(values, 2, 0), strict=True)))
    opened.close()
    return found


def noise(channels: int, seed: int = 3) -> np.ndarray:
    return np.random.default_rng(seed).uniform(0, 4, (*SIZE, channels)).astype(np.float32)


def test_each_kind_of_pass_is_a_part_with_its_own_types(tmp_path: Path) -> None:
    depth, albedo = noise(1), noise(3)
    write_exr(tmp_path / "a.exr", noise(3), {"texallon:document": "ab" * 32}, {"light": {"albedo": albedo}, "data": {"depth": depth}})  # fmt: skip
    found = parts_of(tmp_path / "a.exr")
    assert list(found) == ["picture", "light", "data"]
    picture, light, data = (spec for spec, _ in found.values())
    assert [picture.channelformat(i) for i in range(3)] == [oiio.HALF] * 3
    assert light.format == data.format == oiio.FLOAT
    assert (data.width, data.height) == (SIZE[1], SIZE[0])
    # Exact, where whole floats were asked for; the picture as IEEE 754 rounds to 11 bits.
    assert np.array_equal(found["data"][1]["depth.Y"], depth[:, :, 0])
    assert np.array_equal(found["light"][1]["albedo.B"], albedo[:, :, 2])
    assert np.allclose(found["picture"][1]["G"], noise(3)[:, :, 1], rtol=2**-11)


def test_every_part_says_what_the_file_is_made_from_and_its_primaries(tmp_path: Path) -> None:
    said = {"texallon:document": "0123456789abcdef" * 4, "exposureStops": "1.5"}
    write_exr(tmp_path / "a.exr", noise(3), said, {"data": {"depth": noise(1)}})
    for spec, _ in parts_of(tmp_path / "a.exr").values():
        assert {name: spec.getattribute(name) for name in said} == said
        # ITU-R BT.709-6, item 1.3: red, green, blue and the white of D65.
        primaries = (0.64, 0.33, 0.30, 0.60, 0.15, 0.06, 0.3127, 0.3290)
        assert spec.getattribute("chromaticities") == pytest.approx(primaries, abs=1e-6)


@pytest.mark.parametrize("compression", list(COMPRESSIONS))
def test_the_header_names_the_compression_and_the_bits_are_kept(tmp_path: Path, compression: Compression) -> None:
    depth = noise(1, 5)
    write_exr(tmp_path / "a.exr", noise(3), {}, {"data": {"depth": depth}}, compression=compression)
    for spec, _ in parts_of(tmp_path / "a.exr").values():
        assert spec.getattribute("compression").partition(":")[0] == compression
    there = parts_of(tmp_path / "a.exr")["data"][1]["depth.Y"]
    if (
        compression == "dwaa"
    ):  # its loss is of what is seen; depth is whole floats, which it keeps (OpenEXR, "lossy DCT": R, G, B, Y only)
        assert np.allclose(there, depth[:, :, 0], rtol=0.1)
    else:
        assert np.array_equal(there, depth[:, :, 0])


def test_a_kind_with_many_layers_goes_on_in_another_part(tmp_path: Path) -> None:
    layers = {f"group.{number}": noise(3, number) for number in range(45)}
    write_exr(tmp_path / "a.exr", noise(3), {}, {"light": layers, "ids": {"object_id00": noise(4)}})
    found = parts_of(tmp_path / "a.exr")
    assert list(found) == ["picture", "light", "light 2", "light 3", "ids"]
    assert all(spec.nchannels <= MOST_CHANNELS for spec, _ in found.values())
    # No layer is torn apart.
    for _, channels in found.values():
        letters: dict[str, set[str]] = {}
        for name in channels:
            letters.setdefault(name.rpartition(".")[0], set()).add(name[-1])
        assert all(each in ({*"RGB"}, {*"RGBA"}) for each in letters.values())
    read = read_channels(tmp_path / "a.exr")
    assert len(read) == 3 + 45 * 3 + 4
    assert all(np.array_equal(read[f"group.{number}.R"], noise(3, number)[:, :, 0]) for number in range(45))


def test_ids_keep_every_bit_and_data_only_finite_numbers(tmp_path: Path) -> None:
    ids = np.array([0x7F7FFFFF, 0x00000001, 0x80000001, 0x12345678], np.uint32).view(np.float32)
    wild = np.array([np.inf, -np.inf, np.nan], np.float32)
    position, masks = np.broadcast_to(wild, (*SIZE, 3)), np.broadcast_to(ids, (*SIZE, 4))
    write_exr(tmp_path / "a.exr", noise(3), {}, {"data": {"position": position}, "ids": {"object_id00": masks}})
    found = read_channels(tmp_path / "a.exr")
    there = np.stack([found[f"object_id00.{letter}"] for letter in "RGBA"], axis=2)
    assert np.array_equal(there.view(np.uint32), masks.view(np.uint32))
    assert [found[f"position.{axis}"][0, 0] for axis in "XYZ"] == [1e10, -1e10, 0]


def test_a_picture_alone_is_a_plain_file(tmp_path: Path) -> None:
    write_exr(tmp_path / "a.exr", noise(3), {}, {"data": {}})
    (only,) = parts_of(tmp_path / "a.exr").values()
    assert only[0].channelnames == ("R", "G", "B")
    assert not list(tmp_path.glob(".*")), "nothing temporary is left"
