"""Makes the sound of an accent, for a window at a frame rate: the same samples wherever it is heard."""

import numpy as np

from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.times import u_of
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.sound.accent import Accent, PlacedSound, SoundClip, SoundOf, sample_at_u
from idle_shimmer.core.sound.fades import faded_halves
from idle_shimmer.core.sound.levels import gain_of_db
from idle_shimmer.core.sound.loudest import loudest_sample, moved, with_loudest_at
from idle_shimmer.core.sound.movement_speed import movement_speed
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound
from idle_shimmer.core.sound.sounds.base import Samples, Shape, registered
from idle_shimmer.core.sound.time_stretch import time_stretched

# How far to the sides a sideways movement carries the sound, and how much duller a slow one is.
_WIDTH = 0.8
_SHORTEST = SAMPLES_PER_SECOND // 200


def accent_sound(
    accent: Accent, timeline: Timeline, sound_of: SoundOf | None = None
) -> PlacedSound:
    """Return ``accent``, the timeline's, placed from the cut's sample.

    ``sound_of`` returns a sound of the user's, float32 (samples, 2), by its id. Raises InvalidValue where
    it is silent or missing.
    """
    window, rate = timeline.window, timeline.rate
    start, peak, end = (
        sample_at_u(u_of(each), window, rate) for each in (accent.start, accent.peak, accent.end)
    )
    own = None if isinstance(accent.sound, str) else _own_sound(accent.sound, sound_of)
    if not accent.stretch:
        before, after = _natural_halves(accent, own)
        start, end = peak - before, peak + after
    end = max(end, start + _SHORTEST)
    peak = min(max(peak, start), end - 1)
    count, at = end - start, peak - start
    pan = None
    speed: Samples | None = None
    if accent.follow is not None:
        speed, pan = _followed(accent.follow, timeline, start, count)
        if speed.any():
            at = int(speed.argmax())
        else:
            speed = pan = None
    gains = faded_halves(count, at, accent.fade_in, accent.fade_out)
    if own is None:
        shape = Shape(count, at, accent.seed, accent.brightness, accent.body, speed)
        made = registered()[str(accent.sound)].make(shape) * gains[:, None]
        made = with_loudest_at(made, at)
    else:
        made = _stretched(own, count, at) * gains[:, None]
        if speed is not None:
            made = made * speed[:, None]
        made = moved(made, at - loudest_sample(made))
    made = _normalised(made)
    if pan is not None:
        made = made * np.stack([1 - pan.clip(0), 1 + pan.clip(None, 0)], axis=1)
        made = _normalised(made)
    return PlacedSound(start, (made * gain_of_db(accent.gain_db)).astype(np.float32))


def _own_sound(sound: SoundClip, sound_of: SoundOf | None) -> Sound:
    if sound_of is None:
        raise InvalidValue(f"the sound '{sound.clip}' cannot be read here", field="accent.sound")
    own = np.asarray(sound_of(sound.clip), np.float32)
    if not own.any():
        raise InvalidValue(
            f"the sound '{sound.clip}' is silent: choose another", field="accent.sound"
        )
    return own


def _natural_halves(accent: Accent, own: Sound | None) -> tuple[int, int]:
    """Return how many samples an accent that is not stretched has before and after its peak."""
    if own is not None:
        loudest = loudest_sample(own)
        return loudest, len(own) - loudest
    before, after = registered()[str(accent.sound)].natural_s
    return round(before * SAMPLES_PER_SECOND), round(after * SAMPLES_PER_SECOND)


def _followed(target: str, timeline: Timeline, start: int, count: int) -> tuple[Samples, Samples]:
    """Return the speed, 0…1, and the place, -1 left … 1 right, at every sample."""
    seconds = (start + np.arange(count)) / SAMPLES_PER_SECOND
    found = movement_speed(timeline, target, float(seconds[0]), float(seconds[-1]))
    speed = np.interp(seconds, found.seconds, found.speed)
    passed = np.interp(seconds, found.seconds, found.passed)
    return speed, _WIDTH * found.sideways * (2 * passed - 1)


def _stretched(own: Sound, count: int, peak: int) -> Samples:
    """Return the sound over ``count`` samples, its loudest moment at ``peak``, its pitch kept."""
    loudest = loudest_sample(own)
    before = loudest / max(peak, 1)
    after = (len(own) - loudest) / max(count - peak, 1)

    def source_at(sample: float) -> float:
        if sample < peak:
            return sample * before
        return loudest + (sample - peak) * after

    same = len(own) == count and loudest == peak
    made = own if same else time_stretched(own, source_at, count)
    return made.astype(np.float64)


def _normalised(sound: Samples) -> Samples:
    most = float(np.abs(sound).max(initial=0.0))
    return sound / most if most > 0 else sound
