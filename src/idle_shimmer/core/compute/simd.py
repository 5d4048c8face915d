"""Vector steps that the compiler does not find by itself.

For use in kernels. Arrays are float32, contiguous and of one dimension; indices into them are int64
and not checked: what is read and written must lie inside. In the checked mode (``jit.CHECKED``)
every access is tested, and one outside raises IndexError.

Each step has a plain form in Numba that does the same, which is used where it is switched off.
"""

from collections.abc import Sequence
from typing import Any

from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

from idle_shimmer.core.compute.jit import CHECKED, kernel
from idle_shimmer.core.compute.special_paths import is_on

# So many floats fill the registers that sums need while others are being added.
BLOCK = 64
# As many floats of RGB pixels as fill whole registers.
RGB_BLOCK = 48
_LANES = 16
_FUSED = ("contract",)


class Vectors:
    """Builds vector instructions from the arguments of a call."""

    def __init__(self, context: Any, builder: Any, signature: Any, arguments: Any) -> None:
        self.builder = builder
        self._context, self._types, self.arguments = context, signature.args, arguments

    def array(self, number: int) -> Any:
        """Return argument ``number``, an array, in the compiler's representation."""
        proxy = cgutils.create_struct_proxy(self._types[number])
        return proxy(self._context, self.builder, self.arguments[number])

    def pointer(self, number: int, index: Any, lanes: int) -> Any:
        """Return the address of ``lanes`` floats of an array, from ``index`` on."""
        if CHECKED:
            self.check(number, index)
            self.check(number, self.after(index, lanes - 1))
        floats = ir.VectorType(ir.FloatType(), lanes).as_pointer()
        return self.builder.bitcast(self.builder.gep(self.array(number).data, [index]), floats)

    def check(self, number: int, index: Any) -> None:
        """Raise IndexError where ``index`` lies outside an array."""
        size = cgutils.unpack_tuple(self.builder, self.array(number).shape, 1)[0]
        # Compared without sign, a negative index is a very large one.
        outside = self.builder.icmp_unsigned(">=", index, size)
        with self.builder.if_then(outside, likely=False):
            message = ("index outside an array in a vector step",)
            self._context.call_conv.return_user_exc(self.builder, IndexError, message)

    def load(self, number: int, index: Any, lanes: int) -> Any:
        """Return ``lanes`` floats of an array, from ``index`` on."""
        return self.builder.load(self.pointer(number, index, lanes), align=4)

    def fetch(self, number: int, index: Any) -> None:
        """Ask for a float of an array to be fetched from memory: an index outside does nothing."""
        byte, number_type = ir.IntType(8).as_pointer(), ir.IntType(32)
        address = self.builder.bitcast(self.builder.gep(self.array(number).data, [index]), byte)
        kind = ir.FunctionType(ir.VoidType(), [byte, number_type, number_type, number_type])
        step = cgutils.get_or_insert_function(self.builder.module, kind, "llvm.prefetch.p0i8")
        # To read, to every level of the cache, data.
        self.builder.call(step, [address, *(ir.Constant(number_type, each) for each in (0, 3, 1))])

    def store(self, value: Any, number: int, index: Any) -> None:
        """Write a vector to an array, from ``index`` on."""
        self.builder.store(value, self.pointer(number, index, value.type.count), align=4)

    def after(self, index: Any, steps: int) -> Any:
        """Return the index ``steps`` floats further on."""
        return self.builder.add(index, ir.Constant(index.type, steps))

    def shuffle(self, one: Any, lanes: Sequence[int], other: Any = None) -> Any:
        """Return lanes of ``one``, and beyond those of ``other``, in a new order."""
        other = ir.Constant(one.type, ir.Undefined) if other is None else other
        mask = ir.Constant(ir.VectorType(ir.IntType(32), len(lanes)), list(lanes))
        return self.builder.shuffle_vector(one, other, mask)

    def broadcast(self, scalar: Any, lanes: int) -> Any:
        """Return a vector whose lanes all hold ``scalar``."""
        empty = ir.Constant(ir.VectorType(ir.FloatType(), lanes), ir.Undefined)
        first = ir.Constant(ir.IntType(32), 0)
        return self.shuffle(self.builder.insert_element(empty, scalar, first), [0] * lanes)

    def add_product(self, total: Any, one: Any, other: Any) -> Any:
        """Return ``total`` + ``one`` · ``other``; without ``total``, the product."""
        product = self.builder.fmul(one, other, flags=_FUSED)
        return product if total is None else self.builder.fadd(total, product, flags=_FUSED)

    def multiply_add(self, total: Any, one: Any, weight: Any) -> Any:
        """Return ``total`` + ``one`` · the scalar ``weight``."""
        return self.add_product(total, one, self.broadcast(weight, one.type.count))

    def nothing(self) -> Any:
        """Return what a call without a result returns."""
        return self._context.get_dummy_value()


@intrinsic
def _mix_pixels(
    _context: Any, source: Any, i: Any, one: Any, other: Any, target: Any, j: Any
) -> Any:
    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        vectors = Vectors(context, builder, signature, arguments)
        _, i, one, other, _, j = arguments
        first = vectors.multiply_add(None, vectors.load(0, i, 4), one)
        second = vectors.load(0, vectors.after(i, 3), 4)
        vectors.store(vectors.multiply_add(first, second, other), 4, j)
        return vectors.nothing()

    number, share = types.int64, types.float32
    return types.void(source, number, share, share, target, number), codegen


@kernel
def _mix_pixels_plain(source: Any, i: Any, one: Any, other: Any, target: Any, j: Any) -> None:
    for k in range(4):
        target[j + k] = one * source[i + k] + other * source[i + 3 + k]


# Writes ``one`` · the pixel of three at ``source[i]`` + ``other`` · the next one to ``target[j]`` on.
# One float past each pixel is read and written.
mix_pixels = _mix_pixels if is_on("mix_pixels") else _mix_pixels_plain


@intrinsic
def _sum_taps(_context: Any, source: Any, i: Any, taps: Any, target: Any, j: Any) -> Any:
    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        tuple_of_arrays = signature.args[2]
        parts = cgutils.unpack_tuple(builder, arguments[2], 3)
        flat = signature.replace(
            args=(signature.args[0], signature.args[3], *tuple_of_arrays.types)
        )
        vectors = Vectors(context, builder, flat, (arguments[0], arguments[3], *parts))
        i, j = arguments[1], arguments[4]
        source, target, before, after, weights = range(5)

        def member(number: int, k: Any) -> Any:
            if CHECKED:
                vectors.check(number, k)
            return builder.load(builder.gep(vectors.array(number).data, [k]))

        first = member(weights, ir.Constant(i.type, 0))
        middle = vectors.multiply_add(None, vectors.load(source, i, BLOCK), first)
        total = cgutils.alloca_once_value(builder, middle)
        count = cgutils.unpack_tuple(builder, vectors.array(weights).shape, 1)[0]
        with cgutils.for_range(builder, count, start=ir.Constant(count.type, 1)) as loop:
            k = loop.index
            one, other = (
                vectors.load(source, builder.add(i, member(side, k)), BLOCK)
                for side in (before, after)
            )
            pair = builder.fadd(one, other, _FUSED)
            weighted = vectors.multiply_add(builder.load(total), pair, member(weights, k))
            builder.store(weighted, total)
        vectors.store(builder.load(total), target, j)
        return vectors.nothing()

    return types.void(source, types.int64, taps, target, types.int64), codegen


@kernel
def _sum_taps_plain(source: Any, i: Any, taps: Any, target: Any, j: Any) -> None:
    before, after, weights = taps
    for n in range(BLOCK):
        target[j + n] = weights[0] * source[i + n]
    for k in range(1, weights.shape[0]):
        weight, one, other = weights[k], i + before[k], i + after[k]
        for n in range(BLOCK):
            target[j + n] += weight * (source[one + n] + source[other + n])


# Writes a block of sums of ``source`` about ``i``, weighted alike on both sides, to ``target[j]`` on.
# ``taps`` are (before, after, weights): ``weights[0]`` times what lies at ``i``, and for each further
# k ``weights[k]`` times (what lies ``before[k]`` + what lies ``after[k]`` from there), offsets int64.
# The sums stay in registers.
sum_taps = _sum_taps if is_on("sum_taps") else _sum_taps_plain


@intrinsic
def _merge_channels(_context: Any, channels: Any, weights: Any, target: Any, at: Any) -> Any:
    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        parts = cgutils.unpack_tuple(builder, arguments[0], 3)
        flat = signature.replace(args=(*signature.args[0].types, signature.args[2]))
        vectors = Vectors(context, builder, flat, (*parts, arguments[2]))
        red, green, blue, target = range(4)
        of_red, of_blue = cgutils.unpack_tuple(builder, arguments[1], 2)

        def weighted(number: int, weights: Any, at: Any) -> Any:
            total = None
            for k in range(4):
                shown = vectors.load(number, vectors.after(at, 3 * k), _LANES)
                total = vectors.multiply_add(total, shown, builder.extract_value(weights, k))
            return total

        def lanes_of(channel: int, step: int) -> Any:
            lanes = [int((step + n) % 3 == channel) for n in range(_LANES)]
            return ir.Constant(ir.VectorType(ir.IntType(1), _LANES), lanes)

        for step in range(0, RGB_BLOCK, _LANES):
            at = vectors.after(arguments[3], step)
            shown = vectors.load(green, at, _LANES)
            shown = builder.select(lanes_of(0, step), weighted(red, of_red, at), shown)
            shown = builder.select(lanes_of(2, step), weighted(blue, of_blue, at), shown)
            vectors.store(shown, target, at)
        return vectors.nothing()

    return types.void(channels, weights, target, types.int64), codegen


@kernel
def _merge_channels_plain(channels: Any, weights: Any, target: Any, at: Any) -> None:
    red, green, blue = channels
    of_red, of_blue = weights
    for n in range(at, at + RGB_BLOCK, 3):
        shown = of_red[0] * red[n] + of_red[1] * red[n + 3]
        target[n] = shown + of_red[2] * red[n + 6] + of_red[3] * red[n + 9]
        target[n + 1] = green[n + 1]
        shown = of_blue[0] * blue[n + 2] + of_blue[1] * blue[n + 5]
        target[n + 2] = shown + of_blue[2] * blue[n + 8] + of_blue[3] * blue[n + 11]


# Writes a block of pixels, each channel from an array of its own, to ``target[at]`` on. ``channels``
# are (red, green, blue); of red and blue four neighbouring pixels are weighted, the first of them at
# ``at``, by ``weights``, two tuples of four float32.
merge_channels = _merge_channels if is_on("merge_channels") else _merge_channels_plain
