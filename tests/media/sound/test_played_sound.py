"""The sound of a clip under speed ramps: where it is heard, at which pitch, and how it joins."""

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.animation.edit_timing import CutTiming, played_ranges
from idle_shimmer.core.animation.retime import Retimes
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.media.sound.played_sound import clip_stretches, played_sound, side_stretches

RATE, PER_S = Fraction(25), 48_000
WINDOW = Window(25, 25)
FILE = Path("clip.mp4")
# Longer than what is left out between grains at these speeds.
BURST = 2400
SWELL = {"kind": "swell", "peak": 2.5}


def read(path: Path | None, start_s: Fraction, duration_s: Fraction) -> Iterator[NDArray[Any]]:
    """A burst of 50 ms at every whole second of the file, over a tone of 300 Hz."""
    first = round(start_s * PER_S)
    at = first + np.arange(round(duration_s * PER_S))
    wave = 0.2 * np.sin(2 * np.pi * 300 * at / PER_S)
    wave[(at % PER_S) < BURST] = 0.9
    yield np.stack([wave, wave], axis=1).astype(np.float32)


def retimes(**sides: dict[str, Any]) -> Retimes:
    return recipe_from_json({"retime": sides}).retime


def whole(parts: Iterator[NDArray[Any]]) -> NDArray[Any]:
    return np.concatenate(list(parts))


def bursts_in(sound: NDArray[Any]) -> list[float]:
    loud = np.flatnonzero(sound[:, 0] > 0.6)
    return [float(n) / PER_S for n in loud[np.diff(loud, prepend=-PER_S) > 2 * BURST]]


@pytest.mark.parametrize("side", ["outgoing", "incoming"])
def test_the_sound_is_where_the_picture_is(side: Any) -> None:
    """Each burst is heard at the frame whose source frame it lies in."""
    ramp = retimes(**{side: {"speed": SWELL}}).ramp(side, WINDOW)
    sound = whole(played_sound(FILE, side_stretches(ramp, 250, 100, 60, RATE), read))
    assert len(sound) == 60 * 1920
    first = -60 if side == "outgoing" else 0
    times = np.arange(first, first + 60, 0.01)
    places = np.array([250 + ramp.source_time(float(t)) for t in times])
    expected = [
        float(times[np.searchsorted(places, second * 25)] - first) / 25
        for second in range(40)
        if places[0] < second * 25 < places[-1]
    ]
    # What the sound begins in the middle of has no beginning.
    found = [each for each in bursts_in(sound) if each > 0.06]
    assert found == pytest.approx(expected, abs=0.04)


def test_the_pitch_stays_under_a_ramp() -> None:
    ramp = retimes(outgoing={"speed": 2.0}).ramp("outgoing", WINDOW)
    sound = whole(played_sound(FILE, side_stretches(ramp, 250, 100, 25, RATE), read))[:, 0]
    spectrum = np.abs(np.fft.rfft(np.clip(sound, -0.25, 0.25) * np.hanning(len(sound))))
    assert np.argmax(spectrum) * PER_S / len(sound) == pytest.approx(300, rel=0.02)


def test_a_muted_ramp_is_silent_and_fades_into_it() -> None:
    ramp = retimes(outgoing={"speed": 2.0, "sound": "mute"}).ramp("outgoing", WINDOW)
    sound = whole(played_sound(FILE, side_stretches(ramp, 250, 100, 50, RATE), read))
    assert np.abs(sound[25 * 1920 :]).max() == 0
    assert np.abs(sound[: 24 * 1920]).max() > 0.5
    end = sound[25 * 1920 - 240 : 25 * 1920, 0]
    assert np.abs(end[-20:]).max() < 0.02


def test_a_clip_between_two_ramps_is_as_long_as_its_frames() -> None:
    """At a rate whose frames are no whole number of samples: ends are rounded in the edit's time."""
    rate = Fraction(30_000, 1001)
    both = retimes(outgoing={"speed": SWELL}, incoming={"speed": 0.4, "in_edit": "ripple"})
    cuts = [CutTiming(Window(5, 9), both), CutTiming(Window(8, 5), both)]
    played = played_ranges([(0, 100), (40, 201), (10, 90)], cuts)
    at, total = 0, 0
    for place, each in enumerate(played):
        ramps = (
            both.ramp("incoming", cuts[place - 1].window) if place else None,
            both.ramp("outgoing", cuts[place].window) if place < 2 else None,
        )
        stretches = clip_stretches(each, at, rate, *ramps)
        total += len(whole(played_sound(FILE, stretches, read)))
        at += each.frames
        assert total == round(at * PER_S / rate)


def test_without_a_file_it_is_silent_and_as_long() -> None:
    ramp = retimes(outgoing={"speed": 2.0}).ramp("outgoing", WINDOW)

    def silence(path: Path | None, _: Fraction, duration_s: Fraction) -> Iterator[NDArray[Any]]:
        assert path is None
        yield np.zeros((round(duration_s * PER_S), 2), np.float32)

    sound = whole(played_sound(None, side_stretches(ramp, 250, 100, 40, RATE), silence))
    assert sound.shape == (40 * 1920, 2)
    assert not sound.any()
