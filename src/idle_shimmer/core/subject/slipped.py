"""A clip whose background is taken from another time, with its subject where it is."""

from collections.abc import Sequence

import numpy as np

from idle_shimmer.core.framing import FramedPicture
from idle_shimmer.core.kernels.optical_flow import interpolate
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Picture
from idle_shimmer.core.subject.foreground import foreground, without_subject
from idle_shimmer.core.subject.regions import Weight

_Source = Codes | DeepCodes | Picture | FramedPicture


def over_slipped(
    shown: _Source,
    matte: Weight | None,
    behind: Sequence[tuple[_Source, Weight | None]],
    share: float,
) -> Picture | FramedPicture:
    """Return the subject of ``shown`` over the background of other frames, each with its matte.

    With two of them the background is ``share`` (0…1) of the way from the first to the second, along
    the optical flow. Without a matte all is background. All lie in one place.
    """
    plates = [_background(_unplaced(source), each) for source, each in behind]
    plate = plates[0] if len(plates) == 1 else interpolate(plates[0], plates[1], share)
    made = plate if matte is None else _over(_unplaced(shown), matte, plate)
    return shown.with_picture(made) if isinstance(shown, FramedPicture) else made


def _unplaced(source: _Source) -> Picture:
    if isinstance(source, FramedPicture):
        return source.picture
    return source if isinstance(source, Picture) else Picture.of_codes(source)


def _background(picture: Picture, matte: Weight | None) -> Picture:
    if matte is None:
        return picture
    return Picture(without_subject(picture.to("linear").pixels, matte), "linear")


def _over(picture: Picture, matte: Weight, plate: Picture) -> Picture:
    """Return the subject of ``picture`` over ``plate``, in linear light."""
    alpha = matte[..., None]
    colours = foreground(picture.to("linear").pixels, matte)
    seen = colours * alpha + (np.float32(1) - alpha) * plate.to("linear").pixels
    return Picture(seen.astype(np.float32), "linear")
