"""How hot loops are compiled: no interpreter lock, kept on disk, fused arithmetic allowed."""

from collections.abc import Callable
from typing import Any, TypeVar

import numba
from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

F = TypeVar("F", bound=Callable[..., Any])

# Contraction and reciprocals only: reassociation would let the same recipe differ by machine,
# and assuming finite numbers would turn a fault into a silent wrong picture.
_FASTMATH = {"contract"}


def kernel(function: F) -> F:
    """Compile a row-band kernel on its first call, and keep the result on disk."""
    compiled: F = numba.njit(nogil=True, cache=True, fastmath=_FASTMATH)(function)
    return compiled


def inlined(function: F) -> F:
    """Compile a helper into every kernel that calls it."""
    compiled: F = numba.njit(nogil=True, cache=True, fastmath=_FASTMATH, inline="always")(function)
    return compiled


@kernel
def copy(source: Any, target: Any) -> None:
    """``source`` (n) into ``target`` (n): an assignment of slices takes seven times as long."""
    for n in range(target.shape[0]):
        target[n] = source[n]


@intrinsic
def prefetch(_context: Any, floats: Any, at: Any) -> Any:  # noqa: ARG001  (read by its type)
    """In a kernel: have the memory around ``floats[at]`` (contiguous, int64) read ahead of its use.

    Processors foresee even steps through memory; slanted ways through a picture they do not.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        array = cgutils.create_struct_proxy(signature.args[0])(context, builder, arguments[0])
        byte, number = ir.IntType(8).as_pointer(), ir.IntType(32)
        kind = ir.FunctionType(ir.VoidType(), [byte, number, number, number])
        name = "llvm.prefetch.p0i8"
        place = builder.bitcast(builder.gep(array.data, [arguments[1]]), byte)
        for_reading, kept_close, data = (ir.Constant(number, each) for each in (0, 3, 1))
        called = cgutils.get_or_insert_function(builder.module, kind, name)
        builder.call(called, [place, for_reading, kept_close, data])
        return context.get_dummy_value()

    return types.void(floats, types.int64), codegen


@intrinsic
def move_four(_context: Any, source: Any, i: Any, target: Any, j: Any) -> Any:  # noqa: ARG001
    """In a kernel: four floats from ``source[i]`` on to ``target[j]`` on (contiguous; int64).

    A pixel is moved at one go where the next one is moved after it.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        four = ir.VectorType(ir.FloatType(), 4).as_pointer()
        places = [
            builder.bitcast(builder.gep(array.data, [arguments[k + 1]]), four)
            for k in (0, 2)
            for array in [
                cgutils.create_struct_proxy(signature.args[k])(context, builder, arguments[k])
            ]
        ]
        builder.store(builder.load(places[0], align=4), places[1], align=4)
        return context.get_dummy_value()

    return types.void(source, types.int64, target, types.int64), codegen
