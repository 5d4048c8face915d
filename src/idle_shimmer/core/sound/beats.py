"""The beats of music: tempo, the first beat, and every beat, which may drift.

Beats are tracked by ``librosa`` (dynamic programming over onset strength, Ellis 2007, "Beat tracking by
dynamic programming"), then moved to the steepest rise of energy near them.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit_cache import alone
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound

_RATE_HZ = 24_000
_HOP = 256
# Energy is measured over 20 ms every 2 ms, and a beat is looked for within 45 ms.
_ENERGY_HOP, _ENERGY_SPAN, _NEAR = 48, 10, 22
# As shares of the usual strength of a beat: above the first between beats, every other beat was missed; below the
# second there is no beat.
_STRONG_BETWEEN, _WEAK_BEAT = 0.85, 0.3
_MOST_DOUBLED_BPM = 100.0
_FEWEST = 4
_NEIGHBOURS = 5
_PASSES = 3
# Music is followed in stretches so long, which reach so far into each other.
_STRETCH_S, _OVERLAP_S = 600, 10
# Two stretches agree on a beat where they meet within so many seconds.
_MEET_S = 0.05
Samples = NDArray[np.float64]


@dataclass(frozen=True)
class Beats:
    """Beats per minute, the time of the first beat, and all of them, in seconds from the start."""

    bpm: float
    offset_s: float
    beats_s: tuple[float, ...]


def find_beats(parts: Iterable[Sound]) -> Beats | None:
    """Return the beats of music, in consecutive parts, float32 (samples, 2) at 48 kHz; None where there is no beat.

    Long music is followed stretch by stretch, so that its memory is limited and its tempo may change.
    """
    found = [np.zeros(0)]
    for stretch in _stretches(parts):
        beats = _beats_of(stretch.mono) + stretch.first / SAMPLES_PER_SECOND
        found.append(beats[(stretch.begin_s <= beats) & (beats < stretch.end_s + _MEET_S)])
    return _steady(_once(np.sort(np.concatenate(found))))


@dataclass(frozen=True)
class _Stretch:
    """A stretch of mono sound from sample ``first`` on; its beats from ``begin_s`` up to ``end_s`` count."""

    first: int
    mono: NDArray[np.float32]
    begin_s: float
    end_s: float


def _stretches(parts: Iterable[Sound]) -> Iterator[_Stretch]:
    """Yield sound in stretches that reach into each other."""
    overlap, whole = _OVERLAP_S * SAMPLES_PER_SECOND, _STRETCH_S * SAMPLES_PER_SECOND
    held, length, first, begin_s = list[NDArray[np.float32]](), 0, 0, 0.0
    for part in parts:
        held.append(part.mean(axis=1))
        length += len(part)
        while length > whole + overlap:
            mono = np.concatenate(held)
            end_s = (first + whole) / SAMPLES_PER_SECOND
            yield _Stretch(first, mono[: whole + overlap], begin_s, end_s)
            held, begin_s = [mono[whole - overlap :]], end_s
            first, length = first + whole - overlap, length - whole + overlap
    if held:
        yield _Stretch(first, np.concatenate(held), begin_s, np.inf)


def _beats_of(mono: NDArray[np.float32]) -> Samples:
    """Return the beats of a stretch in seconds, none where there is no beat."""
    if not mono.any():
        return np.zeros(0)
    # It compiles functions that call each other, into one cache: what two processes compiled at once crashes.
    with alone("beats"):
        beats = _tracked(mono)
    if len(beats) < _FEWEST:
        return np.zeros(0)
    rises = _Rises(mono)
    beats = _right_octave(np.array([rises.near(each) for each in beats]), rises)
    return _in_line(beats, rises)


def _once(beats: Samples) -> Samples:
    """Return beats without those that two stretches found where they meet."""
    return beats[np.diff(beats, prepend=-np.inf) > 2 * _MEET_S]


def compile_tracking() -> None:
    """Compile what tracks beats, which takes a minute or two the first time."""
    clicks = np.zeros((4 * SAMPLES_PER_SECOND, 2), np.float32)
    clicks[:: SAMPLES_PER_SECOND // 2] = 1
    find_beats([clicks])


def _tracked(mono: NDArray[np.float32]) -> Samples:
    """Return the times of the beats in seconds, none where there is no tempo."""
    # Slow to import: only the command and the job that need it do so.
    from librosa import resample
    from librosa.beat import beat_track
    from librosa.onset import onset_strength

    slow = resample(mono, orig_sr=SAMPLES_PER_SECOND, target_sr=_RATE_HZ)
    strength = onset_strength(y=slow, sr=_RATE_HZ, hop_length=_HOP)
    if not strength.any():
        return np.zeros(0)
    tempo, places = beat_track(onset_envelope=strength, sr=_RATE_HZ, hop_length=_HOP, trim=False)
    return places * (_HOP / _RATE_HZ) if np.isfinite(tempo).all() else np.zeros(0)


class _Rises:
    """Where the energy of a sound rises, every 2 ms."""

    def __init__(self, mono: NDArray[Any]) -> None:
        count = len(mono) // (2 * _ENERGY_HOP) * 2
        energy = (
            (mono[: count * _ENERGY_HOP].astype(np.float64) ** 2).reshape(count, -1).sum(axis=1)
        )
        self._hop_s = _ENERGY_HOP / SAMPLES_PER_SECOND
        loud = np.sqrt(np.convolve(energy, np.ones(_ENERGY_SPAN) / _ENERGY_SPAN, "same"))
        ahead = np.pad(loud, (0, _ENERGY_SPAN))[_ENERGY_SPAN:]
        self.strength = np.maximum(ahead - loud, 0.0)

    def near(self, time_s: float) -> float:
        """Return the time of the steepest rise near a time; the time itself where there is none."""
        first, found = self._around(time_s)
        if not found.any():
            return time_s
        return float((first + int(found.argmax()) + _ENERGY_SPAN / 2) * self._hop_s)

    def at(self, time_s: float) -> float:
        """Return the strength of the steepest rise near a time."""
        return float(self._around(time_s)[1].max(initial=0.0))

    def _around(self, time_s: float) -> tuple[int, Samples]:
        middle = round(time_s / self._hop_s) - _ENERGY_SPAN // 2
        first = max(0, middle - _NEAR)
        return first, self.strength[first : middle + _NEAR + 1]


def _right_octave(beats: Samples, rises: _Rises) -> Samples:
    """Return every second beat where the others are weak, or those between where they are as strong."""
    strength = np.array([rises.at(each) for each in beats])
    halves = strength[::2].mean(), strength[1::2].mean()
    if min(halves) < _WEAK_BEAT * max(halves):
        return beats[int(halves[1] > halves[0]) :: 2]
    between = (beats[1:] + beats[:-1]) / 2
    is_slow = 60 / float(np.median(np.diff(beats))) <= _MOST_DOUBLED_BPM
    if (
        is_slow
        and np.mean([rises.at(each) for each in between]) > _STRONG_BETWEEN * strength.mean()
    ):
        return np.sort(np.concatenate([beats, [rises.near(each) for each in between]]))
    return beats


def _in_line(beats: Samples, rises: _Rises) -> Samples:
    """Return beats looked for again where those around them say, without silent ones at the ends."""
    found = beats
    for _ in range(_PASSES):
        found = np.array([rises.near(_expected(found, n)) for n in range(len(found))])
    strength = np.array([rises.at(each) for each in found])
    heard = np.flatnonzero(strength >= _WEAK_BEAT * np.median(strength))
    return found[heard[0] : heard[-1] + 1]


def _expected(beats: Samples, number: int) -> float:
    """Return where a beat lies by the line through its neighbours; the steps between them may drift."""
    around = np.arange(max(0, number - _NEIGHBOURS), min(len(beats), number + _NEIGHBOURS + 1))
    others = around[around != number]
    if len(others) < _FEWEST:
        return float(beats[number])
    # Theil and Sen: the median of the slopes, so that single wrong beats do not count.
    one, other = np.triu_indices(len(others), 1)
    slope = np.median((beats[others][other] - beats[others][one]) / (others[other] - others[one]))
    return float(np.median(beats[others] - slope * (others - number)))


def _steady(beats: Samples) -> Beats | None:
    """Return beats with the tempo of the line through them."""
    beats = np.unique(beats.round(4))
    if len(beats) < _FEWEST:
        return None
    step = float(np.median(np.diff(beats)))
    numbers = np.concatenate([[0], np.cumsum(np.maximum(1, np.rint(np.diff(beats) / step)))])
    seconds, _ = np.polyfit(numbers, beats, 1)
    return Beats(
        round(60 / float(seconds), 3), round(float(beats[0]), 4), tuple(float(t) for t in beats)
    )
