"""Transitions of which only lengths and the recipe matter: no file is opened, no picture looked at."""

from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from idle_shimmer.core.animation.shot import WHOLE, Shot, Shots
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.subject.regions import Weight
from idle_shimmer.transition.transition import SlipRoom, SubjectOf, Subjects, Transition

_UNLIMITED = SlipRoom()


@dataclass(frozen=True)
class ClipLength:
    """A clip by its name and its number of frames, None for a still.

    ``at_cut`` is the frame at which it meets the cut: of the outgoing clip that after its last. ``shot`` are the
    frames that may be shown.
    """

    name: str
    count: int | None
    at_cut: int
    is_marked: bool = False
    shot: Shot = WHOLE

    def frame(self, number: int) -> np.ndarray:
        """Fail: nothing here may look at pictures."""
        raise AssertionError(f"frame {number} of {self.name} was asked for")


@dataclass(frozen=True)
class Surrounded:
    """The two clips of a cut, and the source frames beyond their far ends."""

    outgoing: ClipLength
    incoming: ClipLength
    room: SlipRoom = _UNLIMITED


def transition_between(
    sides: Surrounded, window: Window, recipe: Recipe, rate: Fraction
) -> Transition:
    """Return the transition between two clips of which only the lengths are known."""
    return Transition(
        sides.outgoing,
        sides.incoming,
        sides.outgoing.at_cut,
        sides.incoming.at_cut,
        window,
        recipe,
        rate=rate,
        slip_room=sides.room,
        subjects=Subjects(*(_marked(each.is_marked) for each in (sides.outgoing, sides.incoming))),
        shots=Shots(sides.outgoing.shot, sides.incoming.shot),
    )


def _marked(is_marked: bool) -> SubjectOf | None:
    """Return a subject of which only matters whether it is marked."""

    def nothing(_number: int) -> Weight:
        return np.zeros((1, 1), np.float32)

    return nothing if is_marked else None
