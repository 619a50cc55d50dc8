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


def _prefetch(typing: Any, address: Any) -> Any:
    """Prefetch memory that is read soon, without waiting for it.

    Parameters
    ----------
    typing : Any
        The compiler's.
    address : int
        In memory.
    """

    def code(target: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        byte, word = ir.IntType(8).as_pointer(), ir.IntType(32)
        kind = ir.FunctionType(ir.VoidType(), [byte, word, word, word])
        name = "llvm.prefetch"
        function = builder.module.globals.get(name) or ir.Function(builder.module, kind, name)
        read, keep, data = (ir.Constant(word, number) for number in (0, 3, 1))
        builder.call(function, [builder.inttoptr(arguments[0], byte), read, keep, data])
        return target.get_dummy_value()

    return types.void(types.int64), code


prefetch: Any = intrinsic(_prefetch)


def _poke(word: ir.Type, numba_type: Any) -> Any:
    """An intrinsic that writes a word to an address."""

    @intrinsic
    def poke(context: Any, address: Any, value: Any) -> Any:
        """Write a word to an address.

        Parameters
        ----------
        context : Any
            The compiler's.
        address : Any
            In memory.
        value : Any
            The word.
        """

        def code(target: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            builder.store(arguments[1], builder.inttoptr(arguments[0], word.as_pointer()))
            return target.get_dummy_value()

        return types.void(types.int64, numba_type), code

    return poke


put_float: Any = _poke(ir.FloatType(), types.float32)
put_word: Any = _poke(ir.IntType(32), types.int32)

QUERY, USER, FACE = 0, 8, 16
"""Bytes from the beginning of what the callback is given (RTCPointQueryFunctionArguments, Embree 4.4)."""

RADIUS = 16
"""Bytes from a query's beginning to its radius: x, y, z and time come before (RTCPointQuery)."""
