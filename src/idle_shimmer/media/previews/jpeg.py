"""Pictures of previews as JPEG."""

import cv2

from idle_shimmer.core.picture.encoding import Codes

_USUAL_QUALITY = 88


def jpeg(picture: Codes, quality: int = _USUAL_QUALITY) -> bytes:
    """Return uint8 RGB (H, W, 3) as JPEG."""
    bgr = cv2.cvtColor(picture, cv2.COLOR_RGB2BGR)
    return cv2.imencode(".jpg", bgr, [cv2.IMWRITE_JPEG_QUALITY, quality])[1].tobytes()
