"""Steps that the compiler does not find: several numbers at once, and parts of arrays at no cost.

For use in kernels. Unless told otherwise, arrays are float32, contiguous and of one dimension; places
in them are int64 and are not checked: what is read and written must lie inside.
"""

from collections.abc import Sequence
from typing import Any

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

# So many floats fill the registers that sums need while others are being added.
BLOCK = 64
# As many floats of RGB pixels as fill whole registers.
RGB_BLOCK = 48
_LANES = 16
_FUSED = ("contract",)


class Vectors:
    """Puts steps together, on vectors of floats, from the arguments of a call."""

    def __init__(self, context: Any, builder: Any, signature: Any, arguments: Any) -> None:
        self.builder = builder
        self._context, self._kinds, self.arguments = context, signature.args, arguments

    def array(self, number: int) -> Any:
        """The array that is argument ``number``, as the compiler keeps it."""
        kind = cgutils.create_struct_proxy(self._kinds[number])
        return kind(self._context, self.builder, self.arguments[number])

    def place(self, number: int, at: Any, lanes: int) -> Any:
        """The address of so many floats, of an array from ``at`` on."""
        floats = ir.VectorType(ir.FloatType(), lanes).as_pointer()
        return self.builder.bitcast(self.builder.gep(self.array(number).data, [at]), floats)

    def load(self, number: int, at: Any, lanes: int) -> Any:
        """So many floats of an array from ``at`` on."""
        return self.builder.load(self.place(number, at, lanes), align=4)

    def store(self, value: Any, number: int, at: Any) -> None:
        """A vector into an array from ``at`` on."""
        self.builder.store(value, self.place(number, at, value.type.count), align=4)

    def after(self, at: Any, steps: int) -> Any:
        """A place so many floats further on."""
        return self.builder.add(at, ir.Constant(at.type, steps))

    def picked(self, one: Any, lanes: Sequence[int], other: Any = None) -> Any:
        """The lanes of ``one``, and further on those of ``other``, in a new order."""
        other = ir.Constant(one.type, ir.Undefined) if other is None else other
        mask = ir.Constant(ir.VectorType(ir.IntType(32), len(lanes)), list(lanes))
        return self.builder.shuffle_vector(one, other, mask)

    def spread(self, scalar: Any, lanes: int) -> Any:
        """A vector of the one value."""
        empty = ir.Constant(ir.VectorType(ir.FloatType(), lanes), ir.Undefined)
        first = ir.Constant(ir.IntType(32), 0)
        return self.picked(self.builder.insert_element(empty, scalar, first), [0] * lanes)

    def sum_of(self, total: Any, one: Any, other: Any) -> Any:
        """``total`` + ``one`` · ``other``; without ``total``, the product."""
        product = self.builder.fmul(one, other, flags=_FUSED)
        return product if total is None else self.builder.fadd(total, product, flags=_FUSED)

    def weighed(self, total: Any, one: Any, weight: Any) -> Any:
        """``total`` + ``one`` · the scalar ``weight``."""
        return self.sum_of(total, one, self.spread(weight, one.type.count))

    def nothing(self) -> Any:
        """What a call without a result returns."""
        return self._context.get_dummy_value()


@intrinsic
def uncounted(_context: Any, array: Any) -> Any:
    """The same array (of any kind), without counting who uses it and its parts.

    Only for what a kernel was given, and its caller holds meanwhile. Rows and other parts are made
    for nothing then; counted, which is done atomically, each takes as long as a hundred floats.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        given = Vectors(context, builder, signature, arguments).array(0)
        given.meminfo = cgutils.get_null_value(given.meminfo.type)
        given.parent = cgutils.get_null_value(given.parent.type)
        return given._getvalue()

    return array(array), codegen


@intrinsic
def prefetch(_context: Any, floats: Any, at: Any) -> Any:
    """Have the memory around ``floats[at]`` read ahead of its use.

    Processors foresee even steps through memory; slanted ways through a picture they do not.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        vectors = Vectors(context, builder, signature, arguments)
        byte, number = ir.IntType(8).as_pointer(), ir.IntType(32)
        kind = ir.FunctionType(ir.VoidType(), [byte, number, number, number])
        called = cgutils.get_or_insert_function(builder.module, kind, "llvm.prefetch.p0i8")
        for_reading, kept_close, data = (ir.Constant(number, each) for each in (0, 3, 1))
        place = builder.bitcast(vectors.place(0, arguments[1], 1), byte)
        builder.call(called, [place, for_reading, kept_close, data])
        return vectors.nothing()

    return types.void(floats, types.int64), codegen


@intrinsic
def move_four(_context: Any, source: Any, i: Any, target: Any, j: Any) -> Any:
    """Four floats from ``source[i]`` on to ``target[j]`` on.

    A pixel is moved at one go where the next one is moved after it.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        vectors = Vectors(context, builder, signature, arguments)
        vectors.store(vectors.load(0, arguments[1], 4), 2, arguments[3])
        return vectors.nothing()

    return types.void(source, types.int64, target, types.int64), codegen


@intrinsic
def weigh_four(
    _context: Any, source: Any, i: Any, one: Any, other: Any, target: Any, j: Any
) -> Any:
    """``one`` · the pixel of three at ``source[i]`` + ``other`` · the next one, to ``target[j]`` on.

    As with ``move_four``, one float past each pixel is read and written.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        vectors = Vectors(context, builder, signature, arguments)
        _, i, one, other, _, j = arguments
        first = vectors.weighed(None, vectors.load(0, i, 4), one)
        vectors.store(vectors.weighed(first, vectors.load(0, vectors.after(i, 3), 4), other), 4, j)
        return vectors.nothing()

    number, share = types.int64, types.float32
    return types.void(source, number, share, share, target, number), codegen


@intrinsic
def weigh_pairs(
    _context: Any,
    source: Any,
    i: Any,
    before: Any,
    after: Any,
    weights: Any,
    target: Any,
    j: Any,
) -> Any:
    """A block of sums of ``source`` about ``i``, weighted alike on both sides, to ``target[j]`` on.

    ``weights[0]`` · what lies at ``i``, and for each further k ``weights[k]`` · (what lies
    ``before[k]`` + what lies ``after[k]`` from there), both int64. The sums stay in registers.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        vectors = Vectors(context, builder, signature, arguments)
        i, j = arguments[1], arguments[6]

        def member(number: int, k: Any) -> Any:
            return builder.load(builder.gep(vectors.array(number).data, [k]))

        middle = vectors.weighed(None, vectors.load(0, i, BLOCK), member(4, ir.Constant(i.type, 0)))
        total = cgutils.alloca_once_value(builder, middle)
        count = cgutils.unpack_tuple(builder, vectors.array(4).shape, 1)[0]
        with cgutils.for_range(builder, count, start=ir.Constant(count.type, 1)) as loop:
            k = loop.index
            one, other = (
                vectors.load(0, builder.add(i, member(side, k)), BLOCK) for side in (2, 3)
            )
            pair = builder.fadd(one, other, _FUSED)
            builder.store(vectors.weighed(builder.load(total), pair, member(4, k)), total)
        vectors.store(builder.load(total), 5, j)
        return vectors.nothing()

    number = types.int64
    return types.void(source, number, before, after, weights, target, number), codegen


@intrinsic
def merge_rgb(
    _context: Any,
    red: Any,
    of_red: Any,
    green: Any,
    blue: Any,
    of_blue: Any,
    target: Any,
    at: Any,
) -> Any:
    """A block of pixels, each channel from an array of its own, to ``target[at]`` on.

    Of ``red`` and ``blue`` four neighbouring pixels are weighted, the first of them at ``at``; the
    weights are tuples of float32.
    """

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        vectors = Vectors(context, builder, signature, arguments)

        def weighed(number: int, at: Any) -> Any:
            total = None
            for k in range(4):
                weight = builder.extract_value(arguments[number + 1], k)
                shown = vectors.load(number, vectors.after(at, 3 * k), _LANES)
                total = vectors.weighed(total, shown, weight)
            return total

        def of_channel(channel: int, step: int) -> Any:
            lanes = [int((step + n) % 3 == channel) for n in range(_LANES)]
            return ir.Constant(ir.VectorType(ir.IntType(1), _LANES), lanes)

        for step in range(0, RGB_BLOCK, _LANES):
            at = vectors.after(arguments[-1], step)
            shown = vectors.load(2, at, _LANES)
            shown = builder.select(of_channel(0, step), weighed(0, at), shown)
            vectors.store(builder.select(of_channel(2, step), weighed(3, at), shown), 5, at)
        return vectors.nothing()

    return types.void(red, of_red, green, blue, of_blue, target, types.int64), codegen
