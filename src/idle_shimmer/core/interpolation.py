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

from collections.abc import Callable
from typing import Any

import numpy as np
from llvmlite import ir
from numba import types
from numba.extending import intrinsic

from idle_shimmer.core.kernel import inlined
from idle_shimmer.core.vectors import Vectors

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


class _Interpolation(Vectors):
    """What the interpolations are made of; the first argument is the picture."""

    def between(self, one: Any, other: Any, share: Any) -> Any:
        """From ``one`` towards ``other`` by the scalar ``share``."""
        return self.weighed(one, self.builder.fsub(other, one), share)

    def cubic_weights(self, fraction: Any) -> Any:
        """The four weights as one vector."""
        f, four = self.spread(fraction, 4), ir.VectorType(ir.FloatType(), 4)
        weights = ir.Constant(four, list(_CUBIC[0]))
        for power in _CUBIC[1:]:
            weights = self.sum_of(ir.Constant(four, list(power)), weights, f)
        return weights

    def cubic(self, base: Any, row: Any, fx: Any, *down: Any) -> Any:
        """Red, green and blue in the first three of four lanes, the rows weighted as told."""
        across = self.cubic_weights(fx)
        # The twelve floats of a row of taps, as eight and four.
        eight = four = None
        for i in range(4):
            begin = self.builder.add(base, self.builder.mul(row, ir.Constant(row.type, i)))
            eight = self.weighed(eight, self.load(0, begin, 8), down[i])
            four = self.weighed(four, self.load(0, self.after(begin, 8), 4), down[i])
        eight = self.sum_of(None, eight, self.picked(across, [0, 0, 0, 1, 1, 1, 2, 2]))
        four = self.sum_of(None, four, self.picked(across, [2, 3, 3, 3]))
        long_four = self.picked(four, [0, 1, 2, 3, 3, 3, 3, 3])
        pixels = (
            self.picked(eight, [0, 1, 2, 2]),
            self.picked(eight, [3, 4, 5, 5]),
            self.picked(eight, [6, 7, 8, 8], long_four),
            self.picked(four, [1, 2, 3, 3]),
        )
        fadd = self.builder.fadd
        return fadd(fadd(pixels[0], pixels[1]), fadd(pixels[2], pixels[3]))

    def linear(self, base: Any, row: Any, fx: Any, fy: Any, weight: Any) -> Any:
        """Red, green and blue in the first three of four lanes, times ``weight``."""
        upper = self.load(0, base, 8)
        lower = self.load(0, self.builder.add(base, row), 8)
        mixed = self.between(upper, lower, fy)
        one, other = self.picked(mixed, [0, 1, 2, 2]), self.picked(mixed, [3, 4, 5, 5])
        return self.weighed(None, self.between(one, other, fx), weight)


_TAPS = (types.int64, types.int64)


@intrinsic
def _cubic_rgb(
    _context: Any, pixels: Any, base: Any, row: Any, fx: Any, a: Any, b: Any, c: Any, d: Any
) -> Any:
    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        total = _Interpolation(context, builder, signature, arguments).cubic(*arguments[1:])
        places = (ir.Constant(ir.IntType(32), c) for c in range(3))
        channels = [builder.extract_element(total, place) for place in places]
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
        vectors = _Interpolation(context, builder, signature, arguments)
        shown = interpolated(vectors, *arguments[1:-2])
        line, at = len(arguments) - 2, arguments[-1]
        vectors.store(builder.fadd(vectors.load(line, at, 4), shown), line, at)
        return vectors.nothing()

    def typed(pixels: Any, line: Any) -> Any:
        numbers = [types.float32] * fractions
        return types.void(pixels, *_TAPS, *numbers, line, types.int64), codegen

    return typed


_WITH_CUBIC, _WITH_LINEAR = _added(_Interpolation.cubic, 5), _added(_Interpolation.linear, 3)


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
