"""Proposes how to frame and grade one clip so that it meets another without a jump.

Placement: SIFT features (Lowe 2004) matched by the ratio test (0.75, common practice), then a
similarity by RANSAC (Fischler and Bolles 1981), both by OpenCV. Colours: mean and spread of each
channel (Reinhard et al. 2001, on display values instead of lαβ).
"""

import math
from dataclasses import dataclass

import cv2
import numpy as np

from idle_shimmer.core.framing import Framing
from idle_shimmer.core.picture.encoding import Codes

_LONGEST_SIDE = 960
_RATIO = 0.75
_MIN_MATCHES = 12
_RANSAC_PX = 3.0
_MIN_DEVIATION = 0.01


@dataclass(frozen=True)
class Match:
    """A proposal, and how many features of both pictures agree with it."""

    framing: Framing
    agreeing: int


def match_placement(still: Codes, moved: Codes) -> Match | None:
    """Return the framing that lays ``moved`` over ``still``, both uint8 (H, W, 3) of one size.

    None where fewer than 12 features agree, or the clip would be scaled by more than 4.
    """
    height, width = still.shape[:2]
    shrink = min(1.0, _LONGEST_SIDE / max(width, height))
    size = (round(width * shrink), round(height * shrink))
    source, target = _matched_points(*(_grey(each, size) for each in (moved, still)))
    if len(source) < _MIN_MATCHES:
        return None
    matrix, inliers = cv2.estimateAffinePartial2D(
        source, target, method=cv2.RANSAC, ransacReprojThreshold=_RANSAC_PX, maxIters=4000
    )
    agreeing = 0 if inliers is None else int(inliers.sum())
    if matrix is None or agreeing < _MIN_MATCHES:
        return None
    scale = math.hypot(matrix[0, 0], matrix[1, 0])
    if not 0.25 <= scale <= 4:
        return None
    middle = np.array([size[0] / 2, size[1] / 2])
    # Feature points count from the first pixel's centre.
    shift = matrix[:, :2] @ (middle - 0.5) + matrix[:, 2] + 0.5 - middle
    turn = -math.degrees(math.atan2(matrix[1, 0], matrix[0, 0]))
    framing = Framing(
        scale=round(scale, 4),
        x=round(_clamp(shift[0] / size[0]), 5),
        y=round(_clamp(shift[1] / size[1]), 5),
        turn=round(turn, 3),
    )
    return Match(framing, agreeing)


def match_grade(still: Codes, moved: Codes) -> Framing:
    """Return the gain and offset that give ``moved`` the mean and deviation of ``still``, by channel."""
    wanted, had = (each.reshape(-1, 3).astype(np.float64) / 255 for each in (still, moved))
    gain = wanted.std(axis=0) / np.maximum(had.std(axis=0), _MIN_DEVIATION)
    gain = np.clip(gain, 0.1, 10)
    offset = np.clip(wanted.mean(axis=0) - had.mean(axis=0) * gain, -1, 1)
    rounded = [tuple(round(float(part), 4) for part in each) for each in (gain, offset)]
    return Framing(gain=rounded[0], offset=rounded[1])


def _grey(codes: Codes, size: tuple[int, int]) -> Codes:
    small = cv2.resize(codes, size, interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.cvtColor(small, cv2.COLOR_RGB2GRAY), np.uint8)


def _matched_points(moved: Codes, still: Codes) -> tuple[np.ndarray, np.ndarray]:
    """Return points of both pictures whose surroundings look alike, and like nothing else there."""
    finder = cv2.SIFT.create(nfeatures=2000)
    (from_points, from_features), (to_points, to_features) = (
        finder.detectAndCompute(each, None) for each in (moved, still)
    )
    none = np.zeros((0, 2), np.float32)
    if from_features is None or to_features is None or len(to_features) < 2:
        return none, none
    pairs = cv2.BFMatcher(cv2.NORM_L2).knnMatch(from_features, to_features, k=2)
    kept = [one for one, other in pairs if one.distance < _RATIO * other.distance]
    if not kept:
        return none, none
    return (
        np.array([from_points[each.queryIdx].pt for each in kept], np.float32),
        np.array([to_points[each.trainIdx].pt for each in kept], np.float32),
    )


def _clamp(shift: float) -> float:
    return float(min(max(shift, -2.0), 2.0))
