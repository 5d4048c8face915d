"""How the camera moves over a run of frames: shift, zoom and turn, from dense optical flow.

Flow by DIS (Kroeger et al. 2016) on small grey pictures; the similarity transform that most of the
flow agrees with by RANSAC (Fischler and Bolles 1981), so that a subject that moves by itself is left
out. Both by OpenCV.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Codes

_HEIGHT_PX = 180
_GRID_PX = 6
# Flow is unknown where nothing is drawn: the least mean gradient, in codes a pixel, around a point.
_MIN_GRADIENT = 2.0
_MIN_POINTS = 24
_RANSAC_PX = 0.6
_MIN_AGREEING = 0.35

Greys = NDArray[np.uint8]


@dataclass(frozen=True, slots=True)
class CameraMotion:
    """What the picture does from one frame to the next, about the frame's centre.

    ``right`` and ``down`` are in frame heights; ``zoom`` is the natural logarithm of the change of
    scale; ``turn_deg`` is counter-clockwise. The camera itself moves the other way.
    """

    right: float = 0.0
    down: float = 0.0
    zoom: float = 0.0
    turn_deg: float = 0.0

    @property
    def speed(self) -> float:
        """The length of the displacement, in frame heights a frame."""
        return math.hypot(self.right, self.down)


STILL = CameraMotion()


def camera_motion(frames: Sequence[Codes]) -> CameraMotion:
    """Return the median motion over neighbouring frames, uint8 (H, W, 3) of one shape.

    Still where there are fewer than two frames, or no transform that a third of the picture agrees with.
    """
    greys = [small_grey(each, _HEIGHT_PX) for each in frames]
    flow = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
    steps = [
        step
        for one, other in itertools.pairwise(greys)
        if (step := _step(one, np.asarray(flow.calc(one, other, None), np.float32))) is not None
    ]
    if not steps:
        return STILL
    return CameraMotion(*(float(value) for value in np.median(np.array(steps), axis=0)))


def small_grey(frame: Codes, height_px: int) -> Greys:
    """Return a frame as a grey picture ``height_px`` high, in its own aspect."""
    height, width = frame.shape[:2]
    size = (max(1, round(width * height_px / height)), height_px)
    small = cv2.resize(frame, size, interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.cvtColor(small, cv2.COLOR_RGB2GRAY), np.uint8)


def _step(grey: Greys, flow: NDArray[np.float32]) -> tuple[float, float, float, float] | None:
    """Return (right, down, zoom, turn) of one flow field; None where too little agrees."""
    height, width = grey.shape
    rows, columns = np.mgrid[
        _GRID_PX : height - _GRID_PX : _GRID_PX, _GRID_PX : width - _GRID_PX : _GRID_PX
    ]
    drawn = _gradient(grey)[rows, columns] >= _MIN_GRADIENT
    y, x = rows[drawn], columns[drawn]
    if len(x) < _MIN_POINTS:
        return None
    # Places count from the frame's centre, so that the transform's shift is that of the centre.
    source = np.column_stack([x + 0.5 - width / 2, y + 0.5 - height / 2]).astype(np.float32)
    target = source + flow[y, x]
    matrix, inliers = cv2.estimateAffinePartial2D(
        source, target, method=cv2.RANSAC, ransacReprojThreshold=_RANSAC_PX, maxIters=2000
    )
    if matrix is None or inliers is None or inliers.mean() < _MIN_AGREEING:
        return None
    zoom = math.log(math.hypot(matrix[0, 0], matrix[1, 0]))
    turn_deg = -math.degrees(math.atan2(matrix[1, 0], matrix[0, 0]))
    return matrix[0, 2] / height, matrix[1, 2] / height, zoom, turn_deg


def _gradient(grey: Greys) -> NDArray[np.float32]:
    """Return the mean length of the gradient around each pixel, in codes a pixel."""
    across, down = (cv2.Sobel(grey, cv2.CV_32F, *order, scale=1 / 8) for order in ((1, 0), (0, 1)))
    return np.asarray(cv2.blur(cv2.magnitude(across, down), (9, 9)), np.float32)
