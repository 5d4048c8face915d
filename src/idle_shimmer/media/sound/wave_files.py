"""Sound as WAV files: 16-bit stereo, 48 000 samples per second."""

import io
import wave

import numpy as np

from idle_shimmer.media.sound.sound_parts import SAMPLES_PER_SECOND, Sound


def wave_bytes(sound: Sound) -> bytes:
    """Return ``sound``, float32 (samples, 2) in -1…1, as a WAV file."""
    data = io.BytesIO()
    with wave.open(data, "wb") as file:
        file.setnchannels(2)
        file.setsampwidth(2)
        file.setframerate(SAMPLES_PER_SECOND)
        file.writeframes(np.rint(np.clip(sound, -1, 1) * 32767).astype("<i2").tobytes())
    return data.getvalue()
