"""Three values that lie beside each other at each corner of a brick's cell, between its eight corners, all three at once.

The compiler finds no vectors in loads by address, so they are written out here: half the time of one value after the other.
"""

from typing import Any

import numba
from llvmlite import ir
from numba.core import cgutils
from numba.extending import intrinsic

HALF_WORDS, NUMBERS = ir.VectorType(ir.IntType(16), 4), ir.VectorType(ir.FloatType(), 4)
"""Four are read, of which the last is not looked at: see `BrickField`."""

FUSED = ("contract", "reassoc", "nsz")
"""As in `core.kernel`."""


def _three_between(typing: Any, address: Any, one: Any, line: Any, layer: Any, x: Any, y: Any, z: Any) -> Any:
    """Three half words beside each other, each between the eight corners of a cell.

    Parameters
    ----------
    typing : Any
        The compiler's.
    address : int
        Of the first value at the first corner.
    one, line, layer : int
        Bytes to the next corner along x, y and z.
    x, y, z : float
        Where between the corners, 0…1.
    """

    def code(target: Any, builder: Any, signature: Any, given: Any) -> Any:
        start, one, line, layer = given[:4]
        x, y, z = (_everywhere(builder, share) for share in given[4:])

        def corner(*steps: Any) -> Any:
            at = start
            for step in steps:
                at = builder.add(at, step)
            words = builder.load(builder.inttoptr(at, HALF_WORDS.as_pointer()), align=2)
            return builder.uitofp(words, NUMBERS)

        def between(low: Any, high: Any, share: Any) -> Any:
            further = builder.fmul(builder.fsub(high, low, flags=FUSED), share, flags=FUSED)
            return builder.fadd(low, further, flags=FUSED)

        def along_x(*steps: Any) -> Any:
            return between(corner(*steps), corner(*steps, one), x)

        low = between(along_x(), along_x(line), y)
        high = between(along_x(layer), along_x(layer, line), y)
        found = between(low, high, z)
        return packed(builder, [builder.extract_element(found, _whole(k)) for k in range(3)])

    # Their members are unseen by the type checker.
    kinds: Any = numba.types
    packed: Any = cgutils.pack_array
    return kinds.UniTuple(kinds.float32, 3)(*[kinds.int64] * 4, *[kinds.float32] * 3), code


three_between: Any = intrinsic(_three_between)


def _whole(number: int) -> Any:
    return ir.Constant(ir.IntType(32), number)


def _everywhere(builder: Any, number: Any) -> Any:
    """A number in all four places."""
    made = ir.Constant(NUMBERS, ir.Undefined)
    for k in range(4):
        made = builder.insert_element(made, number, _whole(k))
    return made
