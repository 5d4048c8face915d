"""The colours of a subject without those behind it, and the picture behind it without the subject."""

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Pixels
from idle_shimmer.core.subject.regions import Weight

# Radii of the passes, of the frame's height.
_RADII = (0.08, 0.03, 0.03)
# Colours are taken where they are nearly pure: weights are shares to this power. With the first power, as
# published, soft edges keep much of what lies behind them.
_PURITY = 4
_LEAST = 1e-5
# What is seen through this little of a subject is taken as the background.
_CLEAR = 0.02
_SEEN = 0.5


def foreground(pixels: Pixels, alpha: Weight) -> Pixels:
    """Return the colours of the subject alone, (H, W, 3): right where ``alpha`` is above 0.

    Blur fusion in three passes, after Forte 2021, "Approximate fast foreground colour estimation" (ICIP). Where
    the subject is whole, the picture itself.
    """
    shown = alpha > 0
    if not shown.any():
        return pixels
    height = alpha.shape[0]
    rows, columns = _bounds(shown, round(2 * _RADII[0] * height))
    picture, part = pixels[rows, columns], alpha[rows, columns, None]
    subject = behind = picture
    for share in _RADII:
        radius = max(1, round(share * height))
        subject, behind = _fused(picture, subject, behind, part, radius)
    out = pixels.copy()
    out[rows, columns] = np.where(part == 1, picture, np.maximum(subject, 0))
    return out


def _fused(
    picture: Pixels, subject: Pixels, behind: Pixels, alpha: Pixels, radius: int
) -> tuple[Pixels, Pixels]:
    """Return both colours, smooth over ``radius`` pixels, corrected by what is seen."""
    size = (2 * radius + 1, 2 * radius + 1)

    def mean(values: Pixels, weight: Pixels) -> Pixels:
        total = cv2.blur(values * weight, size)
        return np.asarray(total / (cv2.blur(weight, size)[..., None] + _LEAST), np.float32)

    front = mean(subject, alpha**_PURITY)
    back = mean(behind, (1 - alpha) ** _PURITY)
    missing = picture - alpha * front - (1 - alpha) * back
    return front + alpha * missing, back + (1 - alpha) * missing


def _bounds(shown: NDArray[np.bool_], margin: int) -> tuple[slice, slice]:
    down, across = (np.flatnonzero(shown.any(axis=axis)) for axis in (1, 0))
    return (
        slice(max(0, down[0] - margin), down[-1] + 1 + margin),
        slice(max(0, across[0] - margin), across[-1] + 1 + margin),
    )


def without_subject(pixels: Pixels, alpha: Weight) -> Pixels:
    """Return the picture with the subject filled from what lies around it, smoothly.

    Pull and push over a pyramid: Gortler et al. 1996, "The Lumigraph", section 3.
    """
    known = (alpha <= _CLEAR).astype(np.float32)
    # A pixel next to the edge still has some of the subject's colour.
    known = cv2.erode(known, np.ones((5, 5), np.uint8))
    if known.all():
        return pixels
    if not known.any():
        return np.zeros_like(pixels)
    return _pulled(pixels * known[..., None], known)


def _pulled(weighted: Pixels, known: Weight) -> Pixels:
    """Return colours everywhere, from ``weighted`` ones (colour times how well it is known)."""
    sure = np.minimum(known, 1)[..., None]
    colour = weighted / np.maximum(known, _LEAST)[..., None]
    if min(known.shape) < 2 or float(known.min()) >= _SEEN:
        return np.asarray(colour, np.float32)
    size = (known.shape[1], known.shape[0])
    coarse = _pulled(
        np.asarray(cv2.pyrDown(weighted), np.float32), np.asarray(cv2.pyrDown(known), np.float32)
    )
    filled = cv2.resize(coarse, size, interpolation=cv2.INTER_LINEAR)
    return np.asarray(sure * colour + (1 - sure) * filled, np.float32)
