"""Sound at a changing speed: its pitch stays, its events are where the speed puts them."""

import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.sound.time_stretch import GRAIN, time_stretched

PER_S = 48_000


def tone(seconds: float, hertz: float) -> NDArray[np.float32]:
    wave = 0.5 * np.sin(2 * np.pi * hertz * np.arange(round(seconds * PER_S)) / PER_S)
    return np.stack([wave, -wave], axis=1).astype(np.float32)


def loudest_hertz(sound: NDArray[np.float32]) -> float:
    """The strongest frequency, by the zero-padded transform."""
    wave = sound[GRAIN:-GRAIN, 0] * np.hanning(len(sound) - 2 * GRAIN)
    return float(np.argmax(np.abs(np.fft.rfft(wave, 1 << 19))) * PER_S / (1 << 19))


def test_at_normal_speed_it_is_the_sound_itself() -> None:
    noise = np.random.default_rng(1).normal(0, 0.2, (PER_S, 2)).astype(np.float32)
    np.testing.assert_allclose(time_stretched(noise, lambda n: n, PER_S), noise, atol=1e-6)


@pytest.mark.parametrize("speed", [0.5, 0.8, 1.7, 3.0])
@pytest.mark.parametrize("hertz", [110.0, 440.0, 3000.0])
def test_the_pitch_stays(speed: float, hertz: float) -> None:
    source = tone(3, hertz)
    count = round(len(source) / speed)
    found = time_stretched(source, lambda n: n * speed, count)
    assert found.shape == (count, 2)
    assert loudest_hertz(found) == pytest.approx(hertz, rel=0.01)
    # As loud as before, without the beating of grains that cancel each other.
    level = np.sqrt((found[GRAIN:-GRAIN] ** 2).mean())
    assert level == pytest.approx(np.sqrt((source**2).mean()), rel=0.1)
    np.testing.assert_allclose(found[:, 0], -found[:, 1], atol=1e-6)


def test_events_lie_where_the_speed_puts_them() -> None:
    """Bursts of noise in the source, played by a speed that rises and falls."""
    source = np.zeros((2 * PER_S, 2), np.float32)
    bursts = [0.3, 0.9, 1.6]
    rng = np.random.default_rng(2)
    for at in bursts:
        first = round(at * PER_S)
        source[first : first + 2400] = rng.normal(0, 0.3, (2400, 1))

    def source_at(n: float) -> float:
        share = n / PER_S
        return float(2 * PER_S * (share - np.sin(2 * np.pi * share) / (2 * np.pi)))

    found = time_stretched(source, source_at, PER_S)
    positions = np.array([source_at(n) for n in range(PER_S)])
    for at in bursts:
        begin, end = np.searchsorted(positions, [at * PER_S, at * PER_S + 2400])
        around = np.abs(found[begin - 3000 : end + 3000, 0])
        centre = float((np.arange(len(around)) * around).sum() / around.sum()) + begin - 3000
        assert centre == pytest.approx((begin + end) / 2, abs=0.02 * PER_S)


def test_both_ends_continue_without_a_jump() -> None:
    """What is played before and after at normal speed meets the stretched part sample by sample."""
    source, pad = tone(2, 440), GRAIN
    first, end = 10_000, 70_000

    def source_at(n: float) -> float:
        share = n / 40_000
        speed_up = share + 0.5 * (share - np.sin(2 * np.pi * share) / (2 * np.pi))
        return float(pad + (end - first) * speed_up / 1.5)

    found = time_stretched(source[first - pad : end + pad], source_at, 40_000)
    whole = np.concatenate([source[:first], found, source[end:]])[:, 0]
    steepest = np.abs(np.diff(source[:, 0])).max()
    for join in (first, first + 40_000):
        assert np.abs(np.diff(whole[join - 200 : join + 200])).max() < 1.2 * steepest
