"""Runs the cut checks on a transition: two clips, a recipe and a window."""

from collections.abc import Callable, Iterable

from idle_shimmer.core import checks  # noqa: F401  (importing the package registers the checks)
from idle_shimmer.core.checks.base import CheckContext, Finding, check_all
from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.sound.heard_around import HeardAround
from idle_shimmer.transition.missing_frames import (
    held_frames,
    shortages,
    span_that_fits,
    unmarked_subjects,
    without_subject_sentence,
)
from idle_shimmer.transition.transition import Transition

Morphs = Callable[[], Iterable[tuple[int, Codes, Codes]]]
# Flashes are measured on the standard view of 1024 × 768 in cells of 16 pixels: this is enough.
FLASH_HEIGHT = 144


def small_size(size: tuple[int, int]) -> tuple[int, int]:
    """Return the frame size at which flashes are measured, of the same aspect as ``size``."""
    width, height = size
    return max(2, round(width * FLASH_HEIGHT / height)), FLASH_HEIGHT


def check_transition(
    transition: Transition,
    size: tuple[int, int],
    frames: Callable[[int], Codes | None] | None = None,
    *,
    source_scale: float = 1.0,
    sound: Callable[[], HeardAround | None] | None = None,
    morphs: Morphs | None = None,
) -> list[Finding]:
    """Return what every cut check finds for frames of ``size`` (W, H).

    ``frames`` gives small rendered frames by their offset from the cut, also a second around the
    window; without it the checks of rendered frames are left out. ``source_scale`` is how many frame
    pixels one source pixel covers; ``sound`` gives what is heard around the window, ``morphs`` the small pictures
    that are morphed.
    """
    missing = unmarked_subjects(transition)
    context = CheckContext(
        transition.timeline(size),
        shortages(transition),
        span_that_fits(transition),
        frames,
        source_scale,
        sound,
        without_subject_sentence(transition, missing[0]) if missing else None,
        morphs,
        held_frames(transition),
    )
    return check_all(context)


def frame_or_none(transition: Transition, offset: int) -> Codes | None:
    """Return frame ``offset``, None where the clips have none."""
    try:
        return transition.frame(offset)
    except ShimmerError:
        return None
