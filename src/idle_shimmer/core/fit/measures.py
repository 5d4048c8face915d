"""What is measured of a cut: camera, brightness, sharpness and weight of both clips, their likeness."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.fit.camera import STILL, CameraMotion, camera_motion, small_grey
from idle_shimmer.core.fit.frame_pairs import likeness
from idle_shimmer.core.picture.encoding import Codes

# Spectral residual, as published: 64 pixels, a mean over 3, a Gaussian of 2.5 pixels.
_SALIENCY_PX = 64
_RESIDUAL_PX = 3
_SALIENCY_SIGMA_PX = 2.5
# The share of the picture that is taken for its weight.
_WEIGHTY = 0.1
_SHARPNESS_HEIGHT_PX = 180
_SHARPNESS_BOX_PX = 11


@dataclass(frozen=True, slots=True)
class ClipMeasures:
    """One clip next to the cut.

    ``brightness`` is the mean code, 0…1; ``softness`` 0 sharp … 1 blurred; ``weight`` the point, in
    0…1 of the frame, y down, about which what catches the eye lies.
    """

    camera: CameraMotion = STILL
    brightness: float = 0.5
    softness: float = 0.0
    weight: tuple[float, float] = (0.5, 0.5)


@dataclass(frozen=True, slots=True)
class CutMeasures:
    """Both clips, how alike the frames at the cut are (0…1), and the beats in an edit's minute."""

    outgoing: ClipMeasures = field(default_factory=ClipMeasures)
    incoming: ClipMeasures = field(default_factory=ClipMeasures)
    likeness: float = 0.0
    beats_per_minute: float | None = None


def measure_cut(
    outgoing: Sequence[Codes], incoming: Sequence[Codes], beats_per_minute: float | None = None
) -> CutMeasures:
    """Measure the frames up to the cut and those from it, uint8 (H, W, 3), at least one on each side."""
    return CutMeasures(
        _measure_clip(outgoing, outgoing[-1]),
        _measure_clip(incoming, incoming[0]),
        likeness(outgoing[-1], incoming[0]),
        beats_per_minute,
    )


def _measure_clip(frames: Sequence[Codes], at_cut: Codes) -> ClipMeasures:
    grey = small_grey(at_cut, _SHARPNESS_HEIGHT_PX)
    return ClipMeasures(
        camera_motion(frames), float(grey.mean()) / 255, _softness(grey), _weight(at_cut)
    )


def _softness(grey: NDArray[np.uint8]) -> float:
    """Return how blurred a picture is, 0…1 (Crete et al. 2007): how little a blur takes from it."""
    picture = grey.astype(np.float32)
    found = []
    for axis, box in ((0, (1, _SHARPNESS_BOX_PX)), (1, (_SHARPNESS_BOX_PX, 1))):
        own = np.abs(np.diff(picture, axis=axis))
        blurred = np.abs(np.diff(cv2.blur(picture, box), axis=axis))
        lost = np.maximum(own - blurred, 0).sum()
        found.append(1 - float(lost) / max(float(own.sum()), 1e-6))
    return max(found)


def _weight(frame: Codes) -> tuple[float, float]:
    """Return the middle of what stands out, by the spectral residual (Hou and Zhang 2007)."""
    size = (_SALIENCY_PX, _SALIENCY_PX)
    small = cv2.cvtColor(cv2.resize(frame, size, interpolation=cv2.INTER_AREA), cv2.COLOR_RGB2GRAY)
    spectrum = np.fft.fft2(small.astype(np.float64))
    amplitude = np.log(np.abs(spectrum) + 1e-9)
    residual = amplitude - cv2.blur(amplitude, (_RESIDUAL_PX, _RESIDUAL_PX))
    standing_out = np.abs(np.fft.ifft2(np.exp(residual + 1j * np.angle(spectrum)))) ** 2
    smooth = cv2.GaussianBlur(standing_out, (0, 0), _SALIENCY_SIGMA_PX)
    heavy = np.where(smooth >= np.quantile(smooth, 1 - _WEIGHTY), smooth, 0.0)
    total = float(heavy.sum())
    if total <= 0 or small.std() < 1:
        return 0.5, 0.5
    places = (np.arange(_SALIENCY_PX) + 0.5) / _SALIENCY_PX
    return float(heavy.sum(axis=0) @ places / total), float(heavy.sum(axis=1) @ places / total)
