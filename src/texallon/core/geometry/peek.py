"""Reading and writing memory by address, for what the ray library hands to compiled callbacks."""

from typing import Any

from llvmlite import ir
from numba import types
from numba.extending import intrinsic


def _peek(word: ir.Type, numba_type: Any) -> Any:
    """An intrinsic that reads a word from an address."""

    @intrinsic
    def peek(context: Any, address: Any) -> Any:
        """The word at an address.

        Parameters
        ----------
        context : Any
            The compiler's.
        address : Any
            In memory.
        """

        def code(target: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            return builder.load(builder.inttoptr(arguments[0], word.as_pointer()))

        return numba_type(types.int64), code

    return peek


float_at: Any = _peek(ir.FloatType(), types.float32)
word_at: Any = _peek(ir.IntType(32), types.uint32)
half_word_at: Any = _peek(ir.IntType(16), types.uint16)
address_at: Any = _peek(ir.IntType(64), types.int64)


@intrinsic
def _put_float(context: Any, address: Any, value: Any) -> Any:
    """Write a word to an address.

    Parameters
    ----------
    context : Any
        The compiler's.
    address : Any
        In memory.
    value : Any
        Single precision.
    """

    def code(target: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        builder.store(arguments[1], builder.inttoptr(arguments[0], ir.FloatType().as_pointer()))
        return target.get_dummy_value()

    return types.void(types.int64, types.float32), code


put_float: Any = _put_float  # without its context, as kernels call it


@intrinsic
def _put_word(context: Any, address: Any, value: Any) -> Any:
    """Write a whole number of 32 bits to an address.

    Parameters
    ----------
    context : Any
        The compiler's.
    address : Any
        In memory.
    value : Any
        32 bits.
    """

    def code(target: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        builder.store(arguments[1], builder.inttoptr(arguments[0], ir.IntType(32).as_pointer()))
        return target.get_dummy_value()

    return types.void(types.int64, types.int32), code


put_word: Any = _put_word  # likewise

QUERY, USER, FACE = 0, 8, 16
"""Bytes from the beginning of what the callback is given (RTCPointQueryFunctionArguments, Embree 4.4)."""

RADIUS = 16
"""Bytes from a query's beginning to its radius: x, y, z and time come before (RTCPointQuery)."""
