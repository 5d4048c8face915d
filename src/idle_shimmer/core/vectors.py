"""Steps that a processor does for several numbers at once, where the compiler does not find them.

For use in kernels. Arrays are float32, contiguous and of one dimension; places in them are int64 and
are not checked: what is read and written must lie inside.
"""

from typing import Any

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

# So many floats fill the registers that sums need while others are being added.
BLOCK = 64
_INT = ir.IntType(32)
_FUSED = ("contract",)


@intrinsic
def prefetch(_context: Any, floats: Any, at: Any) -> Any:  # noqa: ARG001  (read by its type)
    """Have the memory around ``floats[at]`` read ahead of its use.

    Processors foresee even steps through memory; slanted ways through a picture they do not.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        byte = ir.IntType(8).as_pointer()
        kind = ir.FunctionType(ir.VoidType(), [byte, _INT, _INT, _INT])
        place = builder.bitcast(_several(context, builder, signature, arguments, 0, 1, 1), byte)
        for_reading, kept_close, data = (ir.Constant(_INT, each) for each in (0, 3, 1))
        called = cgutils.get_or_insert_function(builder.module, kind, "llvm.prefetch.p0i8")
        builder.call(called, [place, for_reading, kept_close, data])
        return context.get_dummy_value()

    return types.void(floats, types.int64), codegen


@intrinsic
def move_four(_context: Any, source: Any, i: Any, target: Any, j: Any) -> Any:  # noqa: ARG001
    """Four floats from ``source[i]`` on to ``target[j]`` on.

    A pixel is moved at one go where the next one is moved after it.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        here = _several(context, builder, signature, arguments, 0, 1, 4)
        there = _several(context, builder, signature, arguments, 2, 3, 4)
        builder.store(builder.load(here, align=4), there, align=4)
        return context.get_dummy_value()

    return types.void(source, types.int64, target, types.int64), codegen


@intrinsic
def weigh_four(
    _context: Any,
    source: Any,
    i: Any,  # noqa: ARG001
    one: Any,  # noqa: ARG001
    other: Any,  # noqa: ARG001
    target: Any,
    j: Any,  # noqa: ARG001
) -> Any:
    """``one`` · the pixel of three at ``source[i]`` + ``other`` · the next one, to ``target[j]`` on.

    As with ``move_four``, one float past each pixel is read and written.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        here = _several(context, builder, signature, arguments, 0, 1, 4)
        next_one = cgutils.pointer_add(builder, here, 3 * 4, here.type)
        total = builder.fadd(
            builder.fmul(builder.load(here, align=4), _spread(builder, arguments[2], 4), _FUSED),
            builder.fmul(
                builder.load(next_one, align=4), _spread(builder, arguments[3], 4), _FUSED
            ),
            flags=_FUSED,
        )
        builder.store(total, _several(context, builder, signature, arguments, 4, 5, 4), align=4)
        return context.get_dummy_value()

    number, share = types.int64, types.float32
    return types.void(source, number, share, share, target, number), codegen


@intrinsic
def weigh_pairs(
    _context: Any,
    source: Any,
    i: Any,  # noqa: ARG001
    before: Any,
    after: Any,
    weights: Any,
    target: Any,
    j: Any,  # noqa: ARG001
) -> Any:
    """A block of sums of ``source`` about ``i``, weighted alike on both sides, to ``target[j]`` on.

    ``weights[0]`` · what lies at ``i``, and for each further k ``weights[k]`` · (what lies
    ``before[k]`` + what lies ``after[k]`` from there), both int64. The sums stay in registers.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        def member(array: int, k: Any) -> Any:
            kind, value = signature.args[array], arguments[array]
            data = cgutils.create_struct_proxy(kind)(context, builder, value).data
            return builder.load(builder.gep(data, [k]))

        def block(step: Any) -> Any:
            place = [*arguments[:1], builder.add(arguments[1], step)]
            at = _several(context, builder, signature, place, 0, 1, BLOCK)
            return builder.load(at, align=4)

        zero = ir.Constant(arguments[1].type, 0)
        taps = cgutils.create_struct_proxy(signature.args[4])(context, builder, arguments[4])
        count = cgutils.unpack_tuple(builder, taps.shape, 1)[0]
        middle = _spread(builder, member(4, zero), BLOCK)
        total = cgutils.alloca_once_value(builder, builder.fmul(block(zero), middle, _FUSED))
        with cgutils.for_range(builder, count, start=ir.Constant(count.type, 1)) as loop:
            k = loop.index
            pair = builder.fadd(block(member(2, k)), block(member(3, k)), _FUSED)
            part = builder.fmul(pair, _spread(builder, member(4, k), BLOCK), _FUSED)
            builder.store(builder.fadd(builder.load(total), part, _FUSED), total)
        there = _several(context, builder, signature, arguments, 5, 6, BLOCK)
        builder.store(builder.load(total), there, align=4)
        return context.get_dummy_value()

    number = types.int64
    return types.void(source, number, before, after, weights, target, number), codegen


def _several(
    context: Any, builder: Any, signature: Any, arguments: Any, array: int, place: int, count: int
) -> Any:
    """The address of ``count`` floats, from the arguments that are an array and a place in it."""
    kind, value = signature.args[array], arguments[array]
    data = cgutils.create_struct_proxy(kind)(context, builder, value).data
    floats = ir.VectorType(ir.FloatType(), count).as_pointer()
    return builder.bitcast(builder.gep(data, [arguments[place]]), floats)


def _spread(builder: Any, value: Any, count: int) -> Any:
    """``value`` in every place of a vector."""
    empty = ir.Constant(ir.VectorType(value.type, count), ir.Undefined)
    first = builder.insert_element(empty, value, ir.Constant(_INT, 0))
    everywhere = ir.Constant(ir.VectorType(_INT, count), [0] * count)
    return builder.shuffle_vector(first, empty, everywhere)
