"""Beats of click tracks whose beats are known: tempo within 1 %, every beat within 20 ms."""

from fractions import Fraction

import numpy as np
import pytest

from idle_shimmer.core.sound import beats
from idle_shimmer.core.sound.beats import find_beats
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound
from idle_shimmer.demo.music import BEATS_PER_MINUTE, bed

TEMPO_SHARE, BEAT_S = 0.01, 0.020
LENGTH_S, FIRST_S = 24.0, 0.37


def clicks(
    bpm: float, drift: float, hertz: float, length_s: float = LENGTH_S
) -> tuple[Sound, np.ndarray]:
    """Return clicks in faint noise whose steps grow by ``drift`` until the end, and their times."""
    generator = np.random.default_rng(1)
    sound = 0.002 * generator.standard_normal(round(length_s * SAMPLES_PER_SECOND))
    age = np.arange(2400) / SAMPLES_PER_SECOND
    click = 0.6 * np.sin(2 * np.pi * hertz * age) * np.exp(-60 * age)
    times, at = [], FIRST_S
    while at < length_s - 0.1:
        times.append(at)
        first = round(at * SAMPLES_PER_SECOND)
        sound[first : first + len(click)] += click[: len(sound) - first]
        at += 60 / bpm * (1 + drift * at / length_s)
    return np.stack([sound] * 2, axis=1).astype(np.float32), np.array(times)


@pytest.mark.parametrize("bpm", [60, 72, 90, 100, 113, 120, 128, 140, 160, 180])
@pytest.mark.parametrize("drift", [0.0, 0.02])
@pytest.mark.parametrize("hertz", [70.0, 1000.0])
def test_every_beat_of_a_click_track_is_found_and_no_other(bpm, drift, hertz):
    sound, times = clicks(bpm, drift, hertz)
    found = find_beats([sound])
    assert found is not None
    assert found.bpm == pytest.approx(60 / np.diff(times).mean(), rel=TEMPO_SHARE)
    assert len(found.beats_s) == len(times)
    assert np.abs(np.array(found.beats_s) - times).max() < BEAT_S
    assert found.offset_s == pytest.approx(FIRST_S, abs=BEAT_S)


def test_soft_drums_under_chords_are_followed():
    found = find_beats([bed(Fraction(0), Fraction(30))])
    assert found is not None
    step = float(60 / BEATS_PER_MINUTE)
    assert found.bpm == pytest.approx(float(BEATS_PER_MINUTE), rel=TEMPO_SHARE)
    off = np.array(found.beats_s) / step
    assert np.abs(off - off.round()).max() * step < BEAT_S


def test_silence_and_a_single_click_have_no_beat():
    assert find_beats([np.zeros((SAMPLES_PER_SECOND, 2), np.float32)]) is None
    single = np.zeros((5 * SAMPLES_PER_SECOND, 2), np.float32)
    single[1000:1100] = 0.5
    assert find_beats([single]) is None


def test_long_music_is_followed_to_its_end_while_its_tempo_changes(monkeypatch):
    monkeypatch.setattr(beats, "_STRETCH_S", 25)
    sound, times = clicks(120, 0.2, 1000.0, length_s=90.0)
    found = find_beats(np.array_split(sound, 7))
    assert found is not None
    assert len(found.beats_s) == len(times)
    assert np.abs(np.array(found.beats_s) - times).max() < BEAT_S
