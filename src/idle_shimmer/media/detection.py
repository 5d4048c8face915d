"""Detects the cuts of a finished edit: scores every picture, then applies a threshold.

Scoring decodes the whole file once; the threshold can then be changed at no cost.
The change from picture to picture is scenedetect's content score (mean change of hue, saturation
and brightness, in code values).
"""

from collections.abc import Callable, Iterator
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray
from scenedetect import FrameTimecode, StatsManager
from scenedetect.detectors import ContentDetector

from idle_shimmer.core.picture.encoding import Codes, Picture
from idle_shimmer.media.cut_scores import USUAL_THRESHOLD, FoundCut, cuts_above
from idle_shimmer.media.decode.client import RemoteReader, probe_index

_LONG_SIDE = 256
_THUMB = (48, 27)
# A cut changes more than the pictures around it, and the old picture does not return after it.
_AROUND, _SKIPPED = 12, 1
_LONGEST_FLASH = 4
_LEAST_CHANGE, _CLEAR_CHANGE = 3.0, 9.0
_LEAST_RATIO, _CLEAR_RATIO = 1.6, 3.0
_LEAST_STAY, _CLEAR_STAY = 0.35, 0.75
_CALM = 1.0


def find_cuts(path: Path, threshold: float = USUAL_THRESHOLD) -> list[FoundCut]:
    """Return the cuts of the video ``path`` whose confidence reaches ``threshold``."""
    return cuts_above(score_cuts(path), threshold)


def score_cuts(
    path: Path, progress: Callable[[int, int], None] | None = None
) -> NDArray[np.float64]:
    """Return, for every picture, the confidence that it begins a new shot: 0…1, float64 (count,).

    ``progress`` is called with (pictures done, pictures in all), and may raise to stop.
    """
    changes, thumbs = [], []
    for n, count, change, thumb in _measured(path):
        changes.append(change)
        thumbs.append(thumb)
        if progress is not None:
            progress(n + 1, count)
    return _confidences(np.array(changes), np.array(thumbs))


def _measured(path: Path) -> Iterator[tuple[int, int, float, NDArray[np.float32]]]:
    """Yield (number, count, change from the picture before, thumbnail) of every picture."""
    facts, index = probe_index(path)
    width, height = facts.width, facts.height
    scale = min(1.0, _LONG_SIDE / max(width, height))
    size = max(16, round(width * scale)), max(16, round(height * scale))
    stats = StatsManager()
    detector = ContentDetector()
    detector.stats_manager = stats
    rate = float(facts.rate)
    with RemoteReader(path, size, (facts, index)) as reader:
        for n in range(reader.index.count):
            picture = Picture.of_codes(reader.read(n)).to("codes").pixels
            time = FrameTimecode(n, rate)
            detector.process_frame(time, cv2.cvtColor(picture, cv2.COLOR_RGB2BGR))
            value = stats.get_metrics(time, ["content_val"])[0] if n else 0.0
            yield n, reader.index.count, float(value or 0.0), _thumb(picture)


def _thumb(picture: Codes) -> NDArray[np.float32]:
    small = cv2.resize(picture, _THUMB, interpolation=cv2.INTER_AREA)
    return cv2.GaussianBlur(small.astype(np.float32), (5, 5), 0)


def _confidences(changes: NDArray[np.float64], thumbs: NDArray[np.float32]) -> NDArray[np.float64]:
    found = np.zeros(len(changes))
    for n in range(1, len(changes)):
        if changes[n] < _LEAST_CHANGE or changes[n] < changes[max(1, n - 1) : n + 2].max():
            continue
        first, end = max(1, n - _AROUND), min(len(changes), n + _AROUND + 1)
        around = [changes[k] for k in range(first, end) if abs(k - n) > _SKIPPED]
        calm = float(np.percentile(around, 75)) if around else 0.0
        found[n] = min(
            _ramp(changes[n], _LEAST_CHANGE, _CLEAR_CHANGE),
            _ramp(changes[n] / (calm + _CALM), _LEAST_RATIO, _CLEAR_RATIO),
            _ramp(_stays(thumbs, n), _LEAST_STAY, _CLEAR_STAY),
        )
    return found


def _ramp(value: float, low: float, high: float) -> float:
    return min(max((value - low) / (high - low), 0.0), 1.0)


def _stays(thumbs: NDArray[np.float32], n: int) -> float:
    """Return the share of the change at ``n`` that remains after a flash around it: 1 for a cut."""
    at_once = _apart(thumbs, n - 1, n)
    before = range(max(0, n - 1 - _LONGEST_FLASH), n)
    after = range(n, min(len(thumbs), n + _LONGEST_FLASH + 1))
    nearest = min(_apart(thumbs, i, j) for i in before for j in after)
    return nearest / max(at_once, 1e-6)


def _apart(thumbs: NDArray[np.float32], i: int, j: int) -> float:
    return float(np.abs(thumbs[i] - thumbs[j]).mean())
