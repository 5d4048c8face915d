"""Checks what decoders answer, which the file that they decode may have taken over."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from typing import Any

from idle_shimmer.limits import MAX_FRAME, MAX_SIDE_PX, MIN_SIDE_PX, limits
from idle_shimmer.media.colour_tags import TAGS
from idle_shimmer.media.decode.process import facts_of, index_of
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.read.index import FrameIndex, MediaFacts

_MAX_SAMPLES = 1 << 31
_MAX_TICK = 1 << 62
_MAX_NOTES = 20


@dataclass(frozen=True)
class Form:
    """What an array must be: its type, and its shape, where None is any length up to ``longest``."""

    dtype: str
    shape: tuple[int | None, ...]
    longest: int = _MAX_SAMPLES

    def checked(self, shape: Any, dtype: Any) -> tuple[int, ...]:
        """Return a shape that was answered. Raises ValueError where it is not of this form."""
        if dtype != self.dtype or not isinstance(shape, list) or len(shape) != len(self.shape):
            raise ValueError(f"an array of {self.dtype} was asked for")
        for wanted, length in zip(self.shape, shape, strict=True):
            fits = length == wanted if wanted is not None else 0 <= length <= self.longest
            if not isinstance(length, int) or not fits:
                raise ValueError("the array has another shape than was asked for")
        return tuple(shape)


def checked_index(stored: Any, name: str) -> FrameIndex:
    """Return a frame index that was answered. Raises MediaError where it cannot be one."""
    try:
        index = index_of(stored)
        pictures, ticks = len(index.pts), (*index.pts, index.last_duration)
        in_order = all(a < b for a, b in pairwise(index.pts))
        starts = index.keyframes
        sound = (
            pictures > 0
            and all(isinstance(tick, int) and abs(tick) < _MAX_TICK for tick in ticks)
            and in_order
            and index.time_base > 0
            and starts[:1] == (0,)
            and all(isinstance(n, int) and 0 <= n < pictures for n in starts)
            and all(a < b for a, b in pairwise(starts))
        )
    except (TypeError, ValueError, KeyError, ZeroDivisionError, AttributeError):
        sound = False
    if not sound:
        raise MediaError(f"{name} has pictures whose times cannot be used: convert it first")
    if pictures > limits().max_pictures:
        raise MediaError(
            f"{name} has {pictures} pictures: a clip has at most {limits().max_pictures}. Export a"
            " shorter part"
        )
    return index


def checked_facts(stored: Any, index: FrameIndex, name: str) -> MediaFacts:
    """Return facts that were answered. Raises MediaError where a file has them that is not accepted."""
    try:
        facts = facts_of(stored)
        consistent = (
            all(isinstance(n, int) for n in (facts.width, facts.height, facts.rotation_deg))
            and isinstance(facts.bit_depth, int)
            and isinstance(facts.start_frame, int)
            and 0 <= facts.start_frame <= MAX_FRAME
            and facts.colour in TAGS
            and facts.frame_count == index.count
            and all(
                isinstance(x, bool)
                for x in (facts.constant_rate, facts.still, facts.has_sound, facts.interlaced)
            )
            and all(isinstance(x, str) for x in (facts.video_codec, facts.pixel_format))
            and facts.pixel_aspect > 0
            and facts.duration >= 0
        )
    except (TypeError, ValueError, KeyError, ZeroDivisionError, AttributeError):
        consistent = False
    if not consistent:
        raise MediaError(f"{name} has facts that contradict each other: convert it first")
    require_size((facts.width, facts.height), name)
    _require_times(facts, name)
    return MediaFacts(**{**facts.__dict__, "notes": _short(facts.notes)})


def require_size(size: tuple[int, int], name: str) -> None:
    """Raise MediaError where pictures of ``size`` (W, H) are not accepted."""
    width, height = size
    if not all(MIN_SIDE_PX <= side <= MAX_SIDE_PX for side in size):
        raise MediaError(
            f"{name} is {width}×{height} px: sides have {MIN_SIDE_PX} to {MAX_SIDE_PX} px. Scale it"
            " first"
        )
    if width * height > limits().max_picture_px:
        raise MediaError(
            f"{name} is {width}×{height} px: a picture has at most"
            f" {limits().max_picture_px / 1e6:.0f} million pixels. Scale it first"
        )


def _require_times(facts: MediaFacts, name: str) -> None:
    most = limits()
    if not Fraction(1, 86_400) <= facts.rate <= most.max_rate:
        raise MediaError(
            f"{name} has {float(facts.rate):g} pictures per second: a clip has at most"
            f" {most.max_rate}. Convert it first"
        )
    if facts.duration > most.max_duration_s or facts.frame_count > MAX_FRAME:
        hours = math.floor(most.max_duration_s / 3600)
        raise MediaError(f"{name} is too long: a clip has at most {hours} hours")


def _short(notes: Sequence[str]) -> tuple[str, ...]:
    return tuple(str(note)[:500] for note in notes[:_MAX_NOTES])


def checked_sound_length(stored: Any, name: str) -> Fraction:
    """Return the length of a sound that was answered. Raises MediaError where it is not accepted."""
    try:
        length_s = Fraction(stored)
    except (TypeError, ValueError, ZeroDivisionError):
        length_s = Fraction(0)
    if not 0 < length_s <= limits().max_duration_s:
        raise MediaError(f"{name} has a sound whose length cannot be used: convert it first")
    return length_s
