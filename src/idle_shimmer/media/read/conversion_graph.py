"""The conversion of decoded pictures to upright RGB of a size, as a graph of libavfilter."""

import itertools
from collections.abc import Iterator
from fractions import Fraction

import av

from idle_shimmer.media.colour_tags import UNSPECIFIED, is_untagged_hd
from idle_shimmer.media.read.index import MediaFacts, quarter_turn_deg

CENTRED_CHROMA = ("mjpeg", "mpeg1video")

Size = tuple[int, int]


def conversion_graph(
    frame: av.VideoFrame, size: Size, facts: MediaFacts, pixels: str
) -> av.filter.Graph:
    """Return a graph from decoded pictures to upright RGB that covers ``size``."""
    graph = av.filter.Graph()
    steps = [
        graph.add_buffer(
            width=frame.width,
            height=frame.height,
            format=frame.format,
            time_base=Fraction(1, 1000),
        ),
        *(graph.add(name, arguments) for name, arguments in _filters(frame, size, facts, pixels)),
        graph.add("buffersink"),
    ]
    for one, following in itertools.pairwise(steps):
        one.link_to(following)
    graph.configure()
    return graph


def _filters(
    frame: av.VideoFrame, size: Size, facts: MediaFacts, pixels: str
) -> Iterator[tuple[str, str]]:
    turn_deg = quarter_turn_deg(frame)
    rotated = turn_deg % 180 != 0
    width, height = (size[1], size[0]) if rotated else size
    shown_w = Fraction(round(frame.width * facts.pixel_aspect))
    cover = max(width / shown_w, Fraction(height, frame.height))
    scaled = max(width, round(shown_w * cover)), max(height, round(frame.height * cover))
    if has_alpha(frame):
        # Over black; before scaling, so that colours of transparent pixels are not smeared in.
        flags = "flags=accurate_rnd+full_chroma_int+full_chroma_inp"
        yield "scale", ":".join([flags, *_colour_options(frame, facts.video_codec)])
        yield "format", "gbrap16le"
        yield "premultiply", "inplace=1"
    # Averaging shrinks without aliasing, at less than half the cost of a cubic.
    shrinks = scaled[0] <= frame.width / 2 and scaled[1] <= frame.height / 2
    yield (
        "scale",
        ":".join(
            [
                f"{scaled[0]}:{scaled[1]}",
                f"flags={'area' if shrinks else 'bicubic'}+accurate_rnd+full_chroma_int+full_chroma_inp",
                *_colour_options(frame, facts.video_codec),
            ]
        ),
    )
    yield "format", pixels
    if scaled != (width, height):
        yield "crop", f"{width}:{height}"
    yield from _upright(turn_deg)


def _upright(rotation_deg: int) -> Iterator[tuple[str, str]]:
    """Yield the filters that rotate a picture by its rotation flag, degrees counter-clockwise."""
    match rotation_deg:
        case 90:
            yield "transpose", "cclock"
        case 180:
            yield "hflip", ""
            yield "vflip", ""
        case 270:
            yield "transpose", "clock"


def _colour_options(frame: av.VideoFrame, codec: str) -> list[str]:
    if frame.format.is_rgb:
        return []
    # Between the samples of luma in JPEG and MPEG-1, beside the left one in everything since.
    options = [f"in_chroma_loc={'center' if codec in CENTRED_CHROMA else 'left'}"]
    if int(frame.colorspace) == UNSPECIFIED:
        options.append(f"in_color_matrix={'bt709' if is_untagged_hd(frame) else 'bt601'}")
    return options


def has_alpha(frame: av.VideoFrame) -> bool:
    """Whether a picture has transparency."""
    return any(component.is_alpha for component in frame.format.components)
