"""Carries a matte from frame to frame: along the optical flow, and divided anew on each frame.

Flow by DIS (Kroeger et al. 2016, "Fast optical flow using dense inverse search"), by OpenCV.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.subject.segment import Alpha, ColourModels, divide, likely, soft_edge
from idle_shimmer.core.subject.strokes import (
    BACKGROUND,
    MAYBE_BACKGROUND,
    MAYBE_SUBJECT,
    SUBJECT,
    Labels,
    Strokes,
)

# Frames are divided at this height: larger ones gain nothing that the soft edge does not find.
WORKING_HEIGHT_PX = 360
_FIRST_ROUNDS, _ROUNDS = 5, 1
# How far from the carried edge the new one is looked for, of the height.
_BAND = 0.03
Mask = NDArray[np.bool_]


@dataclass
class _Seen:
    """The newest frame of a run: its picture and grey picture, its mask, the colours learned."""

    picture: Codes
    grey: NDArray[np.uint8]
    mask: Mask
    models: ColourModels


def mattes(
    frame: Callable[[int], Codes], strokes: Sequence[Strokes], first: int, last: int
) -> Iterator[tuple[int, Alpha]]:
    """Yield (frame, alpha) of frames ``first`` … ``last``, in no order; alpha is float32 (H, W), 0…1.

    ``frame`` returns a frame by its number, uint8 (H, W, 3). Each frame is reached from the nearest one
    with strokes, so that a correction holds both ways until the next.
    """
    numbers = [each.frame for each in strokes]
    for each in strokes:
        nearest = [
            number
            for number in range(min(first, each.frame), max(last, each.frame) + 1)
            if _nearest(numbers, number) == each.frame
        ]
        start = _start(frame(each.frame), each)
        if first <= each.frame <= last:
            yield each.frame, _full(frame(each.frame), start.mask)
        ahead = range(each.frame + 1, max([each.frame, *nearest]) + 1)
        behind = range(each.frame - 1, min([each.frame, *nearest]) - 1, -1)
        for run in (ahead, behind):
            seen = _Seen(start.picture, start.grey, start.mask, start.models.copy())
            for number in run:
                picture = frame(number)
                seen = _carried(seen, picture)
                if first <= number <= last:
                    yield number, _full(picture, seen.mask)


def _nearest(numbers: Sequence[int], number: int) -> int:
    return min(numbers, key=lambda each: (abs(each - number), each))


def _small(picture: Codes) -> Codes:
    height, width = picture.shape[:2]
    if height <= WORKING_HEIGHT_PX:
        return picture
    size = (round(width * WORKING_HEIGHT_PX / height), WORKING_HEIGHT_PX)
    return np.asarray(cv2.resize(picture, size, interpolation=cv2.INTER_AREA), np.uint8)


def _grey(picture: Codes) -> NDArray[np.uint8]:
    return np.asarray(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), np.uint8)


def _start(picture: Codes, strokes: Strokes) -> _Seen:
    """Return a frame that was drawn on, divided."""
    small, models = _small(picture), ColourModels()
    labels = likely(small, strokes.first_labels((small.shape[1], small.shape[0])))
    mask = divide(small, labels, models, _FIRST_ROUNDS)
    mask = _without_holes(_connected(mask, labels == SUBJECT), strokes.drawn_as(labels, BACKGROUND))
    # As smooth as what is carried on from it: neighbouring frames differ by nothing else.
    return _Seen(small, _grey(small), _smooth(mask), models)


def _carried(seen: _Seen, picture: Codes) -> _Seen:
    """Return the next frame, divided with the mask of the one before carried along."""
    small = _small(picture)
    grey = _grey(small)
    mask = _moved(seen, grey)
    labels = _around(mask)
    found = divide(small, labels, seen.models, _ROUNDS)
    return _Seen(small, grey, _smooth(found), seen.models)


def _moved(seen: _Seen, grey: NDArray[np.uint8]) -> Mask:
    """Return the mask where the flow carries it: each pixel looks where it was a frame before."""
    flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
    back = flow.calc(grey, seen.grey, None)
    height, width = grey.shape
    x, y = np.meshgrid(np.arange(width, dtype=np.float32), np.arange(height, dtype=np.float32))
    moved = cv2.remap(
        seen.mask.astype(np.float32),
        x + back[..., 0],
        y + back[..., 1],
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    return np.asarray(moved > 0.5)


def _around(mask: Mask) -> Labels:
    """Return what is sure inside and outside a band about the edge of a mask, and likely within it."""
    reach = max(2.0, _BAND * mask.shape[0])
    flat = mask.astype(np.uint8)
    inside = cv2.distanceTransform(flat, cv2.DIST_L2, 3)
    outside = cv2.distanceTransform(1 - flat, cv2.DIST_L2, 3)
    labels = np.where(mask, MAYBE_SUBJECT, MAYBE_BACKGROUND).astype(np.uint8)
    labels[inside > reach] = SUBJECT
    labels[outside > reach] = BACKGROUND
    return labels


def _connected(mask: Mask, seeds: Mask) -> Mask:
    """Return the parts of a mask that strokes touch; all of it where there are none."""
    if not seeds.any():
        return mask
    count, parts = cv2.connectedComponents(mask.astype(np.uint8))
    touched = np.unique(parts[seeds & mask])
    kept = np.zeros(count, bool)
    kept[touched[touched > 0]] = True
    return np.asarray(kept[parts])


def _without_holes(mask: Mask, removed: Mask) -> Mask:
    """Return a mask without the holes that no stroke has made."""
    _, parts = cv2.connectedComponents((~mask).astype(np.uint8))
    edge = np.concatenate([parts[0], parts[-1], parts[:, 0], parts[:, -1]])
    kept = np.union1d(np.unique(edge), np.unique(parts[removed & ~mask]))
    return np.asarray(mask | ~np.isin(parts, kept))


def _smooth(mask: Mask) -> Mask:
    """Return a mask without specks and pin holes."""
    return np.asarray(cv2.medianBlur(mask.astype(np.uint8) * 255, 5) > 127)


def _full(picture: Codes, mask: Mask) -> Alpha:
    """Return the alpha of a frame at its own size, from the mask at the working size."""
    height, width = picture.shape[:2]
    large = cv2.resize(mask.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR)
    return soft_edge(picture, large > 0.5)
