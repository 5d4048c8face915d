"""The sound of a clip as an edit plays it: speed ramps followed with the pitch kept, or muted.

The one place that says which sound is heard when: the loop, renders and the command line use it.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np

from idle_shimmer.core.animation.edit_timing import PlayedRange
from idle_shimmer.core.animation.retime import Ramp
from idle_shimmer.core.sound.levels import gain_of_db
from idle_shimmer.core.sound.time_stretch import GRAIN, time_stretched
from idle_shimmer.media.sound.sound_parts import SAMPLES_PER_SECOND, Sound, faded_ends, sound_parts

# Yields a part of a file, from and for so many seconds; silence without a file.
ReadParts = Callable[[Path | None, Fraction, Fraction], Iterator[Sound]]


@dataclass(frozen=True, slots=True)
class HeardClip:
    """The sound of a placed clip: its file, None where it is muted, and its gain."""

    file: Path | None
    gain_db: float = 0.0


@dataclass(frozen=True)
class Stretch:
    """Frames ``first`` to ``end`` of an edit, at ``rate``, and the source frame heard at the first.

    With a ``ramp`` the source goes on at its speed, ``ramp_from`` frames from its cut; without one it
    goes on at normal speed.
    """

    first: int
    end: int
    source_first: int
    rate: Fraction
    ramp: Ramp | None = None
    ramp_from: int = 0

    @property
    def samples(self) -> int:
        """How many samples it has: ends are rounded in the edit's own time, so nothing adds up."""
        first, end = (
            round(each * SAMPLES_PER_SECOND / self.rate) for each in (self.first, self.end)
        )
        return end - first


def side_stretches(
    ramp: Ramp, source_at_cut: int, cut_frame: int, frames: int, rate: Fraction
) -> list[Stretch]:
    """Return what is heard of one side of a cut: ``frames`` frames up to it, or from it.

    ``cut_frame`` is the cut's frame in the edit, ``source_at_cut`` the clip's frame there.
    """
    outgoing = ramp.side == "outgoing"
    first, end = (-frames, 0) if outgoing else (0, frames)
    if ramp.retime.is_normal:
        return [Stretch(cut_frame + first, cut_frame + end, source_at_cut + first, rate)]
    if outgoing:
        edge = max(first, -ramp.window.before)
        limits = [(first, edge, None), (edge, 0, ramp)]
    else:
        edge = min(end, ramp.window.after)
        limits = [(0, edge, ramp), (edge, end, None)]
    return [
        Stretch(
            cut_frame + one,
            cut_frame + other,
            source_at_cut + round(ramp.source_time(one)),
            rate,
            speed,
            one,
        )
        for one, other, speed in limits
        if other > one
    ]


def clip_stretches(
    played: PlayedRange, first: int, rate: Fraction, incoming: Ramp | None, outgoing: Ramp | None
) -> list[Stretch]:
    """Return what is heard of a placed clip that begins at frame ``first`` of the edit."""
    found: list[Stretch] = []
    begin, end, source = first, first + played.frames, played.first
    if incoming is not None and not incoming.retime.is_normal:
        found += side_stretches(incoming, played.first, first, incoming.window.after, rate)
        begin, source = first + incoming.window.after, played.untreated_first
    tail: list[Stretch] = []
    if outgoing is not None and not outgoing.retime.is_normal:
        tail = side_stretches(outgoing, played.end, end, outgoing.window.before, rate)
        end -= outgoing.window.before
    if end > begin:
        found.append(Stretch(begin, end, source, rate))
    return found + tail


def heard_sound(
    clip: HeardClip, stretches: list[Stretch], read: ReadParts = sound_parts
) -> Iterator[Sound]:
    """Yield the sound of ``stretches`` of a placed clip in parts, at its gain."""
    gain = np.float32(gain_of_db(clip.gain_db))
    for part in played_sound(clip.file, stretches, read):
        yield part if clip.gain_db == 0 else part * gain


def played_sound(
    path: Path | None, stretches: list[Stretch], read: ReadParts = sound_parts
) -> Iterator[Sound]:
    """Yield the sound of ``stretches`` of a file in parts; silence without a ``path``."""
    for place, stretch in enumerate(stretches):
        if stretch.ramp is None:
            start = Fraction(stretch.source_first) / stretch.rate
            parts = read(path, start, Fraction(stretch.samples, SAMPLES_PER_SECOND))
            at_start = any(map(_is_muted, stretches[:place][-1:]))
            at_end = any(map(_is_muted, stretches[place + 1 :][:1]))
            yield from faded_ends(parts, at_start=at_start, at_end=at_end)
        elif path is None or _is_muted(stretch):
            yield np.zeros((stretch.samples, 2), np.float32)
        else:
            yield _followed(path, stretch, stretch.ramp, read)


def _is_muted(stretch: Stretch) -> bool:
    return stretch.ramp is not None and stretch.ramp.retime.sound == "mute"


def _followed(path: Path, stretch: Stretch, ramp: Ramp, read: ReadParts) -> Sound:
    """Return the sound under a ramp. Both ends are read a little further, for the first and last grains."""
    per_frame = float(SAMPLES_PER_SECOND / stretch.rate)
    begin = ramp.source_time(stretch.ramp_from)
    end = ramp.source_time(stretch.ramp_from + stretch.end - stretch.first)
    start_s = Fraction(stretch.source_first) / stretch.rate - Fraction(GRAIN, SAMPLES_PER_SECOND)
    length = 2 * GRAIN + round((end - begin) * per_frame)
    source = np.concatenate(list(read(path, start_s, Fraction(length, SAMPLES_PER_SECOND))))

    def source_at(sample: float) -> float:
        passed = ramp.source_time(stretch.ramp_from + sample / per_frame) - begin
        return GRAIN + passed * per_frame

    return time_stretched(source, source_at, stretch.samples)
