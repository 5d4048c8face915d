"""What a render will take, from what renders before it took for a million pixels."""

import json
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

_USUAL_FILE = Path(__file__).with_name("usual_rates.json")


@dataclass(frozen=True)
class Rates:
    """Bytes and seconds for a million pixels."""

    bytes_per_megapixel: float
    seconds_per_megapixel: float


@lru_cache(maxsize=1)
def _usual() -> dict[str, list[float]]:
    found: dict[str, list[float]] = json.loads(_USUAL_FILE.read_text(encoding="utf-8"))["rates"]
    return found


def usual_rates(output: str, quality: str) -> Rates:
    """Return the rates measured on the demo edit, for installations that have rendered nothing yet.

    ``scripts/quality_report`` writes them.
    """
    return Rates(*_usual()[f"{output} {quality}"])


def megapixels(size: tuple[int, int], frames: int) -> float:
    """Return how many million pixels ``frames`` frames of ``size`` (W, H) have."""
    return size[0] * size[1] * frames / 1e6
