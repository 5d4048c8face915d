"""Pictures as luma and chroma planes of limited range, for encoders: rounded once.

Source: ITU-R BT.709-6, items 3.2 to 3.5 (matrix, quantisation). Chroma is sampled where the left one of two
luma samples lies (ITU-T H.265, figure 1 of annex E: type 0, the default of decoders), by the weights
1, 2, 1, and between two rows where it has half of them.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.compute.parallel import min_rows_per_thread, parallel_rows
from idle_shimmer.core.picture.dither import WHOLE, dither_seed, row_seed, triangular_noise
from idle_shimmer.core.picture.encoding import Picture
from idle_shimmer.core.picture.transfer import clamp01

Plane = NDArray[Any]
BT709_WEIGHTS = (0.2126, 0.0722)


@dataclass(frozen=True, slots=True)
class YuvForm:
    """A layout of planes: ``bits`` of a sample, and whether chroma has half of the rows (4:2:0, not 4:2:2)."""

    bits: int
    halves_rows: bool


YUV_FORMS = {
    "yuv420p": YuvForm(8, halves_rows=True),
    "yuv420p10le": YuvForm(10, halves_rows=True),
    "yuv422p10le": YuvForm(10, halves_rows=False),
}


@dataclass(frozen=True, slots=True)
class Planes:
    """Luma and both chroma planes, as an encoder takes them."""

    luma: Plane
    blue: Plane
    red: Plane

    @classmethod
    def of_flat(cls, flat: Plane, form: YuvForm, size: tuple[int, int]) -> "Planes":
        """Return the planes of a picture of ``size`` (W, H), both even, that lie one after another."""
        width, height = size
        rows = height // 2 if form.halves_rows else height
        ends = width * height, width * height + width // 2 * rows
        luma, blue, red = np.split(flat, ends)
        small = (rows, width // 2)
        return cls(luma.reshape(height, width), blue.reshape(small), red.reshape(small))


def flat_length(form: YuvForm, size: tuple[int, int]) -> int:
    """Return how many samples all planes of a picture of ``size`` (W, H), both even, have."""
    width, height = size
    return width * height + width * (height // 2 if form.halves_rows else height)


def yuv_planes(
    picture: Picture, form: YuvForm, frame: int, weights: tuple[float, float] = BT709_WEIGHTS
) -> Planes:
    """Return luma (H, W) and both chroma planes, W and, in 4:2:0, H even; uint8 or uint16.

    ``weights`` are those of red and blue in luma. A computed picture is dithered where the form has 8 bits, with the noise of frame number ``frame``;
    pixels that are whole codes of 8 bits are only rounded.
    """
    display = np.ascontiguousarray(picture.to("display").pixels)
    height, width = display.shape[:2]
    rows = 2 if form.halves_rows else 1
    dtype = np.uint8 if form.bits == 8 else np.uint16
    luma = np.empty((height, width), dtype)
    blue, red = (np.empty((height // rows, width // 2), dtype) for _ in range(2))
    is_dithered = form.bits == 8 and picture.encoding in ("display", "linear")
    parallel_rows(
        _yuv_rows,
        height // rows,
        display,
        np.array(weights, np.float32),
        np.float32(1 << (form.bits - 8)),
        rows,
        is_dithered,
        dither_seed(frame),
        luma,
        blue,
        red,
        min_rows=max(1, min_rows_per_thread(width) // rows),
    )
    return Planes(luma, blue, red)


@kernel
def _yuv_rows(
    display: Any,
    weights: Any,
    unit: Any,
    rows: Any,
    is_dithered: Any,
    seed: Any,
    luma: Any,
    blue: Any,
    red: Any,
    first: int,
    end: int,
) -> None:
    width = display.shape[1]
    b_sum, r_sum = np.empty(width, np.float32), np.empty(width, np.float32)
    noisy = np.empty(width, np.bool_)
    kr, kb = weights[0], weights[1]
    kg = np.float32(1) - kr - kb
    y_scale, y_low = np.float32(219) * unit, np.float32(16) * unit
    c_scale, c_middle = np.float32(224) * unit / np.float32(rows), np.float32(128) * unit
    half = np.float32(0.5)
    for i in range(first, end):
        b_sum[:], r_sum[:], noisy[:] = 0, 0, False
        for k in range(rows):
            row = i * rows + k
            noise_row = row_seed(seed, row)
            for j in range(width):
                r, g, b = (
                    clamp01(display[row, j, 0]),
                    clamp01(display[row, j, 1]),
                    clamp01(display[row, j, 2]),
                )
                y = kr * r + kg * g + kb * b
                b_sum[j] += (b - y) / (np.float32(2) * (np.float32(1) - kb))
                r_sum[j] += (r - y) / (np.float32(2) * (np.float32(1) - kr))
                value = y_low + y_scale * y + half
                if is_dithered and not (_is_whole(r) and _is_whole(g) and _is_whole(b)):
                    noisy[j] = True
                    value += triangular_noise(noise_row, 3 * j)
                luma[row, j] = np.uint16(value)
        noise_row = row_seed(seed, i * rows)
        for j in range(width // 2):
            at = 2 * j
            left, right = max(at - 1, 0), min(at + 1, width - 1)
            b = np.float32(0.25) * (b_sum[left] + b_sum[right]) + half * b_sum[at]
            r = np.float32(0.25) * (r_sum[left] + r_sum[right]) + half * r_sum[at]
            b_value = c_middle + c_scale * b + half
            r_value = c_middle + c_scale * r + half
            if noisy[left] or noisy[at] or noisy[right]:
                b_value += triangular_noise(noise_row, 3 * at + 1)
                r_value += triangular_noise(noise_row, 3 * at + 2)
            blue[i, j], red[i, j] = np.uint16(b_value), np.uint16(r_value)


@kernel
def _is_whole(value: Any) -> Any:
    code = value * np.float32(255)
    return abs(code - np.float32(np.int32(code + np.float32(0.5)))) < np.float32(WHOLE)
