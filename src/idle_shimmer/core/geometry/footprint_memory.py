"""The memory for the footprints of a row of points: what lies where.

The compiler turns a loop into vector instructions only where it knows that the arrays in it do not
overlap: so the members of a row's footprints are parts of one array, at constant places.
"""

from typing import Any, NamedTuple

import numpy as np

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.geometry.inverse_map import BLOCK_COLUMNS

# Parts of the memory for a row's footprints, each with an entry a point: the sides, from left to right
# and from above to below; their lengths; what turns the sides into pixels of the level; the way from one
# sample to the next along each side, there, and as a share of the side; what a sample weighs; where the
# first sample lies between taps.
_LENGTH_PARTS = 17
_LENGTHS = range(0, _LENGTH_PARTS * BLOCK_COLUMNS, BLOCK_COLUMNS)
AX, AY, BX, BY, LENGTH_A, LENGTH_B, SCALE_X, SCALE_Y = _LENGTHS[:8]
STEP_AX, STEP_AY, STEP_BX, STEP_BY, SPACING_A, SPACING_B = _LENGTHS[8:14]
SHARE, FRACTION_X, FRACTION_Y = _LENGTHS[14:]
# Where the first sample lies on its level, counted from the first pixel's centre.
FIRST_X, FIRST_Y = range(0, 2 * BLOCK_COLUMNS, BLOCK_COLUMNS)
# The level, how many samples there are along each side, whether all their taps lie inside the level, the
# first float of the first sample's taps.
LEVEL, COUNT_A, COUNT_B, IS_INSIDE, FIRST_TAP = range(0, 5 * BLOCK_COLUMNS, BLOCK_COLUMNS)
# No footprint is sampled there.
NO_LEVEL = -1
# Footprints of so many neighbours are sampled together: their grids are of about the same size. For one
# sample of each: its weight, where it lies between taps horizontally, the weights of the four rows of taps.
RUN = 64
SHOWN, ACROSS, TAP_A, TAP_B, TAP_C, TAP_D = range(0, 6 * RUN, RUN)


class Footprints(NamedTuple):
    """Memory for the footprints of a row of points (lengths, firsts, counts) and for a run of samples.

    ``floats`` are the first floats of their taps.
    """

    lengths: Any
    firsts: Any
    counts: Any
    weights: Any
    floats: Any


@kernel
def footprints_of_row() -> Any:
    """Return uninitialised memory."""
    return Footprints(
        np.empty(_LENGTH_PARTS * BLOCK_COLUMNS, np.float32),
        np.empty(2 * BLOCK_COLUMNS),
        np.empty(5 * BLOCK_COLUMNS, np.int32),
        np.empty(6 * RUN, np.float32),
        np.empty(RUN, np.int32),
    )
