"""A transition of a stored edit of which only lengths and the recipe matter: no file is opened."""

from typing import Any

import numpy as np

from idle_shimmer.core.animation.edit_timing import PlayedRange
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.subject.regions import Weight
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.edits.edits import conformed_count
from idle_shimmer.store.tables import Edit
from idle_shimmer.transition.transition import SlipRoom, SubjectOf, Subjects, Transition


class ClipLength:
    """A clip of which only the length matters."""

    def __init__(self, name: str, count: int | None) -> None:
        self.name, self.count = name, count

    def frame(self, number: int) -> None:
        """Fail: nothing here may look at pictures."""
        raise AssertionError(f"frame {number} of {self.name} was asked for")


def only_marked(is_marked: bool) -> SubjectOf | None:
    """Return a subject of which only matters whether it is marked."""

    def nothing(_number: int) -> Weight:
        return np.zeros((1, 1), np.float32)

    return nothing if is_marked else None


def described(
    edit: Edit, place: int, document: CutDocument, played: list[PlayedRange], room: SlipRoom
) -> Transition:
    """Return the transition at cut ``place`` of an edit."""
    rate, sides = parse_rate(edit.rate), edit.placed[place : place + 2]
    clips: list[Any] = [
        ClipLength(each.clip.name, conformed_count(each.clip, rate)) for each in sides
    ]
    return Transition(
        clips[0],
        clips[1],
        played[place].end,
        played[place + 1].first,
        Window(document.before, document.after),
        document.recipe,
        rate=rate,
        slip_room=room,
        subjects=Subjects(*(only_marked(bool(each.strokes)) for each in sides)),
    )
