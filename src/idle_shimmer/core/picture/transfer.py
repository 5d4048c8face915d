"""The transfer function between display values and linear light: exact, and fast in kernels.

Source: sRGB, IEC 61966-2-1; beyond 0…1 it continues, and is odd about 0. The kernels evaluate
polynomials in roots of the value, which vectorises; a table lookup takes three times as long. The
roots move the power's branch point away, so that few terms suffice (Chebyshev interpolation, with
an error far below float32 rounding).
"""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.polynomial import Chebyshev, Polynomial
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import inlined, kernel

_KNEE_DISPLAY, _KNEE_LINEAR = 0.04045, 0.0031308
_SLOPE, _POWER, _LIFT = 12.92, 2.4, 0.055


def linear_of_display(display: NDArray[Any]) -> NDArray[np.float64]:
    """Return the linear light of display values, in float64 (IEC 61966-2-1, from memory)."""
    v = np.abs(np.asarray(display, dtype=np.float64))
    light = np.where(v <= _KNEE_DISPLAY, v / _SLOPE, ((v + _LIFT) / (1 + _LIFT)) ** _POWER)
    return np.copysign(light, display)


def display_of_linear(linear: NDArray[Any]) -> NDArray[np.float64]:
    """Return the display values of linear light, in float64 (IEC 61966-2-1, from memory)."""
    v = np.abs(np.asarray(linear, dtype=np.float64))
    display = np.where(v <= _KNEE_LINEAR, v * _SLOPE, (1 + _LIFT) * v ** (1 / _POWER) - _LIFT)
    return np.copysign(display, linear)


Terms = tuple[np.float32, ...]


def _fit(
    curve: Callable[[NDArray[np.float64]], NDArray[np.float64]], low: float, degree: int
) -> tuple[Terms, np.float32, np.float32]:
    """Return (terms, highest first; scale and shift from low…1 to -1…1) of a curve's polynomial."""
    fit = Chebyshev.interpolate(curve, degree, domain=[low, 1])
    terms = fit.convert(kind=Polynomial, domain=[low, 1], window=[-1, 1]).coef[::-1]
    scale, shift = 2 / (1 - low), -(1 + low) / (1 - low)
    return tuple(np.float32(term) for term in terms), np.float32(scale), np.float32(shift)


# In the square root of the lifted value, the power 2.4 is one of 4.8.
_TO_LINEAR, _TO_LINEAR_SCALE, _TO_LINEAR_SHIFT = _fit(
    lambda root: root ** (2 * _POWER), ((_KNEE_DISPLAY + _LIFT) / (1 + _LIFT)) ** 0.5, degree=7
)
# In the fourth root of the light, the power 1 / 2.4 is one of 1.67.
_TO_DISPLAY, _TO_DISPLAY_SCALE, _TO_DISPLAY_SHIFT = _fit(
    lambda root: (1 + _LIFT) * root ** (4 / _POWER) - _LIFT, _KNEE_LINEAR**0.25, degree=10
)


@kernel
def clamp01(v: Any) -> Any:
    """Return ``v`` clamped to 0…1, NaN as 0. The order of arguments compiles to two instructions."""
    low = max(np.float32(0), v)
    return min(np.float32(1), low)


@inlined
def _polynomial(terms: Any, t: Any) -> Any:
    total = terms[0]
    for k in range(1, len(terms)):
        total = total * t + terms[k]
    return total


@kernel
def _linear(v: Any) -> Any:
    """Return the linear light of a display value in 0…1 (and of one below the knee)."""
    root = np.sqrt((clamp01(v) + np.float32(0.055)) * np.float32(1 / 1.055))
    above = _polynomial(_TO_LINEAR, root * _TO_LINEAR_SCALE + _TO_LINEAR_SHIFT)
    return above if v > np.float32(0.04045) else v * np.float32(1 / 12.92)


@kernel
def _display(v: Any) -> Any:
    """Return the display value of linear light in 0…1 (and of light below the knee)."""
    above = _polynomial(
        _TO_DISPLAY, np.sqrt(np.sqrt(clamp01(v))) * _TO_DISPLAY_SCALE + _TO_DISPLAY_SHIFT
    )
    return above if v > np.float32(0.0031308) else v * np.float32(12.92)


@kernel
def _signed_linear(v: Any) -> Any:
    """Return the linear light of a display value outside 0…1 and the knee."""
    light = np.float32(((abs(v) + 0.055) / 1.055) ** 2.4)
    return light if v > 0 else -light


@kernel
def _signed_display(v: Any) -> Any:
    """Return the display value of linear light outside 0…1 and the knee."""
    display = np.float32(1.055 * abs(v) ** (1 / 2.4) - 0.055)
    return display if v > 0 else -display


@kernel
def linear_of_display_row(row: Any, light: Any) -> None:
    """Convert display values (n,) to linear light, float32; both contiguous, or it takes five times as long."""
    beyond = False
    for j in range(row.shape[0]):
        beyond |= (row[j] < 0) | (row[j] > 1)
        light[j] = _linear(row[j])
    if beyond:
        for j in range(row.shape[0]):
            if row[j] > 1 or row[j] < np.float32(-0.04045):
                light[j] = _signed_linear(row[j])


@kernel
def display_of_linear_row(row: Any, shown: Any) -> None:
    """Convert linear light (n,) to display values, float32; both contiguous."""
    beyond = False
    for j in range(row.shape[0]):
        beyond |= (row[j] < 0) | (row[j] > 1)
        shown[j] = _display(row[j])
    if beyond:
        for j in range(row.shape[0]):
            if row[j] > 1 or row[j] < np.float32(-0.0031308):
                shown[j] = _signed_display(row[j])


@kernel
def linear_of_display_rows(display: Any, out: Any, first: int, end: int) -> None:
    """Convert rows of display values (rows, n) to linear light, float32."""
    for i in range(first, end):
        linear_of_display_row(display[i], out[i])


@kernel
def display_of_linear_rows(linear: Any, out: Any, first: int, end: int) -> None:
    """Convert rows of linear light (rows, n) to display values, float32."""
    for i in range(first, end):
        display_of_linear_row(linear[i], out[i])
