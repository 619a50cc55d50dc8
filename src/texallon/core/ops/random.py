"""A random value per object, part or instance, so that no two look quite alike."""

from collections.abc import Mapping
from typing import ClassVar, Literal

import numpy as np

from texallon.core.kernel import Array, Int, kernel
from texallon.core.ops.lattice import mixed
from texallon.core.ops.op import Source, param
from texallon.core.ops.points import Points


class Random(Source):
    name: ClassVar[str] = "random"
    category: ClassVar[str] = "geometry"
    purpose: ClassVar[str] = (
        "The same random number (or colour) all over one object, part or instance; another on the next."
    )
    reference: ClassVar[str] = "hash of the name (MurmurHash3 finaliser), so that a value stays when others come and go"
    phrase: ClassVar[str] = "a random {fields} per {per}"

    per: Literal["object", "part", "instance"] = param("object", "What has a value of its own.")
    fields: Literal["number", "colour"] = param("number", "One value, or three as a colour.")
    seed: int = param(0, "Another seed, other values.", low=0, high=2**31 - 1)

    def required_data(self) -> frozenset[str]:
        return frozenset({f"{self.per}_id"})

    def result_width(self, incoming: int, inputs: Mapping[str, int]) -> int:
        return 3 if self.fields == "colour" else 1

    def _fill(self, points: Points, out: Array) -> None:
        for row in range(out.shape[0]):
            random_of(points.data[f"{self.per}_id"][0], np.uint32(self.seed), row, out[row])


@kernel
def random_of(number: Array, seed: Int, salt: Int, out: Array) -> None:
    """0…1 for each whole number.

    Parameters
    ----------
    number : Array
        `(n,)` whole numbers.
    seed : int
        Of the random numbers.
    salt : int
        Tells one source's random numbers from another's.
    out : Array
        `(width, n)`, filled.
    """
    start = mixed(np.uint32(seed + np.uint32(salt * 0x9E3779B9) + np.uint32(0x2545F491)))
    for i in range(out.shape[0]):
        own = mixed(np.uint32(np.uint32(np.int32(number[i])) ^ start))
        out[i] = np.float32(mixed(own) >> np.uint32(8)) * np.float32(2.0**-24)
