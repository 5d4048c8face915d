"""What is found in a timeline, as plain values: nothing of it has been checked yet."""

from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class FoundClip:
    """A clip of the track: the name of its file, and the frames ``first`` … ``end`` (exclusive) shown.

    They count from the media's first frame, or, with ``is_timecode``, as its timecode does. ``placed`` is
    what our own timelines keep of it.
    """

    file: str
    first: int
    end: int
    is_timecode: bool
    placed: Any = None


@dataclass(frozen=True)
class FoundCut:
    """The cut behind a clip: what our own timelines keep of it, or frames of a transition around it.

    ``wipe_code`` is that of a list's wipe; without one the transition is a dissolve.
    """

    kept: Any = None
    ahead: int = 0
    behind: int = 0
    wipe_code: int | None = None


@dataclass(frozen=True)
class FoundTimeline:
    """The first video track; ``cuts[i]`` lies between ``clips[i]`` and ``clips[i + 1]``.

    ``size`` is the frame size (width, height) in px of our own timelines. ``notes`` are sentences about
    what is left out.
    """

    name: str
    rate: str
    size: Any
    clips: list[FoundClip]
    cuts: list[FoundCut]
    notes: list[str] = field(default_factory=list)
