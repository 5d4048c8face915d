"""Brings HDR pictures to SDR: PQ and HLG with BT.2020 primaries to sRGB with BT.709 primaries.

The reference white of 203 cd/m² becomes SDR white; highlights up to 1000 cd/m² are compressed below it,
hue kept. Sources, from memory: ITU-R BT.2100-2, tables 4 and 5 (PQ and HLG transfer); BT.2408-7, section
2.2 (reference white); BT.2390-10, section 5.4.1 (the compression of highlights); BT.2087-0, section 4
(the primaries); IEC 61966-2-1 (sRGB).
"""

from functools import lru_cache
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.media.read.primaries import BT709_OF_BT2020

Transfer = Literal["PQ", "HLG"]
# The codes of ITU-T H.273, table 3.
TRANSFERS: dict[int, Transfer] = {16: "PQ", 18: "HLG"}
WHITE_NITS, PEAK_NITS = 203.0, 1000.0
_CODES = 65536
_PQ_NITS = 10_000.0
_M1, _M2 = 2610 / 16384, 2523 / 4096 * 128
_C1, _C2, _C3 = 3424 / 4096, 2413 / 4096 * 32, 2392 / 4096 * 32
_HLG_A, _HLG_B, _HLG_C = 0.17883277, 0.28466892, 0.55991073
_HLG_GAMMA = 1.2
_LUMA_BT2020 = np.array([0.2627, 0.6780, 0.0593], np.float32)


def sdr_codes(codes: NDArray[np.uint16], transfer: Transfer) -> NDArray[np.uint16]:
    """Return sRGB codes, uint16 (H, W, 3), of HDR ones: uint16 over the whole range, BT.2020 primaries."""
    light = _light_of_codes(transfer)[codes]
    if transfer == "HLG":
        luma = light @ _LUMA_BT2020
        light *= np.power(luma, np.float32(_HLG_GAMMA - 1))[..., None]
    light = np.maximum(light @ BT709_OF_BT2020.T, 0)
    brightest = light.max(axis=2)
    # Relative to white; beyond the peak everything is white.
    place = np.minimum(brightest * np.float32(WHITE_NITS / PEAK_NITS), 1)
    steps = (place * np.float32(_CODES - 1) + np.float32(0.5)).astype(np.uint16)
    light *= _compression()[steps][..., None]
    shown = (np.minimum(light, 1) * np.float32(_CODES - 1) + np.float32(0.5)).astype(np.uint16)
    found: Any = _code_of_light()[shown]
    return found


def pq_nits(signal: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the luminance in cd/m² of PQ signals 0…1 (BT.2100-2, table 4: EOTF)."""
    root = np.power(signal, 1 / _M2)
    return _PQ_NITS * np.power(np.maximum(root - _C1, 0) / (_C2 - _C3 * root), 1 / _M1)


def pq_signal(nits: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return the PQ signals 0…1 of luminances in cd/m² (the inverse)."""
    power = np.power(np.asarray(nits) / _PQ_NITS, _M1)
    return np.power((_C1 + _C2 * power) / (1 + _C3 * power), _M2)


def hlg_scene(signal: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return scene light 0…1 of HLG signals 0…1 (BT.2100-2, table 5: inverse OETF)."""
    low = signal**2 / 3
    return np.where(signal <= 0.5, low, (np.exp((signal - _HLG_C) / _HLG_A) + _HLG_B) / 12)


def compressed_nits(nits: NDArray[np.float64]) -> NDArray[np.float64]:
    """Return luminances up to ``PEAK_NITS`` compressed below ``WHITE_NITS`` (BT.2390-10, 5.4.1)."""
    peak = float(pq_signal(np.array(PEAK_NITS)))
    e1 = pq_signal(nits) / peak
    most = float(pq_signal(np.array(WHITE_NITS))) / peak
    knee = 1.5 * most - 0.5
    t = np.clip((e1 - knee) / (1 - knee), 0, 1)
    spline = (
        (2 * t**3 - 3 * t**2 + 1) * knee
        + (t**3 - 2 * t**2 + t) * (1 - knee)
        + (-2 * t**3 + 3 * t**2) * most
    )
    return pq_nits(np.where(e1 < knee, e1, spline) * peak)


@lru_cache(maxsize=2)
def _light_of_codes(transfer: Transfer) -> NDArray[np.float32]:
    """Return the light of each code, 1.0 for white; of HLG before its system gamma."""
    signal = np.arange(_CODES) / (_CODES - 1)
    if transfer == "PQ":
        return (pq_nits(signal) / WHITE_NITS).astype(np.float32)
    # The system gamma follows: light to the power of gamma, times the peak.
    scale = (PEAK_NITS / WHITE_NITS) ** (1 / _HLG_GAMMA)
    return (hlg_scene(signal) * scale).astype(np.float32)


@lru_cache(maxsize=1)
def _compression() -> NDArray[np.float32]:
    """Return what light is multiplied by, at luminances from 0 to the peak."""
    nits = np.linspace(0, PEAK_NITS, _CODES)
    gain = compressed_nits(nits) / np.maximum(nits, 1e-6)
    gain[0] = gain[1]
    return gain.astype(np.float32)


@lru_cache(maxsize=1)
def _code_of_light() -> NDArray[np.uint16]:
    light = np.arange(_CODES) / (_CODES - 1)
    low = light * 12.92
    display = np.where(light <= 0.0031308, low, 1.055 * np.power(light, 1 / 2.4) - 0.055)
    return np.rint(display * (_CODES - 1)).astype(np.uint16)
