"""The sound around a cut: the same in the loop, in renders and from the command line."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from idle_shimmer.core.sound.accent import PlacedSound
from idle_shimmer.core.sound.crossfade import with_fades
from idle_shimmer.core.sound.heard_around import HeardAround
from idle_shimmer.core.sound.mixing import Laid, mixed
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, sample_at
from idle_shimmer.media.sound.played_sound import HeardClip, ReadParts, heard_sound, side_stretches
from idle_shimmer.media.sound.sound_parts import Sound, faded_ends, silence, sound_parts
from idle_shimmer.output.sound.joins import Join
from idle_shimmer.transition.transition import Transition


@dataclass(frozen=True, slots=True)
class HeardSides:
    """What is heard of the two clips of a cut; ``crossfade`` is in frames, 0 for a hard cut."""

    outgoing: HeardClip
    incoming: HeardClip
    crossfade: int = 0


def window_sound(
    transition: Transition,
    offsets: range,
    sides: HeardSides,
    read: ReadParts = sound_parts,
    cut_frame: int = 0,
    laid: Sequence[Laid] | None = None,
) -> Iterator[Sound]:
    """Yield the sound of frames ``offsets`` from the cut in parts: both clips, and what is laid over them.

    At a hard cut the clips are faded shortly. ``cut_frame`` is the cut's frame in the edit, whose sample positions are kept;
    ``laid`` are sounds at such positions, by default the accent of the transition itself.
    """
    if laid is None:
        accent = transition.accent()
        laid = [] if accent is None else [accent.moved(sample_at(cut_frame, transition.rate))]
    first = sample_at(cut_frame + offsets.start, transition.rate)
    join = _join(transition, sides, cut_frame)
    clips = _clips(transition, offsets, join, read)
    yield from mixed(clips, first, [*join.beyond(read), *laid])


def heard_around(
    transition: Transition,
    sides: HeardSides,
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
    parts = list(window_sound(transition, offsets, sides, read, cut_frame, laid))
    others = np.concatenate([silence(Fraction(0)), *parts])
    if accent is None and not others.any():
        return None
    at = sample_at(cut_frame + first, rate) - sample_at(cut_frame, rate)
    return HeardAround(PlacedSound(at, others), accent)


def _join(transition: Transition, sides: HeardSides, cut_frame: int) -> Join:
    return Join(
        sides.outgoing,
        sides.incoming,
        sides.crossfade,
        cut_frame,
        transition.rate,
        transition.outgoing_out,
        transition.incoming_in,
    )


def _clips(transition: Transition, offsets: range, join: Join, read: ReadParts) -> Iterator[Sound]:
    retimes, window, rate = transition.recipe.retime, transition.window, transition.rate
    outgoing, incoming = (retimes.ramp(side, window) for side in ("outgoing", "incoming"))
    cut_frame = join.cut_frame
    until = side_stretches(outgoing, join.outgoing_end, cut_frame, -offsets.start, rate)
    after = side_stretches(incoming, join.incoming_first, cut_frame, offsets.stop, rate)
    first, cut = (sample_at(each, rate) for each in (cut_frame + offsets.start, cut_frame))
    sound = faded_ends(heard_sound(join.outgoing, until, read), at_start=False, at_end=join.is_hard)
    yield from with_fades(sound, first, join.fall())
    sound = faded_ends(heard_sound(join.incoming, after, read), at_start=join.is_hard, at_end=False)
    yield from with_fades(sound, cut, join.rise())
