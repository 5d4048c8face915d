"""Interpolation between pixels: Catmull-Rom's cubic, and linear where many samples are averaged.

Source of the cubic: Keys 1981, "Cubic convolution interpolation", a = -1/2.
"""

from typing import Any

import numpy as np
from llvmlite import ir
from numba import types
from numba.core import cgutils
from numba.extending import intrinsic

from idle_shimmer.core.kernel import inlined

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


@inlined
def linear_weights(f: Any) -> tuple[Any, Any]:
    """The float32 weights of the two neighbours at fraction ``f`` (float32, 0…1)."""
    return _ONE - f, f


def _averaging(taps: int) -> Any:
    """A compiled average of ``taps`` by ``taps`` pixels; see ``cubic_rgb``."""

    @intrinsic
    def rgb(_context: Any, pixels: Any, base: Any, row: Any, across: Any, down: Any) -> Any:
        weights = types.UniTuple(types.float32, taps)
        signature = types.UniTuple(types.float32, 3)(
            pixels, types.int64, types.int64, weights, weights
        )

        def codegen(context: Any, builder: Any, signature: Any, arguments: Any) -> Any:
            array = cgutils.create_struct_proxy(signature.args[0])(context, builder, arguments[0])
            rows = []
            for i in range(taps):
                start = builder.add(arguments[1], builder.mul(arguments[2], _long(i)))
                inside = [
                    _four_floats(builder, array.data, builder.add(start, _long(3 * j)))
                    for j in range(taps)
                ]
                rows.append(_weighted(builder, inside, arguments[3]))
            total = _weighted(builder, rows, arguments[4])
            channels = [builder.extract_element(total, _int(c)) for c in range(3)]
            return context.make_tuple(builder, signature.return_type, channels)

        return signature, codegen

    return rgb


# (red, green, blue) from the pixels whose first float is ``base`` of ``pixels``, 4 by 4 or 2 by 2.
# ``pixels`` is a contiguous float32 array, ``row`` its floats per row; ``across`` and ``down`` are
# weights. Each tap is read as four floats at once, so one float beyond the last tap must still
# belong to the array: the compiler does not find this vector by itself, and it makes the lookup
# twice as fast.
cubic_rgb = _averaging(4)
linear_rgb = _averaging(2)


_VECTOR = ir.VectorType(ir.FloatType(), 4)


def _int(value: int) -> Any:
    return ir.Constant(ir.IntType(32), value)


def _long(value: int) -> Any:
    return ir.Constant(ir.IntType(64), value)


def _four_floats(builder: Any, floats: Any, index: Any) -> Any:
    place = builder.bitcast(builder.gep(floats, [index]), _VECTOR.as_pointer())
    return builder.load(place, align=4)


def _weighted(builder: Any, vectors: list[Any], weights: Any) -> Any:
    """The sum of ``vectors`` times the members of the tuple ``weights``."""
    total = None
    for k, vector in enumerate(vectors):
        product = builder.fmul(
            vector, _spread(builder, builder.extract_value(weights, k)), flags=["contract"]
        )
        total = product if total is None else builder.fadd(total, product, flags=["contract"])
    return total


def _spread(builder: Any, scalar: Any) -> Any:
    """A vector of four times ``scalar``."""
    empty = ir.Constant(_VECTOR, ir.Undefined)
    first = builder.insert_element(empty, scalar, _int(0))
    return builder.shuffle_vector(
        first, empty, ir.Constant(ir.VectorType(ir.IntType(32), 4), [0] * 4)
    )
