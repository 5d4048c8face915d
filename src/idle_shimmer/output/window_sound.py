"""The sound around a cut: the same in the loop, in renders and from the command line."""

import math
from collections.abc import Iterator, Sequence
from fractions import Fraction
from pathlib import Path

import numpy as np

from idle_shimmer.core.sound.accent import PlacedSound
from idle_shimmer.core.sound.heard import HeardAround
from idle_shimmer.core.sound.mixing import Laid, mixed
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, sample_at
from idle_shimmer.media.played_sound import ReadParts, played_sound, side_stretches
from idle_shimmer.media.sound import Sound, faded_ends, silence, sound_parts
from idle_shimmer.transition import Transition


def window_sound(
    transition: Transition,
    offsets: range,
    files: tuple[Path | None, Path | None],
    read: ReadParts = sound_parts,
    cut_frame: int = 0,
    laid: Sequence[Laid] | None = None,
) -> Iterator[Sound]:
    """Yield the sound of frames ``offsets`` from the cut in parts: both clips, and what is laid over them.

    The clips are faded shortly at the cut. ``files`` are those of the outgoing and the incoming clip, None
    where one is muted. ``cut_frame`` is the cut's frame in the edit, whose sample positions are kept;
    ``laid`` are sounds at such positions, by default the accent of the transition itself.
    """
    if laid is None:
        accent = transition.accent()
        laid = [] if accent is None else [accent.moved(sample_at(cut_frame, transition.rate))]
    first = sample_at(cut_frame + offsets.start, transition.rate)
    yield from mixed(_clips(transition, offsets, files, read, cut_frame), first, laid)


def heard_around(
    transition: Transition,
    files: tuple[Path | None, Path | None],
    read: ReadParts = sound_parts,
    cut_frame: int = 0,
    laid: Sequence[Laid] = (),
) -> HeardAround | None:
    """Return what is heard in the window and a second around it, and while the accent lasts.

    ``laid`` are the sounds other than the accent, as for ``window_sound``. None where nothing is heard.
    """
    accent = transition.accent()
    rate, window = transition.rate, transition.window
    first, end = -window.before - math.ceil(rate), window.after + math.ceil(rate)
    if accent is not None:
        first = min(first, math.floor(accent.first * rate / SAMPLES_PER_SECOND))
        end = max(end, math.ceil(accent.end * rate / SAMPLES_PER_SECOND))
    offsets = range(first, end)
    parts = list(window_sound(transition, offsets, files, read, cut_frame, laid))
    others = np.concatenate([silence(Fraction(0)), *parts])
    if accent is None and not others.any():
        return None
    at = sample_at(cut_frame + first, rate) - sample_at(cut_frame, rate)
    return HeardAround(PlacedSound(at, others), accent)


def _clips(
    transition: Transition,
    offsets: range,
    files: tuple[Path | None, Path | None],
    read: ReadParts,
    cut_frame: int,
) -> Iterator[Sound]:
    retimes, window, rate = transition.recipe.retime, transition.window, transition.rate
    outgoing, incoming = (retimes.ramp(side, window) for side in ("outgoing", "incoming"))
    until = side_stretches(outgoing, transition.outgoing_out, cut_frame, -offsets.start, rate)
    after = side_stretches(incoming, transition.incoming_in, cut_frame, offsets.stop, rate)
    yield from faded_ends(played_sound(files[0], until, read), at_start=False, at_end=True)
    yield from faded_ends(played_sound(files[1], after, read), at_start=True, at_end=False)
