"""Ways to look at a matte: alone, as a cut-out, laid over its picture, its edge."""

from typing import Literal

import cv2
import numpy as np

from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.subject.regions import Weight

View = Literal["picture", "matte", "cut_out", "overlay", "edge"]
# A chequered ground whose squares are this large, of the height, in these greys.
_SQUARE, _GREYS = 1 / 24, (70, 96)
_DIMMED = 0.28
_LINE = (245, 240, 230)


def seen(picture: Codes, alpha: Weight, view: View) -> Codes:
    """Return a picture, uint8 (H, W, 3), with its matte, float32 (H, W), as ``view`` says."""
    match view:
        case "picture":
            return picture
        case "matte":
            return np.repeat(np.rint(alpha * 255).astype(np.uint8)[..., None], 3, axis=2)
        case "cut_out":
            return _mixed(picture, _chequered(alpha.shape[0], alpha.shape[1]), alpha)
        case "overlay":
            grey = cv2.cvtColor(cv2.cvtColor(picture, cv2.COLOR_RGB2GRAY), cv2.COLOR_GRAY2RGB)
            dimmed = np.asarray(grey * np.float32(_DIMMED), np.uint8)
            return _mixed(picture, dimmed, alpha)
        case "edge":
            return _outlined(picture, alpha)


def _mixed(above: Codes, below: Codes, alpha: Weight) -> Codes:
    shown = below + alpha[..., None] * (above.astype(np.float32) - below)
    return np.asarray(np.rint(shown), np.uint8)


def _chequered(height: int, width: int) -> Codes:
    size = max(2, round(_SQUARE * height))
    odd = (np.arange(height)[:, None] // size + np.arange(width)[None, :] // size) % 2
    grey = np.where(odd, *_GREYS).astype(np.uint8)
    return np.repeat(grey[..., None], 3, axis=2)


def _outlined(picture: Codes, alpha: Weight) -> Codes:
    lines = cv2.findContours((alpha > 0.5).astype(np.uint8), cv2.RETR_LIST, cv2.CHAIN_APPROX_NONE)[
        0
    ]
    dark = cv2.drawContours(picture.copy(), lines, -1, (20, 20, 20), 3, cv2.LINE_AA)
    return np.asarray(cv2.drawContours(dark, lines, -1, _LINE, 1, cv2.LINE_AA), np.uint8)
