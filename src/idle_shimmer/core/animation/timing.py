"""Frame rates, the window around a cut, and time counted from the cut.

Conventions: the cut is at t = 0 in frames. Frame k covers [k, k + 1) and is sampled at its
centre, t = k + 0.5. ``u`` is t divided by the length of the window's side, so -1 is the window's
start, 0 the cut and +1 its end.
"""

import math
import re
from dataclasses import dataclass
from fractions import Fraction

from idle_shimmer.core.errors import InvalidValue

MAX_SIDE_FRAMES = 10_000
_RATE_TEXT = re.compile(r"(\d{1,7})(?:/(\d{1,7}))?|(\d{1,4}\.\d{1,6})")
_NTSC_DENOMINATOR = 1001


def parse_rate(text: str) -> Fraction:
    """Return the frame rate written as ``"25"``, ``"30000/1001"`` or ``"23.976"``, in frames a second.

    Decimals within 0.005 of a whole rate times 1000/1001 mean that rate (common practice).
    Raises InvalidValue for anything else, and outside 1 to 1000.
    """
    match = _RATE_TEXT.fullmatch(text.strip())
    if match is None or (match[2] and int(match[2]) == 0):
        raise InvalidValue(
            f"'{text}' is not a frame rate: write it as 25 or 30000/1001", field="rate"
        )
    rate = _snap_decimal(match[3]) if match[3] else Fraction(int(match[1]), int(match[2] or 1))
    if not 1 <= rate <= 1000:
        raise InvalidValue(f"{text} fps is outside 1 to 1000", field="rate")
    return rate


def _snap_decimal(text: str) -> Fraction:
    value = Fraction(text)
    ntsc = Fraction(round(value * _NTSC_DENOMINATOR / 1000) * 1000, _NTSC_DENOMINATOR)
    return ntsc if abs(ntsc - value) < Fraction(5, 1000) else value


def rate_text(rate: Fraction) -> str:
    """Return ``rate`` as the text that recipes and the API carry: ``"25"`` or ``"30000/1001"``."""
    return str(rate)


def divided(frames: int, before: int, after: int) -> tuple[int, int]:
    """Return ``frames``, at least 2, divided as ``before`` and ``after`` are; each side has at least 1."""
    share = Fraction(before, before + after)
    first = min(max(1, math.floor(frames * share + Fraction(1, 2))), frames - 1)
    return first, frames - first


@dataclass(frozen=True, slots=True)
class Window:
    """``before`` frames ahead of the cut and ``after`` frames from it, each at least 1."""

    before: int
    after: int

    def __post_init__(self) -> None:
        for name in ("before", "after"):
            count = getattr(self, name)
            if not 1 <= count <= MAX_SIDE_FRAMES:
                raise InvalidValue(
                    f"each side of a window has 1 to {MAX_SIDE_FRAMES} frames, not {count}",
                    field=f"window.{name}",
                )

    @property
    def offsets(self) -> range:
        """Frame numbers counted from the cut: -before … after - 1."""
        return range(-self.before, self.after)

    def __contains__(self, offset: int) -> bool:
        return -self.before <= offset < self.after

    def u_at(self, t: float) -> float:
        """Return the envelope time of ``t`` (frames from the cut)."""
        return t / self.before if t < 0 else t / self.after

    def u_of_frame(self, offset: int) -> float:
        """Return the envelope time of the centre of frame ``offset``."""
        return self.u_at(offset + 0.5)


def drops_frames(rate: Fraction) -> bool:
    """Whether SMPTE ST 12-1 has a drop-frame count for ``rate``: 29.97 and 59.94 frames a second."""
    return rate in (Fraction(30000, 1001), Fraction(60000, 1001))
