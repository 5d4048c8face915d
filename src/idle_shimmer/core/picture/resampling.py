"""Interpolation between pixels: the Catmull-Rom cubic.

Source: Keys 1981, "Cubic convolution interpolation", a = -1/2.

``cubic_rgb`` and ``add_cubic`` are called in kernels, with

- ``pixels``, a contiguous flat float32 array of RGB pixels, and ``row``, its floats per row (int64);
- ``base`` (int64), the first float of the first tap, of 4 by 4;
- ``fx`` (float32, 0…1), where the point lies between the middle taps horizontally, and ``fy``
  vertically; or ``down``, the float32 weights of the four rows of taps.

``cubic_rgb`` returns red, green and blue; ``cubic_line`` does so between four pixels of one line, from
float ``base`` on. ``add_cubic`` adds them to the first three of the four
floats at ``at`` (int64) of ``line``; the fourth has no meaning. ``put_cubic`` writes them to the first three,
and anything to the fourth.

``fetch_taps`` asks for the taps of a later point, so that they have arrived when it is interpolated.

The vector forms sum the taps of a row as one run of floats, and take only the sum of the rows apart
into pixels.
"""

from typing import Any

import numpy as np
from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

from idle_shimmer.core.compute.jit import inlined, kernel
from idle_shimmer.core.compute.simd import Vectors
from idle_shimmer.core.compute.special_paths import is_on

# For each power of the fraction, highest first, the factors of the four neighbours.
_CUBIC = (
    (-0.5, 1.5, -1.5, 0.5),
    (1.0, -2.5, 2.0, -0.5),
    (-0.5, 0.0, 0.5, 0.0),
    (0.0, 1.0, 0.0, 0.0),
)
_HALF, _ONE, _THREE_HALVES = np.float32(0.5), np.float32(1), np.float32(1.5)
_TWO, _FIVE_HALVES = np.float32(2), np.float32(2.5)
# The last of four neighbours begins so many floats after the first.
_LAST_TAP = 9
# For the taps of so many points later, memory has time enough.
POINTS_AHEAD = 16


@inlined
def cubic_weights(f: Any) -> tuple[Any, Any, Any, Any]:
    """Return the float32 weights of the four neighbours at fraction ``f`` (float32, 0…1)."""
    return (
        ((-_HALF * f + _ONE) * f - _HALF) * f,
        (_THREE_HALVES * f - _FIVE_HALVES) * f * f + _ONE,
        ((-_THREE_HALVES * f + _TWO) * f + _HALF) * f,
        (_HALF * f - _HALF) * f * f,
    )


class _Interpolation(Vectors):
    """Vector instructions of the interpolations; the first argument is the picture."""

    def cubic_weights(self, fraction: Any) -> Any:
        """Return the four weights as one vector."""
        f, four = self.broadcast(fraction, 4), ir.VectorType(ir.FloatType(), 4)
        weights = ir.Constant(four, list(_CUBIC[0]))
        for power in _CUBIC[1:]:
            weights = self.add_product(ir.Constant(four, list(power)), weights, f)
        return weights

    def cubic(self, base: Any, row: Any, fx: Any, down: Any) -> Any:
        """Return red, green and blue in the first three of four lanes."""
        across = self.cubic_weights(fx)
        # The twelve floats of a row of taps, as eight and four.
        eight = four = None
        for i, weight in enumerate(cgutils.unpack_tuple(self.builder, down, 4)):
            begin = self.builder.add(base, self.builder.mul(row, ir.Constant(row.type, i)))
            eight = self.multiply_add(eight, self.load(0, begin, 8), weight)
            four = self.multiply_add(four, self.load(0, self.after(begin, 8), 4), weight)
        return self._across(eight, four, across)

    def cubic_of_row(self, base: Any, fx: Any) -> Any:
        """Return red, green and blue of four taps of one row in the first three of four lanes."""
        eight, four = self.load(0, base, 8), self.load(0, self.after(base, 8), 4)
        return self._across(eight, four, self.cubic_weights(fx))

    def _across(self, eight: Any, four: Any, across: Any) -> Any:
        """Return the sum of four pixels, as eight floats and four, weighted by ``across``."""
        eight = self.add_product(None, eight, self.shuffle(across, [0, 0, 0, 1, 1, 1, 2, 2]))
        four = self.add_product(None, four, self.shuffle(across, [2, 3, 3, 3]))
        widened = self.shuffle(four, [0, 1, 2, 3, 3, 3, 3, 3])
        pixels = (
            self.shuffle(eight, [0, 1, 2, 2]),
            self.shuffle(eight, [3, 4, 5, 5]),
            self.shuffle(eight, [6, 7, 8, 8], widened),
            self.shuffle(four, [1, 2, 3, 3]),
        )
        fadd = self.builder.fadd
        return fadd(fadd(pixels[0], pixels[1]), fadd(pixels[2], pixels[3]))


@intrinsic
def _cubic_simd(_context: Any, pixels: Any, base: Any, row: Any, fx: Any, down: Any) -> Any:
    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        total = _Interpolation(context, builder, signature, arguments).cubic(*arguments[1:])
        lanes = (ir.Constant(ir.IntType(32), c) for c in range(3))
        channels = [builder.extract_element(total, lane) for lane in lanes]
        return context.make_tuple(builder, signature.return_type, channels)

    result = types.UniTuple(types.float32, 3)
    return result(pixels, types.int64, types.int64, types.float32, down), codegen


@kernel
def _cubic_plain(pixels: Any, base: Any, row: Any, fx: Any, down: Any) -> Any:
    across = cubic_weights(fx)
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for i in range(4):
        for k in range(4):
            at, weight = base + i * row + 3 * k, down[i] * across[k]
            red += weight * pixels[at]
            green += weight * pixels[at + 1]
            blue += weight * pixels[at + 2]
    return red, green, blue


_cubic = _cubic_simd if is_on("cubic_simd") else _cubic_plain


@inlined
def cubic_rgb(pixels: Any, base: Any, row: Any, fx: Any, fy: Any) -> Any:
    """Return red, green and blue of the cubic interpolation; see the head of this module."""
    return _cubic(pixels, base, row, fx, cubic_weights(fy))


@intrinsic
def _cubic_line_simd(_context: Any, line: Any, base: Any, fx: Any) -> Any:
    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        total = _Interpolation(context, builder, signature, arguments).cubic_of_row(*arguments[1:])
        lanes = (ir.Constant(ir.IntType(32), c) for c in range(3))
        channels = [builder.extract_element(total, lane) for lane in lanes]
        return context.make_tuple(builder, signature.return_type, channels)

    result = types.UniTuple(types.float32, 3)
    return result(line, types.int64, types.float32), codegen


@kernel
def _cubic_line_plain(line: Any, base: Any, fx: Any) -> Any:
    across = cubic_weights(fx)
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for k in range(4):
        red += across[k] * line[base + 3 * k]
        green += across[k] * line[base + 3 * k + 1]
        blue += across[k] * line[base + 3 * k + 2]
    return red, green, blue


# Red, green and blue of the interpolation between four pixels of one line; see the head of this module.
cubic_line = _cubic_line_simd if is_on("cubic_simd") else _cubic_line_plain


@intrinsic
def _sum_pixels_simd(_context: Any, pixels: Any, places: Any, weights: Any) -> Any:
    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        vectors, count = Vectors(context, builder, signature, arguments), len(places)
        total = None
        for place, weight in zip(
            cgutils.unpack_tuple(builder, arguments[1], count),
            cgutils.unpack_tuple(builder, arguments[2], count),
            strict=True,
        ):
            total = vectors.multiply_add(total, vectors.load(0, place, 4), weight)
        lanes = (ir.Constant(ir.IntType(32), c) for c in range(3))
        channels = [builder.extract_element(total, lane) for lane in lanes]
        return context.make_tuple(builder, signature.return_type, channels)

    return types.UniTuple(types.float32, 3)(pixels, places, weights), codegen


@kernel
def _sum_pixels_plain(pixels: Any, places: Any, weights: Any) -> Any:
    red, green, blue = np.float32(0), np.float32(0), np.float32(0)
    for n in range(len(places)):
        red += weights[n] * pixels[places[n]]
        green += weights[n] * pixels[places[n] + 1]
        blue += weights[n] * pixels[places[n] + 2]
    return red, green, blue


# Red, green and blue of the sum of pixels that begin at the floats ``places`` (int64), by ``weights``
# (float32). One float after the last pixel is read, without meaning.
sum_pixels = _sum_pixels_simd if is_on("cubic_simd") else _sum_pixels_plain


def _interpolating(*, adds: bool) -> Any:
    """Return the vector form of ``add_cubic``, or of ``put_cubic``."""

    @intrinsic
    def step(
        _context: Any, pixels: Any, base: Any, row: Any, weights: Any, line: Any, at: Any
    ) -> Any:
        def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            _, base, row, weights, _, at = arguments
            interpolation, line = _Interpolation(context, builder, signature, arguments), 4
            shown = interpolation.cubic(base, row, *cgutils.unpack_tuple(builder, weights, 2))
            if adds:
                shown = builder.fadd(interpolation.load(line, at, 4), shown)
            interpolation.store(shown, line, at)
            return interpolation.nothing()

        number = types.int64
        return types.void(pixels, number, number, weights, line, number), codegen

    return step


@kernel
def _add_cubic_plain(pixels: Any, base: Any, row: Any, weights: Any, line: Any, at: Any) -> None:
    fx, down = weights
    red, green, blue = _cubic_plain(pixels, base, row, fx, down)
    line[at] += red
    line[at + 1] += green
    line[at + 2] += blue


@kernel
def _put_cubic_plain(pixels: Any, base: Any, row: Any, weights: Any, target: Any, at: Any) -> None:
    fx, down = weights
    target[at], target[at + 1], target[at + 2] = _cubic_plain(pixels, base, row, fx, down)


# ``weights`` are (fx, down).
if is_on("cubic_simd"):
    add_cubic, put_cubic = _interpolating(adds=True), _interpolating(adds=False)
else:
    add_cubic, put_cubic = _add_cubic_plain, _put_cubic_plain


@intrinsic
def fetch_taps(_context: Any, pixels: Any, base: Any, row: Any) -> Any:
    """Ask for the corners of the taps: those between them were corners of points before."""

    def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
        vectors = Vectors(context, builder, signature, arguments)
        _, base, row = arguments
        last_row = builder.add(base, builder.mul(row, ir.Constant(row.type, 3)))
        for first in (base, last_row):
            vectors.fetch(0, first)
            vectors.fetch(0, vectors.after(first, _LAST_TAP))
        return vectors.nothing()

    return types.void(pixels, types.int64, types.int64), codegen
