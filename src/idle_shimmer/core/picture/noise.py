"""Seeded randomness that is a function of whole numbers alone: the same on every machine.

Source of the mixing steps: the 32-bit finaliser of MurmurHash3 (public domain; from memory).
Nothing here depends on a generator's state, so that any frame can be computed by itself.
"""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Pixels

_WORD = np.uint32
_GOLDEN = 0x9E3779B9
_SINES = ((1.0, 0.17), (0.77, 0.39), (0.53, 0.71))


def _mixed(h: NDArray[np.uint32]) -> NDArray[np.uint32]:
    h = h ^ (h >> _WORD(16))
    h = h * _WORD(0x85EBCA6B)
    h = h ^ (h >> _WORD(13))
    h = h * _WORD(0xC2B2AE35)
    return h ^ (h >> _WORD(16))


def hashed(*words: Any) -> NDArray[np.float64]:
    """Return a number in 0…1 (1 excluded) for each combination of whole numbers, broadcast.

    The order of ``words`` matters; negative ones count modulo 2^32.
    """
    state: NDArray[np.uint32] = np.full(1, _GOLDEN, _WORD)
    with np.errstate(over="ignore"):
        for word in words:
            low = np.bitwise_and(np.asarray(word, dtype=np.int64), 0xFFFFFFFF).astype(_WORD)
            state = _mixed(state * _WORD(31) + low + _WORD(_GOLDEN))
    shape = np.broadcast_shapes(*(np.shape(word) for word in words))
    return (state.astype(np.float64) / 2**32).reshape(shape)


def drift(seed: int, channel: int, seconds: float, rate_hz: float) -> float:
    """Return smooth noise in -1…1 at a time: no frequency above ``rate_hz``, of mean 0.

    A sum of sines with seeded phases and slightly seeded frequencies at and below the rate.
    """
    total = 0.0
    for n, (share, shift) in enumerate(_SINES):
        frequency = share * (1 - 0.15 * float(hashed(seed, channel, n, 1)))
        phase = float(hashed(seed, channel, n, 2)) + shift
        total += math.sin(math.tau * (frequency * rate_hz * seconds + phase))
    return total / len(_SINES)


def lattice(seed: int, rows: int, columns: int) -> Pixels:
    """Return independent numbers in -1…1 on a grid, float32 (rows, columns)."""
    i, j = np.arange(rows)[:, None], np.arange(columns)[None, :]
    return (2 * hashed(seed, i, j) - 1).astype(np.float32)


def field(seed: int, shape: tuple[int, int], pitch_px: float) -> Pixels:
    """Return smooth noise in about -1…1, float32 ``shape`` (H, W), from a lattice of ``pitch_px``.

    The lattice is laid out from the frame's centre in units of the pitch, so that a recipe has the
    same noise at every frame size. Between its points: the Catmull-Rom cubic.
    """
    height, width = shape
    y = (np.arange(height) + 0.5 - height / 2) / pitch_px
    x = (np.arange(width) + 0.5 - width / 2) / pitch_px
    reach_y, reach_x = math.ceil(height / 2 / pitch_px) + 2, math.ceil(width / 2 / pitch_px) + 2
    i, j = np.arange(-reach_y, reach_y + 1), np.arange(-reach_x, reach_x + 1)
    points = 2 * hashed(seed, i[:, None], j[None, :]) - 1
    return (_cubic(y, reach_y) @ points @ _cubic(x, reach_x).T).astype(np.float32)


def _cubic(at: NDArray[Any], reach: int) -> NDArray[np.float64]:
    """(points, lattice) weights of Keys's cubic (1981, a = -1/2) around each point."""
    weights = np.zeros((at.size, 2 * reach + 1))
    base = np.floor(at).astype(int)
    f = at - base
    four = (
        ((-0.5 * f + 1) * f - 0.5) * f,
        (1.5 * f - 2.5) * f * f + 1,
        ((-1.5 * f + 2) * f + 0.5) * f,
        (0.5 * f - 0.5) * f * f,
    )
    for k, part in enumerate(four):
        weights[np.arange(at.size), base + reach + k - 1] = part
    return weights
