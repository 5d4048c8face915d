"""Pictures as luma and chroma planes, for encoders: rounded once.

Source: ITU-R BT.709-6, items 3.2 to 3.5 (matrix, quantisation); ITU-T H.273, 8.3 (full range). Chroma is sampled where the left one of two
luma samples lies (ITU-T H.265, figure 1 of annex E: type 0, the default of decoders), by the weights
1, 2, 1, and between two rows where it has half of them.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import copy, kernel
from idle_shimmer.core.compute.parallel import min_rows_per_thread, parallel_rows
from idle_shimmer.core.picture.dither import WHOLE, dither_seed, row_seed, triangular_noise
from idle_shimmer.core.picture.encoding import Picture
from idle_shimmer.core.picture.transfer import clamp01, display_of_linear_row

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


@dataclass(frozen=True, slots=True)
class LumaCoding:
    """How colours become luma and chroma: the weights of red and blue in luma, and the range of the codes."""

    weights: tuple[float, float] = BT709_WEIGHTS
    is_full: bool = False

    def levels(self, bits: int) -> tuple[np.float32, ...]:
        """Return black, the span of luma, the middle and the span of chroma, and the highest code."""
        unit, top = 1 << (bits - 8), (1 << bits) - 1
        if self.is_full:
            found = (0, top, 128 * unit, top, top)
        else:
            found = (16 * unit, 219 * unit, 128 * unit, 224 * unit, top)
        return tuple(np.float32(each) for each in found)


_USUAL_CODING = LumaCoding()


def yuv_planes(
    picture: Picture, form: YuvForm, frame: int, coding: LumaCoding = _USUAL_CODING
) -> Planes:
    """Return luma (H, W) and both chroma planes, W and, in 4:2:0, H even; uint8 or uint16.

    A computed picture is dithered where the form has 8 bits, with the noise of frame number ``frame``;
    pixels that are whole codes of 8 bits are only rounded.
    """
    is_linear = picture.encoding == "linear"
    given = picture if is_linear else picture.to("display")
    height, width = given.pixels.shape[:2]
    rows = 2 if form.halves_rows else 1
    dtype = np.uint8 if form.bits == 8 else np.uint16
    luma = np.empty((height, width), dtype)
    blue, red = (np.empty((height // rows, width // 2), dtype) for _ in range(2))
    is_dithered = form.bits == 8 and picture.encoding in ("display", "linear")
    parallel_rows(
        _yuv_rows,
        height // rows,
        np.ascontiguousarray(given.pixels).reshape(height, width * 3),
        (is_linear, is_dithered, dither_seed(frame)),
        (tuple(np.float32(each) for each in coding.weights), coding.levels(form.bits)),
        (luma, blue, red),
        min_rows=max(1, min_rows_per_thread(width) // rows),
    )
    return Planes(luma, blue, red)


@kernel
def _yuv_rows(source: Any, how: Any, scales: Any, planes: Any, first: int, end: int) -> None:
    luma, blue, red = planes
    is_linear, is_dithered, seed = how
    weights, levels = scales
    rows, width = luma.shape[0] // blue.shape[0], luma.shape[1]
    line, colours = np.empty(width * 3, np.float32), np.empty((3, width), np.float32)
    bright, sums = np.empty(width, np.float32), np.empty((2, width + 1), np.float32)
    computed, noise = np.empty(width + 1, np.float32), np.empty(width, np.float32)
    for i in range(first, end):
        sums[:], computed[:] = 0, 0
        for k in range(rows):
            row = i * rows + k
            if is_linear:
                display_of_linear_row(source[row], line)
            else:
                copy(source[row], line)
            _part(line, colours)
            _weigh(colours, weights, bright)
            _add_differences(colours, bright, weights, sums[0][1:], sums[1][1:])
            noise[:] = 0
            if is_dithered:
                _put_noise(colours, row_seed(seed, row), noise, computed[1:])
            _put_luma(bright, levels, noise, luma[row])
        share = np.float32(1) / np.float32(rows)
        _put_chroma(sums[0], (share, levels), computed, (row_seed(seed, i * rows), 1), blue[i])
        _put_chroma(sums[1], (share, levels), computed, (row_seed(seed, i * rows), 2), red[i])


# Loops over one row of one channel, so that they are vectorised.
@kernel
def _part(line: Any, colours: Any) -> None:
    red, green, blue = colours[0], colours[1], colours[2]
    for j in range(red.shape[0]):
        red[j], green[j] = clamp01(line[3 * j]), clamp01(line[3 * j + 1])
        blue[j] = clamp01(line[3 * j + 2])


@kernel
def _weigh(colours: Any, weights: Any, bright: Any) -> None:
    of_red, of_blue = weights
    of_green = np.float32(1) - of_red - of_blue
    red, green, blue = colours[0], colours[1], colours[2]
    for j in range(bright.shape[0]):
        bright[j] = of_red * red[j] + of_green * green[j] + of_blue * blue[j]


@kernel
def _add_differences(
    colours: Any, bright: Any, weights: Any, more_blue: Any, more_red: Any
) -> None:
    """Add what blue and red have beyond luma, scaled to -0.5…0.5."""
    of_red = np.float32(0.5) / (np.float32(1) - weights[0])
    of_blue = np.float32(0.5) / (np.float32(1) - weights[1])
    red, blue = colours[0], colours[2]
    for j in range(bright.shape[0]):
        more_blue[j] += (blue[j] - bright[j]) * of_blue
        more_red[j] += (red[j] - bright[j]) * of_red


@kernel
def _put_noise(colours: Any, seed: Any, noise: Any, computed: Any) -> None:
    """Set the noise of luma, and mark in ``computed`` pixels that are not whole codes of 8 bits."""
    red, green, blue = colours[0], colours[1], colours[2]
    for j in range(noise.shape[0]):
        whole = _is_whole(red[j]) & _is_whole(green[j]) & _is_whole(blue[j])
        share = np.float32(0) if whole else np.float32(1)
        computed[j] = max(computed[j], share)
        noise[j] = share * triangular_noise(seed, 3 * j)


@kernel
def _put_luma(bright: Any, levels: Any, noise: Any, out: Any) -> None:
    low, scale, top = levels[0] + np.float32(0.5), levels[1], levels[4]
    for j in range(out.shape[0]):
        out[j] = np.int32(min(low + scale * bright[j] + noise[j], top))


@kernel
def _put_chroma(sums: Any, scales: Any, computed: Any, noise: Any, out: Any) -> None:
    """Write a plane's row from the sums over its rows of luma; ``noise`` is (row seed, channel).

    ``sums`` and ``computed`` have a place before the first pixel, which is set here to what that has.
    """
    share, levels = scales
    scale, middle, top = levels[3] * share, levels[2] + np.float32(0.5), levels[4]
    sums[0], computed[0] = sums[1], computed[1]
    # Two pixels at a time first: the pairs of pairs are those of a sample.
    pairs, shares = np.empty(sums.shape[0] - 1, np.float32), np.empty(out.shape[0], np.float32)
    for j in range(pairs.shape[0]):
        pairs[j] = np.float32(0.25) * (sums[j] + sums[j + 1])
    dithered = np.float32(0)
    for j in range(out.shape[0]):
        shares[j] = max(computed[2 * j], max(computed[2 * j + 1], computed[2 * j + 2]))
        dithered = max(dithered, shares[j])
    if dithered > 0:
        seed, channel = noise
        for j in range(out.shape[0]):
            shares[j] *= triangular_noise(seed, 6 * j + channel)
    for j in range(out.shape[0]):
        value = pairs[2 * j] + pairs[2 * j + 1]
        out[j] = np.int32(min(middle + scale * value + shares[j], top))


@kernel
def _is_whole(value: Any) -> Any:
    code = value * np.float32(255)
    return abs(code - np.float32(np.int32(code + np.float32(0.5)))) < np.float32(WHOLE)
