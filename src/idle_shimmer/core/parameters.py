"""Parameters: label, unit, range, rest, control, and what a value means to the picture.

A ``Parameter`` annotates a field of a filter, a mix or a speed ramp. Validation, the catalogue, the
interface's controls, the cut checks and the adjustments of whole recipes are derived from it.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field

from idle_shimmer.core.animation.envelope import Animated, Follow, stated_values
from idle_shimmer.core.animation.values import Interpolation
from idle_shimmer.core.geometry.movement import Movement
from idle_shimmer.core.orientation import Orientation

Unit = Literal["height", "width", "frames", "deg", "turns", "ratio", "stops", "Hz", "count", "none"]
Control = Literal[
    "amount",
    "angle",
    "whole",
    "factor",
    "radius",
    "ellipse",
    "point",
    "choice",
    "colour",
    "seed",
    "switch",
    "matte",
]


@dataclass(frozen=True)
class UnitWhen:
    """Another unit, and another usual value, while the choice ``parameter`` is ``value``."""

    parameter: str
    value: str
    unit: Unit
    usual: float


@dataclass(frozen=True)
class Following:
    """How a parameter follows a movement: ``measure(movement, filter)`` is its value.

    Unless ``whole``, the envelope's shutter scales the value. With ``noticeable``, the curve of this
    parameter must keep pace with the movement under it (check ``pace``); it gives the least value
    that counts as a movement.
    """

    measure: Callable[[Movement, Any], float]
    whole: bool = False
    noticeable: Callable[[Any], float] | None = None


@dataclass(frozen=True)
class Parameter:
    """What is known of one parameter.

    ``rest`` is the value at which the parameter does nothing, or None where it only qualifies what
    another one does. ``low`` and ``high`` bound every stated value, in ``unit``; values between
    stated ones are clamped to them. ``usual`` is where a new filter of the interface starts: the
    peak of its swell or the amount of its travel, as ``moves`` says. ``follow`` is there where the
    parameter can follow a movement. ``orientation`` says how the value changes when the picture is
    flipped or turned; ``turned`` names the parameter whose part it takes when that is by a quarter. ``period(filter)`` is how far the value goes until the picture is the same again;
    parameters with a period must land on a multiple of it. ``interpolation`` is how the value runs
    between two stated ones.
    """

    label: str
    control: Control
    unit: Unit = "none"
    rest: float | None = None
    low: float = 0.0
    high: float = 1.0
    step: float = 0.01
    usual: float | None = None
    moves: Literal["swell", "travel", "hold"] = "hold"
    follow: Following | None = None
    orientation: Orientation | None = None
    period: Callable[[Any], float] | None = None
    interpolation: Interpolation = "linear"
    choices: tuple[str, ...] = ()
    unit_when: UnitWhen | None = None
    turned: str | None = None

    def check(self, envelope: Any) -> Any:
        """Return ``envelope`` unchanged; raise ValueError where it states what cannot be."""
        if isinstance(envelope, Follow) and self.follow is None and self.control != "point":
            raise ValueError(f"{self.label.lower()} cannot follow a movement: use another envelope")
        for path, value in stated_values(envelope):
            for number in value if isinstance(value, tuple) else (value,):
                if not self.low <= number <= self.high:
                    where = f"{path} " if path else ""
                    raise ValueError(
                        f"{where}must be {self.low:g} to {self.high:g}, not {number:g}"
                    )
        if (
            isinstance(envelope, Animated)
            and envelope.interpolation == "ratio"
            and self.interpolation != "ratio"
        ):
            raise ValueError(f"{self.label.lower()} can only be interpolated linearly")
        return envelope

    def clamp(self, value: Any) -> Any:
        """Return ``value`` brought inside the range; texts and switches as they are."""
        if isinstance(value, tuple):
            return tuple(min(max(number, self.low), self.high) for number in value)
        if isinstance(value, str | bool):
            return value
        return min(max(value, self.low), self.high)

    def followed(self, movement: Movement, owner: Any, shutter_deg: float) -> float:
        """Return the value of ``owner`` while it follows ``movement`` with an open shutter."""
        assert self.follow is not None
        value = self.follow.measure(movement, owner)
        return value if self.follow.whole else value * shutter_deg / 360


def choice(label: str, *values: str, orientation: Orientation | None = None) -> Any:
    """Return the annotation of a choice among ``values``."""
    # The order is kept here: to Python, literals of the same words in another order are equal.
    parameter = Parameter(label=label, control="choice", choices=values, orientation=orientation)
    return Annotated[Literal[values], parameter]


def switch(label: str) -> Any:
    """Return the annotation of a switch, on or off."""
    return Annotated[bool, Field(strict=True), Parameter(label=label, control="switch")]


def coloured(label: str) -> Any:
    """Return the annotation of a colour, ``"#rrggbb"`` in display code values."""
    parameter = Parameter(label=label, control="colour")
    return Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$"), parameter]


def seeded(label: str = "Seed") -> Any:
    """Return the annotation of a seed: the whole number that random filters are a function of."""
    parameter = Parameter(label=label, control="seed", low=0, high=2**31 - 1, step=1)
    return Annotated[int, Field(strict=True, ge=0, le=2**31 - 1), parameter]
