"""The waveform of a file's sound."""

from pathlib import Path

import av
import numpy as np

from idle_shimmer.media.read.index import opened
from idle_shimmer.media.sound.sound_parts import first_picture_s

PEAKS_PER_SECOND = 25
_RATE = 8_000


def peaks(path: Path) -> list[float]:
    """Return the peak (0…1) of every 1/25 s from the first picture on; empty without sound.

    Decoded in pieces: memory does not grow with the file.
    """
    length = _RATE // PEAKS_PER_SECOND
    found: list[float] = []
    rest = np.zeros(0, np.float32)
    origin_s = first_picture_s(path)
    with opened(path) as container:
        if not container.streams.audio:
            return []
        resampler = av.AudioResampler(format="flt", layout="mono", rate=_RATE)
        # Positive where the sound begins before the first picture.
        ahead: int | None = None
        try:
            for frame in container.decode(container.streams.audio[0]):
                for piece in resampler.resample(frame):
                    if ahead is None and piece.pts is not None and piece.time_base is not None:
                        ahead = round((origin_s - piece.pts * piece.time_base) * _RATE)
                        rest = np.zeros(max(0, -ahead), np.float32)
                    loud = np.abs(piece.to_ndarray().reshape(-1))
                    skipped = min(max(0, ahead or 0), len(loud))
                    ahead = max(0, ahead or 0) - skipped
                    samples = np.concatenate([rest, loud[skipped:]])
                    whole = len(samples) // length * length
                    rest = samples[whole:]
                    loudest = samples[:whole].reshape(-1, length).max(axis=1, initial=0)
                    found += np.round(np.minimum(loudest, 1), 3).tolist()
        except av.FFmpegError:
            # Damaged sound: use what could be decoded.
            return found
    return found
