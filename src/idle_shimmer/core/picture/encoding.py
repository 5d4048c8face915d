"""Pictures and their encodings: 8-bit and 16-bit codes, display values and linear light.

Conventions: (H, W, 3), RGB, row 0 at the top. ``codes`` are uint8 sRGB code values, ``deep`` ones
uint16 over the whole range (65535 for white); ``display`` is float32, codes over their white;
``linear`` is float32 light, 1.0 for white. Both float kinds may leave 0…1 (a bloom goes above, an
overshoot below); only the conversion to codes clips.
Transfer function: sRGB, IEC 61966-2-1; beyond 0…1 it continues, and is odd about 0.
"""

from dataclasses import dataclass
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import min_rows_per_thread, parallel_rows
from idle_shimmer.core.picture.transfer import (
    clamp01,
    display_of_linear,
    display_of_linear_rows,
    linear_of_display,
    linear_of_display_rows,
)

Pixels = NDArray[np.float32]
Codes = NDArray[np.uint8]
DeepCodes = NDArray[np.uint16]
Encoding = Literal["codes", "deep", "display", "linear"]

_CODE_STEPS = 65536
DEEP_WHITE = 65535
# A deep code is 257 times the 8-bit code of the same value.
_DEEP_PER_CODE = 257


_LINEAR_OF_CODE = linear_of_display(np.arange(256) / 255).astype(np.float32)
_DISPLAY_OF_CODE = (np.arange(256, dtype=np.float32) / np.float32(255)).astype(np.float32)
_LINEAR_OF_DEEP = linear_of_display(np.arange(_CODE_STEPS) / DEEP_WHITE).astype(np.float32)
_DISPLAY_OF_DEEP = (np.arange(_CODE_STEPS) / DEEP_WHITE).astype(np.float32)
CODE_OF_LINEAR = np.rint(
    255 * display_of_linear(np.arange(_CODE_STEPS) / (_CODE_STEPS - 1))
).astype(np.uint8)


LUMA_BT709 = np.array([0.2126, 0.7152, 0.0722], np.float32)


def luma(pixels: Pixels) -> NDArray[np.float32]:
    """Return ITU-R BT.709 luma (of display values) or relative luminance (of linear light), (H, W)."""
    return cv2.transform(pixels, LUMA_BT709.reshape(1, 3))


def display_of_colour(colour: str) -> NDArray[np.float32]:
    """Return the display values (3,) of ``"#rrggbb"``."""
    return np.frombuffer(bytes.fromhex(colour[1:]), np.uint8).astype(np.float32) / np.float32(255)


def colour_in(colour: str, encoding: str) -> NDArray[np.float32]:
    """Return the values (3,) of ``"#rrggbb"`` as display values or linear light."""
    display = display_of_colour(colour)
    return linear_of_display(display).astype(np.float32) if encoding == "linear" else display


@kernel
def _look_up_rows(codes: Any, table: Any, out: Any, first: int, end: int) -> None:
    for i in range(first, end):
        for j in range(codes.shape[1]):
            out[i, j] = table[codes[i, j]]


@kernel
def index_of_linear(light: Any, table: Any) -> Any:
    """Return the index in ``CODE_OF_LINEAR`` of a float32 light's code, as int32."""
    return np.int32(clamp01(light) * np.float32(table.shape[0] - 1) + np.float32(0.5))


@kernel
def _codes_of_linear_rows(linear: Any, table: Any, out: Any, first: int, end: int) -> None:
    indices = np.empty(linear.shape[1], np.int32)
    for i in range(first, end):
        row, codes = linear[i], out[i]
        for j in range(row.shape[0]):
            indices[j] = index_of_linear(row[j], table)
        for j in range(row.shape[0]):
            codes[j] = table[np.uintp(indices[j])]


@kernel
def codes_of_display_rows(display: Any, out: Any, first: int, end: int) -> None:
    """Kernel: display (rows, n) to codes, clipped and rounded."""
    for i in range(first, end):
        for j in range(display.shape[1]):
            out[i, j] = np.uint8(clamp01(display[i, j]) * np.float32(255) + np.float32(0.5))


def _run(rows_kernel: Any, pixels: NDArray[Any], dtype: Any, *tables: Any) -> NDArray[Any]:
    flat = np.ascontiguousarray(pixels).reshape(pixels.shape[0], -1)
    out = np.empty(flat.shape, dtype)
    min_rows = min_rows_per_thread(flat.shape[1] // 3)
    parallel_rows(rows_kernel, flat.shape[0], flat, *tables, out, min_rows=min_rows)
    return out.reshape(pixels.shape)


def linear_from_codes(codes: Codes) -> Pixels:
    """Convert uint8 codes (H, W, 3) to float32 linear light."""
    return _run(_look_up_rows, codes, np.float32, _LINEAR_OF_CODE)


def display_from_codes(codes: Codes) -> Pixels:
    """Convert uint8 codes (H, W, 3) to float32 display values, codes over 255."""
    return _run(_look_up_rows, codes, np.float32, _DISPLAY_OF_CODE)


def linear_from_display(display: Pixels) -> Pixels:
    """Convert float32 display values to float32 linear light; error below 1e-6 inside 0…1."""
    return _run(linear_of_display_rows, display, np.float32)


def display_from_linear(linear: Pixels) -> Pixels:
    """Convert float32 linear light to float32 display values; error below 1e-6 inside 0…1."""
    return _run(display_of_linear_rows, linear, np.float32)


def codes_from_linear(linear: Pixels) -> Codes:
    """Convert float32 linear light to uint8 codes, clipped; inverts ``linear_from_codes`` exactly."""
    return _run(_codes_of_linear_rows, linear, np.uint8, CODE_OF_LINEAR)


def codes_from_display(display: Pixels) -> Codes:
    """Convert float32 display values to uint8 codes, clipped and rounded to nearest."""
    return _run(codes_of_display_rows, display, np.uint8)


def linear_from_deep(codes: DeepCodes) -> Pixels:
    """Convert uint16 codes (H, W, 3) to float32 linear light."""
    return _run(_look_up_rows, codes, np.float32, _LINEAR_OF_DEEP)


def display_from_deep(codes: DeepCodes) -> Pixels:
    """Convert uint16 codes (H, W, 3) to float32 display values, codes over 65535."""
    return _run(_look_up_rows, codes, np.float32, _DISPLAY_OF_DEEP)


def codes_from_deep(codes: DeepCodes) -> Codes:
    """Convert uint16 codes to uint8, rounded to nearest; inverts ``deep_from_codes`` exactly."""
    return ((codes.astype(np.uint32) + _DEEP_PER_CODE // 2) // _DEEP_PER_CODE).astype(np.uint8)


def deep_from_codes(codes: Codes) -> DeepCodes:
    """Convert uint8 codes to uint16 ones of the same value."""
    return codes.astype(np.uint16) * np.uint16(_DEEP_PER_CODE)


@kernel
def _deep_of_display_rows(display: Any, out: Any, first: int, end: int) -> None:
    for i in range(first, end):
        for j in range(display.shape[1]):
            out[i, j] = np.uint16(clamp01(display[i, j]) * np.float32(65535) + np.float32(0.5))


def deep_from_display(display: Pixels) -> DeepCodes:
    """Convert float32 display values to uint16 codes, clipped and rounded to nearest."""
    return _run(_deep_of_display_rows, display, np.uint16)


def deep_from_linear(linear: Pixels) -> DeepCodes:
    """Convert float32 linear light to uint16 codes, clipped; within a code of 16 bits."""
    return deep_from_display(display_from_linear(linear))


@dataclass(frozen=True, slots=True)
class Picture:
    """Pixels and their encoding; conversions happen only when they are asked for."""

    pixels: NDArray[Any]
    encoding: Encoding

    @classmethod
    def of_codes(cls, codes: Codes | DeepCodes) -> "Picture":
        """Return the picture of uint8 or uint16 codes (H, W, 3)."""
        return cls(codes, "deep" if codes.dtype == np.uint16 else "codes")

    def to(self, encoding: Encoding) -> "Picture":
        """Return this picture in another encoding; itself where it has that already."""
        if encoding == self.encoding:
            return self
        convert = _CONVERSIONS[self.encoding, encoding]
        return Picture(convert(self.pixels), encoding)


_CONVERSIONS: dict[tuple[Encoding, Encoding], Any] = {
    ("codes", "linear"): linear_from_codes,
    ("codes", "display"): display_from_codes,
    ("codes", "deep"): deep_from_codes,
    ("deep", "codes"): codes_from_deep,
    ("deep", "linear"): linear_from_deep,
    ("deep", "display"): display_from_deep,
    ("display", "deep"): deep_from_display,
    ("linear", "deep"): deep_from_linear,
    ("display", "linear"): linear_from_display,
    ("display", "codes"): codes_from_display,
    ("linear", "display"): display_from_linear,
    ("linear", "codes"): codes_from_linear,
}
