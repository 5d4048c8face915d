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

from idle_shimmer.core.bands import over_rows, worth_a_thread
from idle_shimmer.core.kernel import kernel
from idle_shimmer.core.transfer import (
    display_of_linear,
    display_of_linear_rows,
    linear_of_display,
    linear_of_display_rows,
    within,
)

Pixels = NDArray[np.float32]
Codes = NDArray[np.uint8]
Light = Literal["codes", "display", "linear"]

_CODE_STEPS = 65536


_LINEAR_OF_CODE = linear_of_display(np.arange(256) / 255).astype(np.float32)
_DISPLAY_OF_CODE = (np.arange(256, dtype=np.float32) / np.float32(255)).astype(np.float32)
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


@kernel
def place_of_linear(light: Any, table: Any) -> Any:
    """Where in ``CODE_OF_LINEAR`` the code of a float32 light stands, as int32."""
    return np.int32(within(light) * np.float32(table.shape[0] - 1) + np.float32(0.5))


@kernel
def _codes_of_linear_rows(linear: Any, table: Any, out: Any, first: int, end: int) -> None:
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
    fewest = worth_a_thread(flat.shape[1] // 3)
    over_rows(rows_kernel, flat.shape[0], flat, *tables, out, fewest=fewest)
    return out.reshape(pixels.shape)


def linear_from_codes(codes: Codes) -> Pixels:
    """uint8 codes (H, W, 3) -> float32 linear light."""
    return _run(_through_table, codes, np.float32, _LINEAR_OF_CODE)


def display_from_codes(codes: Codes) -> Pixels:
    """uint8 codes (H, W, 3) -> float32 display values, codes over 255."""
    return _run(_through_table, codes, np.float32, _DISPLAY_OF_CODE)


def linear_from_display(display: Pixels) -> Pixels:
    """float32 display -> float32 linear light; error below 1e-6 inside 0…1."""
    return _run(linear_of_display_rows, display, np.float32)


def display_from_linear(linear: Pixels) -> Pixels:
    """float32 linear light -> float32 display; error below 1e-6 inside 0…1."""
    return _run(display_of_linear_rows, linear, np.float32)


def codes_from_linear(linear: Pixels) -> Codes:
    """float32 linear light -> uint8 codes, clipped; every code of ``linear_from_codes`` returns."""
    return _run(_codes_of_linear_rows, linear, np.uint8, CODE_OF_LINEAR)


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
