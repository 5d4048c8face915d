"""Facts about parameters: label, unit, range, rest and kind of control.

They annotate the fields of passes and mixes. Validation, the catalogue and the interface's controls
are derived from them.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import Field

from idle_shimmer.core.envelope import Follow, stated_values
from idle_shimmer.core.geometry.movement import Movement

Unit = Literal["height", "width", "frames", "deg", "turns", "ratio", "stops", "Hz", "count", "none"]
Control = Literal[
    "amount",
    "angle",
    "whole",
    "factor",
    "point",
    "choice",
    "colour",
    "seed",
    "switch",
    "matte",
]

# How a value changes when the picture is flipped left to right or upside down: a way to the right
# or down changes its sign, a turn always does, an angle and a place are mirrored, a wave's phase
# moves by half a turn.
Flips = Literal["right", "down", "turn", "angle", "place", "phase"]
Axis = Literal["left_right", "up_down"]


@dataclass(frozen=True)
class UnitWhen:
    """Another unit, and another usual value, while the choice ``parameter`` is ``value``."""

    parameter: str
    value: str
    unit: Unit
    usual: float


@dataclass(frozen=True)
class Fact:
    """What the catalogue tells about one parameter.

    ``rest`` is the value at which the parameter does nothing, or None where it only colours what
    another one does. ``low`` and ``high`` bound every stated value, in ``unit``; values between
    stated ones are clamped to them. ``usual`` is where a new pass of the interface starts, the
    peak of its swell or the amount of its travel. ``follow`` gives the value from another pass's
    movement during a frame and the pass itself, where the parameter can follow one; unless
    ``follows_whole``, the envelope's shutter scales it. ``flips`` says how the value changes when
    the picture is flipped.
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
    follow: Callable[[Movement, Any], float] | None = None
    follows_whole: bool = False
    flips: Flips | None = None
    choices: tuple[str, ...] = ()
    unit_when: UnitWhen | None = None

    def check(self, envelope: Any) -> Any:
        """``envelope`` unchanged; ValueError where a stated value is out of range."""
        if isinstance(envelope, Follow) and self.follow is None:
            raise ValueError(f"{self.label.lower()} cannot follow a movement: use another envelope")
        for path, value in stated_values(envelope):
            for each in value if isinstance(value, tuple) else (value,):
                if not self.low <= each <= self.high:
                    where = f"{path} " if path else ""
                    raise ValueError(f"{where}must be {self.low:g} to {self.high:g}, not {each:g}")
        return envelope

    def clamp(self, value: Any) -> Any:
        """``value`` brought inside the range; texts and switches as they are."""
        if isinstance(value, tuple):
            return tuple(min(max(each, self.low), self.high) for each in value)
        if isinstance(value, str | bool):
            return value
        return min(max(value, self.low), self.high)

    def followed(self, movement: Movement, owner: Any, shutter_deg: float) -> float:
        """The value while ``movement`` is followed with a shutter of ``shutter_deg``."""
        assert self.follow is not None
        value = self.follow(movement, owner)
        return value if self.follows_whole else value * shutter_deg / 360


def choice(label: str, *values: str) -> Any:
    """The annotation of a choice among ``values``."""
    # The order is kept here: to Python, literals of the same words in another order are equal.
    return Annotated[Literal[values], Fact(label=label, control="choice", choices=values)]


def switch(label: str) -> Any:
    """The annotation of a switch, on or off."""
    return Annotated[bool, Field(strict=True), Fact(label=label, control="switch")]


def coloured(label: str) -> Any:
    """The annotation of a colour, ``"#rrggbb"`` in display code values."""
    return Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$"), Fact(label=label, control="colour")]


def seeded(label: str = "Seed") -> Any:
    """The annotation of a seed: the whole number that random passes are a function of."""
    fact = Fact(label=label, control="seed", low=0, high=2**31 - 1, step=1)
    return Annotated[int, Field(strict=True, ge=0, le=2**31 - 1), fact]
