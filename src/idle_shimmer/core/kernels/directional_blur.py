"""The average along a centred line, at any angle, at a cost that does not grow with its length.

Pictures are float32 (H, W, 3), in any encoding, without clamping; beyond the frame lies the mirrored
picture (half-sample symmetric). Angles are degrees counter-clockwise as seen, 0 horizontal. The line
is the continuous box of full length L; between pixels the picture is interpolated linearly, as in an
average of many shifted copies.

Short lines are convolved tap by tap, long ones are running sums along parallel lines
(``sheared_box``).
"""

import math

import cv2
import numpy as np

from idle_shimmer.core.kernels.sheared_box import average_along_lines
from idle_shimmer.core.picture.encoding import Pixels

MAX_TAPS_LENGTH_PX = 6.0
_TAP_SUBSTEPS = 64
# At 45° rounding must not decide whether lines are followed by rows or by columns.
_DIAGONAL_SLACK = 1e-9


def directional_blur(pixels: Pixels, *, length_px: float, angle_deg: float) -> Pixels:
    """Return the average over a line of ``length_px`` (at least 0) at ``angle_deg``; a new array."""
    run, rise = _direction(angle_deg)
    if length_px <= MAX_TAPS_LENGTH_PX:
        return _convolve(pixels, length_px * run, length_px * rise)
    by_columns = abs(rise) <= abs(run) - _DIAGONAL_SLACK
    ahead, sideways = (run, rise) if by_columns else (rise, run)
    extent, slope = length_px * abs(ahead), sideways / ahead
    return average_along_lines(pixels, extent=extent, slope=slope, by_columns=by_columns)


def _direction(angle_deg: float) -> tuple[float, float]:
    """Return (columns, rows) along the line per pixel of length, exact at the axes."""
    quarters = (angle_deg % 180.0) / 90
    if quarters in (0.0, 1.0):
        return (1.0, 0.0) if quarters == 0 else (0.0, 1.0)
    angle = math.radians(angle_deg)
    return math.cos(angle), -math.sin(angle)


def _convolve(pixels: Pixels, run_px: float, rise_px: float) -> Pixels:
    """Convolve with the line drawn as bilinear taps: the exact average, for short lines."""
    reach_x, reach_y = math.ceil(abs(run_px) / 2) + 1, math.ceil(abs(rise_px) / 2) + 1
    taps = np.zeros((2 * reach_y + 1, 2 * reach_x + 1))
    for at in (np.arange(_TAP_SUBSTEPS) + 0.5) / _TAP_SUBSTEPS - 0.5:
        x, y = reach_x + run_px * at, reach_y + rise_px * at
        j, i = math.floor(x), math.floor(y)
        across, down = np.array([1 - (x - j), x - j]), np.array([1 - (y - i), y - i])
        taps[i : i + 2, j : j + 2] += np.outer(down, across)
    rows, columns = np.flatnonzero(taps.any(axis=1)), np.flatnonzero(taps.any(axis=0))
    reach = max(reach_x - columns[0], 0), max(reach_y - rows[0], 0)
    taps = taps[
        reach_y - reach[1] : reach_y + reach[1] + 1, reach_x - reach[0] : reach_x + reach[0] + 1
    ]
    return cv2.filter2D(
        pixels, cv2.CV_32F, (taps / _TAP_SUBSTEPS).astype(np.float32), borderType=cv2.BORDER_REFLECT
    )
