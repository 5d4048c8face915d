"""A picture between two others, along the optical flow between them.

Flow: dense inverse search (Kroeger et al. 2016, DIS), by OpenCV, on grey pictures of at most 320
pixels, so that a preview moves like its render. It is trusted where the flows in both directions
agree (forward-backward check, common practice). Each picture is moved along its own flow by its
share, then both are dissolved as display values: what has no flow dissolves in place.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Codes, Picture, Pixels

_FLOW_BOX_PX = 320
_LEAST_SIDE_PX = 32
# A flow back that misses by so many pixels (of the small pictures) halves the trust.
_MISS_PX = 1.0
_TRUST_SIGMA_PX = 3.0

Flow = NDArray[np.float32]


def interpolate(one: Picture, other: Picture, share: float) -> Picture:
    """Return the picture at ``share`` (0…1) of the way from ``one`` to ``other``, both of one size."""
    there, back = _flows(one.to("codes").pixels, other.to("codes").pixels)
    moved = (
        _moved(one.to("display").pixels, there, share),
        _moved(other.to("display").pixels, back, 1 - share),
    )
    return Picture(cv2.addWeighted(moved[0], 1 - share, moved[1], share, 0.0), "display")


def disagreement(one: Codes, other: Codes) -> float:
    """Return the share of the frame, 0…1, where the flows between two pictures do not lead back.

    Beyond the frame nothing can lead back: what moves out of it counts.
    """
    height, width = one.shape[:2]
    shrink = min(1.0, _FLOW_BOX_PX / max(width, height))
    size = max(_LEAST_SIDE_PX, round(width * shrink)), max(_LEAST_SIDE_PX, round(height * shrink))
    there, back = _small_flows(one, other, size)
    return float(np.mean(_missed_px(there, back) > _MISS_PX))


def _small_flows(one: Codes, other: Codes, size: tuple[int, int]) -> tuple[Flow, Flow]:
    """Return the flows there and back between grey pictures of ``size``."""
    first, second = (
        cv2.resize(cv2.cvtColor(each, cv2.COLOR_RGB2GRAY), size, interpolation=cv2.INTER_AREA)
        for each in (one, other)
    )
    finder = cv2.DISOpticalFlow.create(cv2.DISOPTICAL_FLOW_PRESET_MEDIUM)
    return finder.calc(first, second, None), finder.calc(second, first, None)


def _flows(one: Codes, other: Codes) -> tuple[Flow, Flow]:
    """Return where each pixel of one picture lies in the other, in pixels (H, W, 2), both ways."""
    height, width = one.shape[:2]
    shrink = min(1.0, _FLOW_BOX_PX / max(width, height))
    size = (
        max(_LEAST_SIDE_PX, round(width * shrink)),
        max(_LEAST_SIDE_PX, round(height * shrink)),
    )
    grow = np.array([width / size[0], height / size[1]], np.float32)
    flows = _small_flows(one, other, size)
    trusted = _trusted(*flows), _trusted(*flows[::-1])
    there, back = (
        cv2.resize(flow, (width, height), interpolation=cv2.INTER_LINEAR) * grow for flow in trusted
    )
    return there, back


def _trusted(flow: Flow, back: Flow) -> Flow:
    """Return the flow, weakened where the flow back does not lead to where it came from."""
    missed = _missed_px(flow, back)
    trust = cv2.GaussianBlur(np.exp2(-((missed / _MISS_PX) ** 2)), (0, 0), _TRUST_SIGMA_PX)
    return np.asarray(flow * trust[..., None], np.float32)


def _missed_px(flow: Flow, back: Flow) -> NDArray[np.float32]:
    """Return how far from each pixel one ends that goes along the flow and back, (H, W)."""
    height, width = flow.shape[:2]
    x = np.arange(width, dtype=np.float32)[None, :] + flow[..., 0]
    y = np.arange(height, dtype=np.float32)[:, None] + flow[..., 1]
    returned = cv2.remap(back, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.asarray(np.linalg.norm(flow + returned, axis=2), np.float32)


def _moved(pixels: Pixels, flow: Flow, share: float) -> Pixels:
    """Return the picture with every pixel moved by ``share`` of ``flow``.

    The flow is smooth, so it is read where a pixel arrives instead of where it started.
    """
    height, width = pixels.shape[:2]
    x = np.arange(width, dtype=np.float32)[None, :] - np.float32(share) * flow[..., 0]
    y = np.arange(height, dtype=np.float32)[:, None] - np.float32(share) * flow[..., 1]
    return np.asarray(
        cv2.remap(pixels, x, y, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT), np.float32
    )
