"""Colour encodings as files tag them: matrix, primaries and transfer, by the codes of ITU-T H.273.

Sources, from memory: ITU-T H.273, tables 2 to 4; ITU-R BT.601-7 and BT.709-6 (luma weights).
"""

from dataclasses import dataclass, replace

import av
from av.video.reformatter import ColorRange


@dataclass(frozen=True)
class ColourTags:
    """The codes of a colour encoding, the weights of red and blue in its luma, and whether its range is full."""

    matrix: int
    primaries: int
    transfer: int
    red: float
    blue: float
    is_full: bool = False


_LIMITED: dict[str, ColourTags] = {
    "bt709": ColourTags(1, 1, 1, 0.2126, 0.0722),
    "bt601-525": ColourTags(6, 6, 6, 0.299, 0.114),
    "bt601-625": ColourTags(5, 5, 6, 0.299, 0.114),
}
_FULL = "-full"
TAGS = _LIMITED | {name + _FULL: replace(each, is_full=True) for name, each in _LIMITED.items()}
USUAL = "bt709"
UNSPECIFIED = 2
# Untagged pictures are taken as BT.709 from this height on, and as BT.601 below (common practice).
HD_HEIGHT = 720
# BT.601, BT.709 and BT.2020 have one transfer function, with four codes.
_SDR_TRANSFERS = (1, 6, 14, 15)
# The transfer functions of PQ and HLG: such pictures are brought to BT.709 when they are read.
_HDR = (16, 18)
# SDR pictures of these primaries, or these matrices, are brought to BT.709 as well.
_BT2020, _BT2020_MATRICES = 9, (9, 10)


def colour_of(frame: av.VideoFrame) -> str:
    """Return the name of the encoding that a picture is tagged with; BT.709 where it is not, or in RGB.

    Also where it is brought to BT.709 when it is read.
    """
    if frame.format.is_rgb or int(frame.color_trc) in _HDR or is_wide(frame):
        return USUAL
    matrix, is_full = int(frame.colorspace), frame.color_range == ColorRange.JPEG
    name = next((name for name, tags in _LIMITED.items() if tags.matrix == matrix), USUAL)
    return name + _FULL if is_full else name


def is_wide(frame: av.VideoFrame) -> bool:
    """Whether a picture has the primaries of BT.2020, in SDR; its matrix says so where nothing else does."""
    primaries, matrix = int(frame.color_primaries), int(frame.colorspace)
    stated = primaries == _BT2020 or (primaries == UNSPECIFIED and matrix in _BT2020_MATRICES)
    return stated and int(frame.color_trc) not in _HDR


def common_colour(names: list[str]) -> str:
    """Return the encoding that all clips share, in limited range where their ranges differ, else BT.709."""
    for shared in (names, [limited(each) for each in names]):
        if shared and all(each == shared[0] for each in shared):
            return shared[0]
    return USUAL


def limited(name: str) -> str:
    """Return the encoding ``name`` in limited range."""
    return name.removesuffix(_FULL)


def is_untagged_hd(frame: av.VideoFrame) -> bool:
    """Whether a picture without a matrix is taken as BT.709; as BT.601 otherwise."""
    return frame.height >= HD_HEIGHT


def keeps_its_meaning(frame: av.VideoFrame, name: str) -> bool:
    """Whether the planes of a YUV picture mean in the encoding ``name`` what they mean now.

    What a picture is not tagged with is what it is read as.
    """
    tags, matrix = TAGS[name], int(frame.colorspace)
    if matrix == UNSPECIFIED:
        matrix = TAGS[USUAL if is_untagged_hd(frame) else "bt601-625"].matrix
    weights = next(
        ((each.red, each.blue) for each in _LIMITED.values() if each.matrix == matrix), None
    )
    return (
        weights == (tags.red, tags.blue)
        and int(frame.color_primaries) in (UNSPECIFIED, tags.primaries)
        and int(frame.color_trc) in (UNSPECIFIED, *_SDR_TRANSFERS)
        and (frame.color_range == ColorRange.JPEG) == tags.is_full
    )
