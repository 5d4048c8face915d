"""Which source frames the placed clips of an edit show, with the speed ramps at its cuts.

A ramp uses more source frames than its window has, or fewer. With ``slip`` every cut keeps its time:
the clip's far end, which meets another cut or an end of the edit, moves within the source by the
difference. With ``ripple`` both ends keep their source frames, and the clip's length in the edit
changes.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from idle_shimmer.core.animation.retime import Retimes
from idle_shimmer.core.animation.timing import Window


@dataclass(frozen=True, slots=True)
class CutTiming:
    """The window and the speed ramps of a cut."""

    window: Window
    retimes: Retimes


@dataclass(frozen=True, slots=True)
class PlayedRange:
    """What a placed clip shows: source frames ``first`` to ``end`` (exclusive) over ``frames`` frames.

    ``untreated`` are the source frames between the windows at its two ends, each shown once: its
    length is negative where the windows leave no room for the ramps.
    """

    first: int
    end: int
    frames: int
    untreated_first: int
    untreated_end: int


def played_ranges(
    placed: Sequence[tuple[int, int]], cuts: Sequence[CutTiming]
) -> list[PlayedRange]:
    """Return what each placed clip shows; ``placed`` are its source frames in … out (exclusive).

    ``cuts[i]`` lies between ``placed[i]`` and ``placed[i + 1]``. A range may leave the source, where
    a ramp slips by more than there is.
    """
    found = []
    for place, (first, end) in enumerate(placed):
        frames = end - first
        taken, left = 0, 0
        if place > 0:
            cut = cuts[place - 1]
            extra = cut.retimes.ramp("incoming", cut.window).extra_frames
            taken = cut.window.after + extra
            if cut.retimes.incoming.in_edit == "slip":
                end += extra
            else:
                frames -= extra
        if place < len(cuts):
            cut = cuts[place]
            extra = cut.retimes.ramp("outgoing", cut.window).extra_frames
            left = cut.window.before + extra
            if cut.retimes.outgoing.in_edit == "slip":
                first -= extra
            else:
                frames -= extra
        found.append(PlayedRange(first, end, frames, first + taken, end - left))
    return found
