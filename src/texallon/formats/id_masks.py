"""Coverage by id in an EXR file, in the openly published layout that compositors read: pairs of id and share in numbered layers, the names in the header.

An id is the 32-bit MurmurHash3 of a name, its bits read as a float; exponents that would make it no number, infinite or denormal are moved inwards. The layout
is that of the open specification (version 1.2.0, 2017; as known from memory): `NAME00.RGBA` holds the first two pairs, `NAME01.RGBA` the next, and the header
has `name`, `hash`, `conversion` and `manifest` under `cryptomatte/` and the first seven digits of the name's own hash.
"""

import json
from collections.abc import Mapping, Sequence

import mmh3
import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float32]


def id_of(name: str) -> int:
    """The bits of a name's id.

    Parameters
    ----------
    name : str
        Of an object or a look.

    Examples
    --------
    >>> f"{id_of('hello'):08x}"
    '248bfa47'
    """
    bits = mmh3.hash(name.encode(), 0, signed=False)
    exponent = bits >> 23 & 255
    return bits ^ (1 << 23) if exponent in (0, 255) else bits


def id_layers(
    kind: str, names: Sequence[str], numbers: npt.NDArray[np.int32], shares: Floats
) -> tuple[dict[str, Floats], dict[str, str]]:
    """The layers of a coverage, `(h, w, 4)` each, and what the header says of them.

    Parameters
    ----------
    kind : str
        Such as `object`.
    names : sequence of str
        By number.
    numbers : Array
        `(h, w, ranks)`, −1 for none; an even number of ranks.
    shares : Array
        `(h, w, ranks)` of the pixel.
    """
    bits = np.array([id_of(name) for name in names] + [0], np.uint32)
    ids = bits[numbers].view(np.float32)  # −1 takes the last, which is 0: nothing
    pairs = np.stack([ids, shares], axis=3).reshape(*ids.shape[:2], -1)
    layer = f"{kind}_id"
    layers = {
        f"{layer}{number:02d}": np.ascontiguousarray(pairs[:, :, 4 * number : 4 * number + 4])
        for number in range(pairs.shape[2] // 4)
    }
    key = f"cryptomatte/{mmh3.hash(layer.encode(), 0, signed=False):08x}"[:19]
    manifest: Mapping[str, str] = {name: f"{id_of(name):08x}" for name in names}
    said = {
        "name": layer,
        "hash": "MurmurHash3_32",
        "conversion": "uint32_to_float32",
        "manifest": json.dumps(manifest),
    }
    return layers, {f"{key}/{what}": words for what, words in said.items()}
