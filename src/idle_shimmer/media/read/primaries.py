"""Brings SDR pictures of BT.2020 primaries to those of BT.709; colours outside of them are clipped.

Sources, from memory: ITU-R BT.2087-0, section 4 (the matrix, its inverse direction from BT.2407-0, section 2);
BT.709-6 and BT.2020-2, tables 4 (one transfer function, undone before and done after).
"""

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import DeepCodes

BT709_OF_BT2020 = np.array(
    [[1.6605, -0.5876, -0.0728], [-0.1246, 1.1329, -0.0083], [-0.0182, -0.1006, 1.1187]], np.float32
)
_CODES = 65536
_ALPHA, _BETA = 1.09929682680944, 0.018053968510807


def bt709_codes(codes: DeepCodes) -> DeepCodes:
    """Return codes of BT.709 primaries of those of BT.2020, both uint16 (H, W, 3) over the whole range."""
    light = _light_of_code()[codes] @ BT709_OF_BT2020.T
    steps = np.clip(light, 0, 1) * np.float32(_CODES - 1) + np.float32(0.5)
    found: Any = _code_of_light()[steps.astype(np.uint16)]
    return found


@lru_cache(maxsize=1)
def _light_of_code() -> NDArray[np.float32]:
    signal = np.arange(_CODES) / (_CODES - 1)
    high = np.power((signal + _ALPHA - 1) / _ALPHA, 1 / 0.45)
    return np.where(signal < 4.5 * _BETA, signal / 4.5, high).astype(np.float32)


@lru_cache(maxsize=1)
def _code_of_light() -> NDArray[np.uint16]:
    light = np.arange(_CODES) / (_CODES - 1)
    signal = np.where(light < _BETA, 4.5 * light, _ALPHA * np.power(light, 0.45) - (_ALPHA - 1))
    return np.rint(signal * (_CODES - 1)).astype(np.uint16)
