"""The frames around a cut as they are written: untouched ones as their clip's own planes, where those may be kept."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from idle_shimmer.core.animation.retime import ClipSide
from idle_shimmer.core.picture.output import OutputFrame
from idle_shimmer.core.picture.yuv import YUV_FORMS, Planes
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.media.read.reader import Size
from idle_shimmer.transition.transition import Transition

Frame = OutputFrame | Planes
# Gives the planes of a side's clip by the number of its frame; None where they may not be kept.
PlanesOf = Callable[[ClipSide, int], Planes | None]


@dataclass(frozen=True, slots=True)
class Coded:
    """How an output codes its frames: its layout of pixels, and its colour encoding."""

    pixels: str
    colour: str


def own_planes(
    clip: RateConvertedClip, number: int, coded: Coded | None, size: Size
) -> Planes | None:
    """Return the planes of a clip's frame, where the output has the same ones."""
    form = YUV_FORMS.get(coded.pixels) if coded is not None else None
    if coded is None or form is None:
        return None
    flat = clip.reader.planes(clip.picture_number(number), coded.pixels, coded.colour)
    return None if flat is None else Planes.of_flat(flat, form, size)


def frames_of(transition: Transition, offsets: range, planes: PlanesOf) -> Iterator[Frame]:
    """Yield frames ``offsets`` from the cut; those outside the window are the sources."""
    before, after = -transition.window.before, transition.window.after
    yield from _untouched(transition, range(offsets.start, min(before, offsets.stop)), planes)
    yield from transition.outputs(range(max(offsets.start, before), min(offsets.stop, after)))
    yield from _untouched(transition, range(max(after, offsets.start), offsets.stop), planes)


def _untouched(transition: Transition, offsets: range, planes: PlanesOf) -> Iterator[Frame]:
    for offset in offsets:
        side: ClipSide = "outgoing" if offset < 0 else "incoming"
        number = transition.source_frames(side, offset).first
        yield planes(side, number) or transition.output(offset)
