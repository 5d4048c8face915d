"""Easing curves: the names and syntax of W3C CSS Easing Functions, and the steepness dial.

Sources: W3C CSS Easing Functions Level 1 (keyword control points, the steps algorithm and the
linear extension beyond the ends), Level 2 (``linear()`` with stops); both from memory. Input and output are progress, without unit:
0 at the start, 1 at the end. Outside 0…1 a cubic curve continues along its end tangent.
"""

import itertools
import math
import re
from bisect import bisect_right
from collections.abc import Callable
from functools import lru_cache
from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from idle_shimmer.core.errors import InvalidValue

Curve = Callable[[float], float]

KEYWORDS: dict[str, tuple[float, float, float, float]] = {
    "linear": (0.0, 0.0, 1.0, 1.0),
    "ease": (0.25, 0.1, 0.25, 1.0),
    "ease-in": (0.42, 0.0, 1.0, 1.0),
    "ease-out": (0.0, 0.0, 0.58, 1.0),
    "ease-in-out": (0.42, 0.0, 0.58, 1.0),
}
_NUMBER = r"\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*"
_CUBIC = re.compile(rf"cubic-bezier\({_NUMBER},{_NUMBER},{_NUMBER},{_NUMBER}\)", re.IGNORECASE)
_STEPS = re.compile(
    r"steps\(\s*(\d+)\s*(?:,\s*(start|end|jump-start|jump-end)\s*)?\)", re.IGNORECASE
)
_STOPS = re.compile(r"linear\((.*)\)", re.IGNORECASE | re.DOTALL)
_WORD = re.compile(_NUMBER, re.IGNORECASE)
_MAX_STOPS = 1000
_BISECTION_ROUNDS = 60
_NEWTON_ROUNDS = 8
# Half of the chord that approximates a tangent: far above rounding, far below a frame.
_CHORD = 1e-5


class Steepness(BaseModel):
    """One dial for "slow, very fast at the cut, slow": cubic-bezier(s, 0, 1 - s, 1)."""

    model_config = ConfigDict(extra="forbid", frozen=True)
    steepness: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]


def _parsed(text: str) -> str:
    curve_of_text(text)
    return text


EasingText = Annotated[str, AfterValidator(_parsed)]
Easing = EasingText | Steepness


def curve(easing: Easing) -> Curve:
    """Return the function progress -> eased progress of ``easing``. Raises InvalidValue if unknown."""
    if isinstance(easing, Steepness):
        return cubic_bezier(easing.steepness, 0.0, 1.0 - easing.steepness, 1.0)
    return curve_of_text(easing)


@lru_cache(maxsize=512)
def curve_of_text(text: str) -> Curve:
    """Return the function of an easing as text: a keyword or one of the functions of CSS."""
    name = text.strip().lower()
    if points := control_points(name):
        return cubic_bezier(*points)
    if match := _STEPS.fullmatch(name):
        return steps(int(match[1]), at_start=(match[2] or "end").endswith("start"))
    if match := _STOPS.fullmatch(name):
        return _through(*zip(*_stops(text, match[1]), strict=True))
    known = ", ".join(KEYWORDS)
    raise InvalidValue(
        f"'{text}' is not an easing: use {known}, cubic-bezier(x1,y1,x2,y2), steps(n,start|end),"
        " linear(stops)"
        ' or {"steepness": 0…1}'
    )


@lru_cache(maxsize=512)
def cubic_bezier(x1: float, y1: float, x2: float, y2: float) -> Curve:
    """Return the cubic Bézier curve with the points (0,0), (x1,y1), (x2,y2), (1,1), as a function of x.

    ``x1`` and ``x2`` lie in 0…1 (InvalidValue otherwise); y may overshoot.
    """
    for name, x in (("x1", x1), ("x2", x2)):
        if not 0 <= x <= 1:
            raise InvalidValue(f"{name} of cubic-bezier must lie in 0…1, not {x:g}")
    if not (math.isfinite(y1) and math.isfinite(y2)):
        raise InvalidValue("y1 and y2 of cubic-bezier must be finite numbers")
    if (x1, x2) == (y1, y2):
        return _identity
    before, after = _end_slopes(x1, y1, x2, y2)

    def eased(x: float) -> float:
        if x <= 0:
            return before * x
        if x >= 1:
            return 1.0 + after * (x - 1.0)
        s = parameter_at(x, x1, x2)
        return _polynomial(s, y1, y2)

    return eased


def control_points(easing: Easing) -> tuple[float, float, float, float] | None:
    """Return (x1, y1, x2, y2) of a cubic curve; None for steps and ``linear()``."""
    if isinstance(easing, Steepness):
        return easing.steepness, 0.0, 1.0 - easing.steepness, 1.0
    name = easing.strip().lower()
    if name in KEYWORDS:
        return KEYWORDS[name]
    match = _CUBIC.fullmatch(name)
    if match is None:
        return None
    x1, y1, x2, y2 = (float(part) for part in match.groups())
    return x1, y1, x2, y2


def is_stepped(easing: Easing) -> bool:
    """Whether ``easing`` jumps on purpose."""
    return isinstance(easing, str) and easing.strip().lower().startswith("steps")


def _identity(x: float) -> float:
    return x


def slope(easing: Easing) -> Curve:
    """Return the derivative of ``curve(easing)``: eased progress per progress.

    It is 0 for ``steps()``; where a cubic curve is vertical it is the slope of a narrow chord, a
    large finite number.
    """
    eased = curve(easing)
    if is_stepped(easing):
        return lambda _x: 0.0

    def steep(x: float) -> float:
        return (eased(x + _CHORD) - eased(x - _CHORD)) / (2 * _CHORD)

    return steep


def _polynomial(s: float, first: float, second: float) -> float:
    """Return one coordinate of the curve at parameter ``s``, by Horner's rule."""
    c = 3.0 * first
    b = 3.0 * (second - first) - c
    return ((1.0 - c - b) * s + b) * s * s + c * s


def parameter_at(x: float, x1: float, x2: float) -> float:
    """Return the parameter at which the curve's x reaches ``x``: Newton, then bisection."""
    c = 3.0 * x1
    b = 3.0 * (x2 - x1) - c
    a = 1.0 - c - b
    s = x
    for _ in range(_NEWTON_ROUNDS):
        error = ((a * s + b) * s + c) * s - x
        if abs(error) < 1e-12:
            return s
        slope = (3.0 * a * s + 2.0 * b) * s + c
        if abs(slope) < 1e-6:
            break
        s -= error / slope
    low, high = 0.0, 1.0
    for _ in range(_BISECTION_ROUNDS):
        s = 0.5 * (low + high)
        low, high = (s, high) if ((a * s + b) * s + c) * s < x else (low, s)
    return s


def _end_slopes(x1: float, y1: float, x2: float, y2: float) -> tuple[float, float]:
    """Return the tangent slopes at (0,0) and (1,1); a vertical tangent counts as 0, as in CSS Level 1."""
    if x1 > 0:
        start = y1 / x1
    else:
        start = y2 / x2 if y1 == 0 and x2 > 0 else (1.0 if (y1, y2, x2) == (0, 0, 0) else 0.0)
    if x2 < 1:
        end = (y2 - 1) / (x2 - 1)
    else:
        end = (
            (y1 - 1) / (x1 - 1)
            if y2 == 1 and x1 < 1
            else (1.0 if (y1, y2, x1) == (1, 1, 1) else 0.0)
        )
    return start, end


def stops_of(easing: Easing) -> list[tuple[float, float]] | None:
    """Return the stops (input, output) of a ``linear()``; None for any other easing."""
    match = _STOPS.fullmatch(easing.strip()) if isinstance(easing, str) else None
    return None if match is None else _stops(str(easing), match[1])


def _stops(text: str, listed: str) -> list[tuple[float, float]]:
    """Return the stops (input, output) of ``linear()``; Level 2, "linear easing function"."""
    outputs: list[float] = []
    inputs: list[float | None] = []
    for part in listed.split(","):
        words = part.split()
        numbers = [word for word in words if not word.endswith("%")]
        shares = [_number(word[:-1], text) / 100 for word in words if word.endswith("%")]
        # The percentages stand together, before the number or after it.
        apart = len(words) == 3 and not words[1].endswith("%")
        if len(numbers) != 1 or len(shares) > 2 or apart:
            raise InvalidValue(
                f"'{text}' is not an easing: a stop of linear() is a number and up to two percentages,"
                f" not '{part.strip()}'"
            )
        places: list[float | None] = [*shares] or [None]
        for share in places:
            outputs.append(_number(numbers[0], text))
            inputs.append(share)
    if not 2 <= len(outputs) <= _MAX_STOPS:
        raise InvalidValue(f"'{text}' is not an easing: linear() takes 2 to {_MAX_STOPS} stops")
    return list(zip(_placed(inputs), outputs, strict=True))


def _number(word: str, text: str) -> float:
    if not _WORD.fullmatch(word):
        raise InvalidValue(f"'{text}' is not an easing: '{word}' is not a number")
    return float(word)


def _placed(given: list[float | None]) -> list[float]:
    """Return the inputs of stops: never decreasing, those left out spread evenly between the others."""
    first, *between, last = given
    inputs: list[float | None] = [first or 0.0, *between, 1.0 if last is None else last]
    most = -math.inf
    for n, each in enumerate(inputs):
        if each is not None:
            inputs[n] = most = max(most, each)
    known = [n for n, each in enumerate(inputs) if each is not None]
    placed = [0.0 if each is None else each for each in inputs]
    for one, other in itertools.pairwise(known):
        for n in range(one + 1, other):
            placed[n] = placed[one] + (placed[other] - placed[one]) * (n - one) / (other - one)
    return placed


def _through(inputs: tuple[float, ...], outputs: tuple[float, ...]) -> Curve:
    """Return straight lines between points, the outermost ones going on beyond the ends."""

    def eased(x: float) -> float:
        # Of several points at one place the last counts.
        after = min(max(bisect_right(inputs, x), 1), len(inputs) - 1)
        begin, end = inputs[after - 1], inputs[after]
        if begin == end:
            return outputs[after - 1] if x < begin else outputs[after]
        share = (x - begin) / (end - begin)
        return outputs[after - 1] + (outputs[after] - outputs[after - 1]) * share

    return eased


@lru_cache(maxsize=128)
def steps(count: int, *, at_start: bool) -> Curve:
    """Return ``count`` equal steps (at least 1); ``at_start`` jumps at the beginning of each."""
    if not 1 <= count <= 10_000:
        raise InvalidValue(f"steps() takes 1 to 10000 steps, not {count}")

    def eased(x: float) -> float:
        step = math.floor(x * count) + (1 if at_start else 0)
        if x >= 0:
            step = max(step, 0)
        if x <= 1:
            step = min(step, count)
        return step / count

    return eased
