"""At which frame rate an edit decision list adds up: CMX 3600 lists name none.

A list adds up where no timecode has a frame that the rate does not have, where source and record of an
event are equally long, and where its sound and pictures begin and end together. Events whose speed is
changed are left out.
"""

import re
from dataclasses import dataclass
from fractions import Fraction

from idle_shimmer.core.animation.timing import drops_frames

_CODE = r"(\d{1,2})[:;.](\d{2})[:;.](\d{2})[:;.](\d{2,3})"
_EVENT = re.compile(rf"^\s*(\d+)\s+\S.*?\s{_CODE}\s+{_CODE}\s+{_CODE}\s+{_CODE}\s*$")
_SPEED = re.compile(r"^\s*M2\s")
_DROP = re.compile(r"^\s*FCM:\s*DROP", re.IGNORECASE)
_NAMED = 8
# Most usual first: where several rates fit as well, the first one is proposed.
COMMON_RATES = (
    Fraction(25),
    Fraction(24),
    Fraction(30),
    Fraction(50),
    Fraction(60),
    Fraction(24000, 1001),
    Fraction(30000, 1001),
    Fraction(60000, 1001),
)


@dataclass(frozen=True)
class RateFit:
    """How many of a list's ``events`` add up at ``rate``.

    ``is_possible`` is False where a timecode has a frame that the rate does not have.
    """

    rate: Fraction
    fitting: int
    events: int
    is_possible: bool


@dataclass(frozen=True)
class _Event:
    codes: tuple[tuple[int, int, int, int], ...]
    has_speed: bool


def rate_fits(text: str) -> list[RateFit]:
    """Return the common rates, the best first. Lists with drop-frame timecode fit rates that have it."""
    lines = text.splitlines()
    events = _events(lines)
    drops = any(_DROP.match(line) for line in lines)
    fits = [_fit(rate, events, drops=drops) for rate in COMMON_RATES]
    return sorted(fits, key=lambda fit: (not fit.is_possible, -fit.fitting))


def mismatch_notes(text: str, rate: Fraction) -> list[str]:
    """Return what does not add up at ``rate``: an event is then as long as its source."""
    numbers = [
        number
        for number, event in _numbered(text.splitlines())
        if not event.has_speed and not _adds_up(event, round(rate))
    ]
    if not numbers:
        return []
    more = len(numbers) - _NAMED
    listed = ", ".join(map(str, numbers[:_NAMED])) + (f" and {more} more" if more > 0 else "")
    sentence = (
        f"Source and record of events {listed} are not equally long at {float(rate):g} fps: the length"
        " of the source is used."
    )
    return [sentence]


def _events(lines: list[str]) -> list[_Event]:
    return [event for _, event in _numbered(lines)]


def _numbered(lines: list[str]) -> list[tuple[int, _Event]]:
    found: list[tuple[int, _Event]] = []
    for line in lines:
        if (match := _EVENT.match(line)) is not None:
            digits = [int(each) for each in match.groups()[1:]]
            codes = tuple(
                (digits[n], digits[n + 1], digits[n + 2], digits[n + 3]) for n in range(0, 16, 4)
            )
            found.append((int(match[1]), _Event(codes, has_speed=False)))
        elif found and _SPEED.match(line):
            number, event = found[-1]
            found[-1] = number, _Event(event.codes, has_speed=True)
    return found


def _fit(rate: Fraction, events: list[_Event], *, drops: bool) -> RateFit:
    nominal = round(rate)
    frames = [code[3] for event in events for code in event.codes]
    possible = max(frames, default=0) < nominal and drops == drops_frames(rate)
    fitting = sum(event.has_speed or _adds_up(event, nominal) for event in events)
    return RateFit(rate, fitting, len(events), possible)


def _adds_up(event: _Event, nominal: int) -> bool:
    counts = [((h * 60 + m) * 60 + s) * nominal + f for h, m, s, f in event.codes]
    return counts[1] - counts[0] == counts[3] - counts[2]
