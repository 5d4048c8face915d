"""How well any frame before a cut meets any frame after it: in structure, and in movement.

Structure: the frames are laid over each other by the similarity transform that ORB features agree on
(Rublee et al. 2011; RANSAC, Fischler and Bolles 1981), where they do, and compared by the structural
similarity index (Wang et al. 2004). Movement: dense optical flow to the next frame (DIS, Kroeger et al.
2016). All by OpenCV, on small grey pictures.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Codes

_SIZE = (160, 90)
_FEATURES = 300
_RATIO, _MIN_AGREEING, _RANSAC_PX = 0.8, 10, 2.0
# A larger change of scale is another picture, not the same one closer.
_MOST_SCALE = 2.0
_SIGMA_PX = 1.5
# The constants of the index for values of 0…255.
_C1, _C2 = (0.01 * 255) ** 2, (0.03 * 255) ** 2
_STRUCTURE_SHARE = 0.7
# Slower movements, in pixels a frame, are all alike: nothing moves.
_STILL_PX = 0.3

# Below this no pair stands out: the clips show different things (common practice).
ALIKE = 0.45

Map = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Pair:
    """Frame ``outgoing`` meets frame ``incoming``, by their places; ``similarity`` is 0…1."""

    outgoing: int
    incoming: int
    similarity: float


@dataclass(frozen=True)
class _Seen:
    """A frame as it is compared: grey picture, its features, its flow to the next frame."""

    grey: NDArray[np.uint8]
    points: NDArray[np.float32]
    features: NDArray[np.uint8] | None
    flow: NDArray[np.float32]


def similarity_map(outgoing: Sequence[Codes], incoming: Sequence[Codes]) -> Map:
    """Return the similarity of every pair, float32 (outgoing, incoming), 0…1.

    Both are runs of at least two neighbouring frames, uint8 (H, W, 3) of one shape.
    """
    ours, theirs = _seen(outgoing), _seen(incoming)
    found = np.zeros((len(ours), len(theirs)), np.float32)
    for i, one in enumerate(ours):
        for j, other in enumerate(theirs):
            structure, movement = _structure(one, other), _movement(one.flow, other.flow)
            found[i, j] = _STRUCTURE_SHARE * structure + (1 - _STRUCTURE_SHARE) * movement
    return found


def likeness(one: Codes, other: Codes) -> float:
    """Return how alike two frames are in structure, 0…1; uint8 (H, W, 3) of one shape."""
    return _structure(*_seen([one, other]))


def best_pairs(similarity: Map, count: int = 3, apart: int = 2) -> list[Pair]:
    """Return the ``count`` most similar pairs, best first, none within ``apart`` frames of a better one."""
    left, found = similarity.astype(np.float64), list[Pair]()
    while len(found) < count and np.isfinite(left).any():
        i, j = np.unravel_index(int(np.nanargmax(left)), left.shape)
        found.append(Pair(int(i), int(j), float(similarity[i, j])))
        left[max(i - apart, 0) : i + apart + 1, max(j - apart, 0) : j + apart + 1] = np.nan
        if np.isnan(left).all():
            break
    return found


def _seen(frames: Sequence[Codes]) -> list[_Seen]:
    greys = [
        np.asarray(
            cv2.cvtColor(cv2.resize(each, _SIZE, interpolation=cv2.INTER_AREA), cv2.COLOR_RGB2GRAY),
            np.uint8,
        )
        for each in frames
    ]
    flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_FAST)
    finder = cv2.ORB.create(nfeatures=_FEATURES, fastThreshold=8)
    seen = []
    for n, grey in enumerate(greys):
        # The last frame goes on as it came.
        first = min(n, len(greys) - 2)
        moved = np.asarray(flow.calc(greys[first], greys[first + 1], None), np.float32)
        points, features = finder.detectAndCompute(grey, None)
        places = np.array([each.pt for each in points], np.float32).reshape(-1, 2)
        seen.append(_Seen(grey, places, features, moved))
    return seen


def _structure(one: _Seen, other: _Seen) -> float:
    """Return the structural similarity, of the frames as they are or laid over each other."""
    plain = _index(one.grey, other.grey, np.ones_like(one.grey, np.float32))
    matrix = _transform(one, other)
    if matrix is None:
        return plain
    size = one.grey.shape[::-1]
    laid = cv2.warpAffine(other.grey, matrix, size)
    covered = cv2.warpAffine(np.ones_like(other.grey, np.float32), matrix, size)
    # What one picture has and the other has not counts against the pair.
    share = float(covered.mean())
    return max(plain, share * _index(one.grey, np.asarray(laid, np.uint8), covered))


def _transform(one: _Seen, other: _Seen) -> NDArray[np.float64] | None:
    """Return the similarity from ``other`` to ``one``, (2, 3); None where too little agrees."""
    if one.features is None or other.features is None or len(one.features) < 2:
        return None
    matched = cv2.BFMatcher(cv2.NORM_HAMMING).knnMatch(other.features, one.features, k=2)
    kept = [
        pair[0]
        for pair in matched
        if len(pair) == 2 and pair[0].distance < _RATIO * pair[1].distance
    ]
    if len(kept) < _MIN_AGREEING:
        return None
    source = other.points[[each.queryIdx for each in kept]]
    target = one.points[[each.trainIdx for each in kept]]
    matrix, inliers = cv2.estimateAffinePartial2D(
        source, target, method=cv2.RANSAC, ransacReprojThreshold=_RANSAC_PX
    )
    if matrix is None or inliers is None or int(inliers.sum()) < _MIN_AGREEING:
        return None
    scale = float(np.hypot(matrix[0, 0], matrix[1, 0]))
    return np.asarray(matrix) if 1 / _MOST_SCALE <= scale <= _MOST_SCALE else None


def _index(one: NDArray[np.uint8], other: NDArray[np.uint8], weight: Map) -> float:
    """Return the mean structural similarity index, at least 0, weighted by ``weight`` (H, W)."""

    def mean(picture: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.asarray(cv2.GaussianBlur(picture, (0, 0), _SIGMA_PX), np.float32)

    x, y = one.astype(np.float32), other.astype(np.float32)
    mx, my = mean(x), mean(y)
    vx, vy, vxy = mean(x * x) - mx * mx, mean(y * y) - my * my, mean(x * y) - mx * my
    index = ((2 * mx * my + _C1) * (2 * vxy + _C2)) / ((mx**2 + my**2 + _C1) * (vx + vy + _C2))
    return max(0.0, float(np.average(index, weights=weight)))


def _movement(one: NDArray[np.float32], other: NDArray[np.float32]) -> float:
    """Return how alike two flows (H, W, 2) are: 1 the same, 0 opposite or one without the other."""
    apart = float(np.linalg.norm(one - other, axis=2).mean())
    both = np.linalg.norm(one, axis=2).mean() + np.linalg.norm(other, axis=2).mean()
    return max(0.0, 1.0 - apart / max(float(both), _STILL_PX))
