"""Pictures: 8-bit codes, display light and linear light, and the ways between them.

Conventions: (H, W, 3), RGB, row 0 at the top. ``codes`` are uint8 sRGB code values; ``display``
is float32 code values over 255; ``linear`` is float32 light, 1.0 for white. Both float kinds may
leave 0…1 (a bloom goes above, an overshoot below); only the way back to codes clips.
Transfer function: sRGB, IEC 61966-2-1; beyond 0…1 it continues, and is odd about 0.
"""

from dataclasses import dataclass
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.bands import over_rows
from idle_shimmer.core.kernel import inlined, kernel

Pixels = NDArray[np.float32]
Codes = NDArray[np.uint8]
Light = Literal["codes", "display", "linear"]

_TABLE_STEPS = 4096
_CODE_STEPS = 65536


def linear_of_display(display: NDArray[Any]) -> NDArray[np.float64]:
    """Linear light of display values, in float64 (IEC 61966-2-1)."""
    v = np.abs(np.asarray(display, dtype=np.float64))
    light = np.where(v <= 0.04045, v / 12.92, ((v + 0.055) / 1.055) ** 2.4)
    return np.copysign(light, display)


def display_of_linear(linear: NDArray[Any]) -> NDArray[np.float64]:
    """Display values of linear light, in float64 (IEC 61966-2-1)."""
    v = np.abs(np.asarray(linear, dtype=np.float64))
    display = np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055)
    return np.copysign(display, linear)


_LINEAR_OF_CODE = linear_of_display(np.arange(256) / 255).astype(np.float32)
_DISPLAY_OF_CODE = (np.arange(256, dtype=np.float32) / np.float32(255)).astype(np.float32)
LINEAR_TABLE = linear_of_display(np.arange(_TABLE_STEPS + 2) / _TABLE_STEPS).astype(np.float32)
# The encoding curve is steep near black, so its table is spaced evenly in the square root.
_DISPLAY_TABLE = display_of_linear((np.arange(_TABLE_STEPS + 2) / _TABLE_STEPS) ** 2).astype(
    np.float32
)
CODE_OF_LINEAR = np.rint(
    255 * display_of_linear(np.arange(_CODE_STEPS) / (_CODE_STEPS - 1))
).astype(np.uint8)


LUMA_BT709 = np.array([0.2126, 0.7152, 0.0722], np.float32)


def luma(pixels: Pixels) -> NDArray[np.float32]:
    """ITU-R BT.709 luma (of display values) or relative luminance (of linear ones), (H, W)."""
    return cv2.transform(pixels, LUMA_BT709.reshape(1, 3))


def display_of_colour(colour: str) -> NDArray[np.float32]:
    """The display values (3,) of ``"#rrggbb"``."""
    return np.frombuffer(bytes.fromhex(colour[1:]), np.uint8).astype(np.float32) / np.float32(255)


def colour_in(colour: str, light: str) -> NDArray[np.float32]:
    """The values (3,) of ``"#rrggbb"`` in display or linear light."""
    display = display_of_colour(colour)
    return linear_of_display(display).astype(np.float32) if light == "linear" else display


@kernel
def _through_table(codes: Any, table: Any, out: Any, first: int, end: int) -> None:
    for i in range(first, end):
        for j in range(codes.shape[1]):
            out[i, j] = table[codes[i, j]]


@inlined
def _to_linear_above(v: float) -> float:
    if v <= 0.04045:
        return v / 12.92
    return ((v + 0.055) / 1.055) ** 2.4


@inlined
def _to_display_above(v: float) -> float:
    if v <= 0.0031308:
        return v * 12.92
    return 1.055 * v ** (1 / 2.4) - 0.055


@kernel
def within(v: Any) -> Any:
    """``v`` held in 0…1, no number as 0. Comparing compiles to far less than min and max do."""
    low = max(np.float32(0), v)
    return min(np.float32(1), low)


@kernel
def interpolated(table: Any, at: Any) -> Any:
    """The table's value at the place ``at`` (0 or more) between two of its entries."""
    whole = np.int32(at)
    # An index without a sign need not be checked for counting from the end.
    k = np.uintp(whole)
    return table[k] + (table[k + np.uintp(1)] - table[k]) * (at - np.float32(whole))


@kernel
def linear_of_display_rows(display: Any, table: Any, out: Any, first: int, end: int) -> None:
    """Kernel: display (rows, n) to linear light, by ``LINEAR_TABLE``; exact beyond 0…1."""
    steps = np.float32(table.shape[0] - 2)
    for i in range(first, end):
        row, lit = display[i], out[i]
        beyond = False
        for j in range(row.shape[0]):
            v = row[j]
            beyond |= (v < 0) | (v > 1)
            lit[j] = interpolated(table, within(v) * steps)
        if beyond:
            for j in range(row.shape[0]):
                v = row[j]
                if v > 1 or v < 0:
                    light = np.float32(_to_linear_above(abs(v)))
                    lit[j] = light if v > 0 else -light


@kernel
def _display_rows(linear: Any, table: Any, out: Any, first: int, end: int) -> None:
    steps = np.float32(table.shape[0] - 2)
    places = np.empty(linear.shape[1], np.float32)
    for i in range(first, end):
        row, shown = linear[i], out[i]
        # By itself, the way to the places is vectorised; the table's values never are.
        for j in range(row.shape[0]):
            places[j] = np.sqrt(within(row[j])) * steps
        beyond = False
        for j in range(row.shape[0]):
            v = row[j]
            beyond |= (v < 0) | (v > 1)
            curved = interpolated(table, places[j])
            # The linear part of the curve is exact; interpolating it in the root would not be.
            shown[j] = curved if v > np.float32(0.0031308) else v * np.float32(12.92)
        if beyond:
            for j in range(row.shape[0]):
                v = row[j]
                if v > 1 or v < 0:
                    display = np.float32(_to_display_above(abs(v)))
                    shown[j] = display if v > 0 else -display


@kernel
def place_of_linear(light: Any, table: Any) -> Any:
    """Where in ``CODE_OF_LINEAR`` the code of a float32 light stands, as int32."""
    return np.int32(within(light) * np.float32(table.shape[0] - 1) + np.float32(0.5))


@kernel
def _codes_oflinear_of_display_rows(
    linear: Any, table: Any, out: Any, first: int, end: int
) -> None:
    places = np.empty(linear.shape[1], np.int32)
    for i in range(first, end):
        row, codes = linear[i], out[i]
        for j in range(row.shape[0]):
            places[j] = place_of_linear(row[j], table)
        for j in range(row.shape[0]):
            codes[j] = table[np.uintp(places[j])]


@kernel
def codes_of_display_rows(display: Any, out: Any, first: int, end: int) -> None:
    """Kernel: display (rows, n) to codes, clipped and rounded."""
    for i in range(first, end):
        for j in range(display.shape[1]):
            out[i, j] = np.uint8(within(display[i, j]) * np.float32(255) + np.float32(0.5))


def _run(rows_kernel: Any, pixels: NDArray[Any], dtype: Any, *tables: Any) -> NDArray[Any]:
    flat = np.ascontiguousarray(pixels).reshape(pixels.shape[0], -1)
    out = np.empty(flat.shape, dtype)
    over_rows(rows_kernel, flat.shape[0], flat, *tables, out)
    return out.reshape(pixels.shape)


def linear_from_codes(codes: Codes) -> Pixels:
    """uint8 codes (H, W, 3) -> float32 linear light."""
    return _run(_through_table, codes, np.float32, _LINEAR_OF_CODE)


def display_from_codes(codes: Codes) -> Pixels:
    """uint8 codes (H, W, 3) -> float32 display values, codes over 255."""
    return _run(_through_table, codes, np.float32, _DISPLAY_OF_CODE)


def linear_from_display(display: Pixels) -> Pixels:
    """float32 display -> float32 linear light; error below 1e-6 inside 0…1."""
    return _run(linear_of_display_rows, display, np.float32, LINEAR_TABLE)


def display_from_linear(linear: Pixels) -> Pixels:
    """float32 linear light -> float32 display; error below 1e-5 inside 0…1."""
    return _run(_display_rows, linear, np.float32, _DISPLAY_TABLE)


def codes_from_linear(linear: Pixels) -> Codes:
    """float32 linear light -> uint8 codes, clipped; every code of ``linear_from_codes`` returns."""
    return _run(_codes_oflinear_of_display_rows, linear, np.uint8, CODE_OF_LINEAR)


def codes_from_display(display: Pixels) -> Codes:
    """float32 display -> uint8 codes, clipped and rounded to nearest."""
    return _run(codes_of_display_rows, display, np.uint8)


@dataclass(frozen=True, slots=True)
class Picture:
    """Pixels and the light that they are in; conversions happen only when asked for."""

    pixels: NDArray[Any]
    light: Light

    def to(self, light: Light) -> "Picture":
        """This picture in another light; itself where it is there already."""
        if light == self.light:
            return self
        convert = _CONVERSIONS[self.light, light]
        return Picture(convert(self.pixels), light)


_CONVERSIONS: dict[tuple[Light, Light], Any] = {
    ("codes", "linear"): linear_from_codes,
    ("codes", "display"): display_from_codes,
    ("display", "linear"): linear_from_display,
    ("display", "codes"): codes_from_display,
    ("linear", "display"): display_from_linear,
    ("linear", "codes"): codes_from_linear,
}
