"""Interpolation between pixels: Catmull-Rom's cubic, and linear where many samples are averaged.

Source of the cubic: Keys 1981, "Cubic convolution interpolation", a = -1/2.

``cubic_rgb``, ``add_cubic`` and ``add_linear`` are put together from vectors by hand, as the
compiler does not find these: the taps of a row are one run of floats, so the rows are summed whole,
and only their sum is taken apart into pixels. They are called in kernels, with

- ``pixels``, a contiguous float32 array of RGB pixels, and ``row``, its floats per row (int64);
- ``base`` (int64), the first float of the first tap, of 4 by 4 (cubic) or 2 by 2 (linear);
- ``fx`` and ``fy`` (float32, 0…1), where the point lies between the middle taps. ``add_cubic`` has
  the weights of the four rows instead of ``fy``, as many are worked out quicker at one go.

``cubic_rgb`` returns red, green and blue. The two others add them, times the weights or ``weight``
(float32), to the first three of the four floats at ``at`` (int64) of ``line``; the fourth has no
meaning.
``add_linear`` reads two floats beyond each row of taps: they must still belong to ``pixels``.
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

from idle_shimmer.core.kernel import inlined

# For each power of the fraction, highest first, the factors of the four neighbours.
_CUBIC = (
    (-0.5, 1.5, -1.5, 0.5),
    (1.0, -2.5, 2.0, -0.5),
    (-0.5, 0.0, 0.5, 0.0),
    (0.0, 1.0, 0.0, 0.0),
)
_HALF, _ONE, _THREE_HALVES = np.float32(0.5), np.float32(1), np.float32(1.5)
_TWO, _FIVE_HALVES = np.float32(2), np.float32(2.5)


@inlined
def cubic_weights(f: Any) -> tuple[Any, Any, Any, Any]:
    """The float32 weights of the four neighbours at fraction ``f`` (float32, 0…1)."""
    return (
        ((-_HALF * f + _ONE) * f - _HALF) * f,
        (_THREE_HALVES * f - _FIVE_HALVES) * f * f + _ONE,
        ((-_THREE_HALVES * f + _TWO) * f + _HALF) * f,
        (_HALF * f - _HALF) * f * f,
    )


def _vector(lanes: int) -> Any:
    return ir.VectorType(ir.FloatType(), lanes)


def _int(value: int) -> Any:
    return ir.Constant(ir.IntType(32), value)


def _long(value: int) -> Any:
    return ir.Constant(ir.IntType(64), value)


class _Builder:
    """The few vector instructions that the interpolations are made of."""

    def __init__(self, builder: Any) -> None:
        self._builder = builder

    def place(self, floats: Any, index: Any, lanes: int) -> Any:
        """The address of so many floats."""
        at = self._builder.gep(floats, [index])
        return self._builder.bitcast(at, _vector(lanes).as_pointer())

    def load(self, floats: Any, index: Any, lanes: int) -> Any:
        return self._builder.load(self.place(floats, index, lanes), align=4)

    def picked(self, one: Any, lanes: Sequence[int], other: Any = None) -> Any:
        """The lanes of ``one``, and further on those of ``other``, in a new order."""
        other = ir.Constant(one.type, ir.Undefined) if other is None else other
        mask = ir.Constant(ir.VectorType(ir.IntType(32), len(lanes)), list(lanes))
        return self._builder.shuffle_vector(one, other, mask)

    def spread(self, scalar: Any, lanes: int) -> Any:
        """A vector of the one value."""
        empty = ir.Constant(_vector(lanes), ir.Undefined)
        return self.picked(self._builder.insert_element(empty, scalar, _int(0)), [0] * lanes)

    def sum_of(self, total: Any, one: Any, other: Any) -> Any:
        """``total`` + ``one`` · ``other``; without ``total``, the product."""
        product = self._builder.fmul(one, other, flags=["contract"])
        if total is None:
            return product
        return self._builder.fadd(total, product, flags=["contract"])

    def between(self, one: Any, other: Any, share: Any) -> Any:
        """From ``one`` towards ``other`` by the scalar ``share``."""
        way = self._builder.fsub(other, one)
        return self.sum_of(one, way, self.spread(share, one.type.count))

    def cubic_weights(self, fraction: Any) -> Any:
        """The four weights as one vector."""
        f = self.spread(fraction, 4)
        weights = ir.Constant(_vector(4), list(_CUBIC[0]))
        for power in _CUBIC[1:]:
            weights = self.sum_of(ir.Constant(_vector(4), list(power)), weights, f)
        return weights

    def cubic(self, floats: Any, base: Any, row: Any, fx: Any, *down: Any) -> Any:
        """Red, green and blue in the first three of four lanes, the rows weighted as told."""
        add, mul = self._builder.add, self._builder.mul
        across = self.cubic_weights(fx)
        # The twelve floats of a row of taps, as eight and four.
        eight = four = None
        for i in range(4):
            begin = add(base, mul(row, _long(i)))
            eight = self.sum_of(eight, self.load(floats, begin, 8), self.spread(down[i], 8))
            rest = self.load(floats, add(begin, _long(8)), 4)
            four = self.sum_of(four, rest, self.spread(down[i], 4))
        eight = self.sum_of(None, eight, self.picked(across, [0, 0, 0, 1, 1, 1, 2, 2]))
        four = self.sum_of(None, four, self.picked(across, [2, 3, 3, 3]))
        long_four = self.picked(four, [0, 1, 2, 3, 3, 3, 3, 3])
        pixels = (
            self.picked(eight, [0, 1, 2, 2]),
            self.picked(eight, [3, 4, 5, 5]),
            self.picked(eight, [6, 7, 8, 8], long_four),
            self.picked(four, [1, 2, 3, 3]),
        )
        fadd = self._builder.fadd
        return fadd(fadd(pixels[0], pixels[1]), fadd(pixels[2], pixels[3]))

    def linear(self, floats: Any, base: Any, row: Any, fx: Any, fy: Any, weight: Any) -> Any:
        """Red, green and blue in the first three of four lanes, times ``weight``."""
        upper = self.load(floats, base, 8)
        lower = self.load(floats, self._builder.add(base, row), 8)
        mixed = self.between(upper, lower, fy)
        one, other = self.picked(mixed, [0, 1, 2, 2]), self.picked(mixed, [3, 4, 5, 5])
        return self.sum_of(None, self.between(one, other, fx), self.spread(weight, 4))


def _floats(context: Any, builder: Any, kind: Any, array: Any) -> Any:
    return cgutils.create_struct_proxy(kind)(context, builder, array).data


_TAPS = (types.int64, types.int64)


@intrinsic
def _cubic_rgb(
    _context: Any, pixels: Any, base: Any, row: Any, fx: Any, a: Any, b: Any, c: Any, d: Any
) -> Any:
    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        floats = _floats(context, builder, signature.args[0], arguments[0])
        total = _Builder(builder).cubic(floats, *arguments[1:])
        channels = [builder.extract_element(total, _int(c)) for c in range(3)]
        return context.make_tuple(builder, signature.return_type, channels)

    return types.UniTuple(types.float32, 3)(pixels, *_TAPS, *[types.float32] * 5), codegen


@inlined
def cubic_rgb(pixels: Any, base: Any, row: Any, fx: Any, fy: Any) -> Any:
    """See the head of this module."""
    a, b, c, d = cubic_weights(fy)
    return _cubic_rgb(pixels, base, row, fx, a, b, c, d)


def _added(interpolated: Callable[..., Any], fractions: int) -> Any:
    """The code that adds what is ``interpolated`` from so many floats, and its signature."""

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        vectors = _Builder(builder)
        floats = _floats(context, builder, signature.args[0], arguments[0])
        shown = interpolated(vectors, floats, *arguments[1:-2])
        sums = _floats(context, builder, signature.args[-2], arguments[-2])
        place = vectors.place(sums, arguments[-1], 4)
        builder.store(builder.fadd(builder.load(place, align=4), shown), place, align=4)
        return context.get_dummy_value()

    def typed(pixels: Any, line: Any) -> Any:
        numbers = [types.float32] * fractions
        return types.void(pixels, *_TAPS, *numbers, line, types.int64), codegen

    return typed


_WITH_CUBIC, _WITH_LINEAR = _added(_Builder.cubic, 5), _added(_Builder.linear, 3)


@intrinsic
def add_cubic(
    _context: Any,
    pixels: Any,
    base: Any,
    row: Any,
    fx: Any,
    a: Any,
    b: Any,
    c: Any,
    d: Any,
    line: Any,
    at: Any,
) -> Any:
    """See the head of this module."""
    return _WITH_CUBIC(pixels, line)


@intrinsic
def add_linear(
    _context: Any,
    pixels: Any,
    base: Any,
    row: Any,
    fx: Any,
    fy: Any,
    weight: Any,
    line: Any,
    at: Any,
) -> Any:
    """See the head of this module."""
    return _WITH_LINEAR(pixels, line)
