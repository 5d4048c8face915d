"""The sound around a cut: the same in the loop, in renders and from the command line."""

from collections.abc import Iterator, Sequence
from pathlib import Path

from idle_shimmer.core.sound.accent import PlacedSound
from idle_shimmer.core.sound.mixing import mixed
from idle_shimmer.core.sound.samples import sample_at
from idle_shimmer.media.played_sound import ReadParts, played_sound, side_stretches
from idle_shimmer.media.sound import Sound, faded_ends, sound_parts
from idle_shimmer.transition import Transition


def window_sound(
    transition: Transition,
    offsets: range,
    files: tuple[Path | None, Path | None],
    read: ReadParts = sound_parts,
    cut_frame: int = 0,
    laid: Sequence[PlacedSound] | None = None,
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
