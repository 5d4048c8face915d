"""The plan of one frame: what is read for it and which filters make it, found once and handed down.

Whoever reads the sources of a frame, renders it or checks it goes by the same plan.
"""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property
from itertools import groupby
from typing import Any, get_args

import numpy as np

from idle_shimmer.core.animation.retime import ClipSide, SourceFrames
from idle_shimmer.core.animation.slips import Slipped
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import Filter, FrameContext, GeometryFilter, Side
from idle_shimmer.core.frame.needs import Needs, needs, shown_layer
from idle_shimmer.core.geometry.transforms import CoordinateTransform
from idle_shimmer.core.picture.encoding import Encoding, Picture
from idle_shimmer.core.recipe import Recipe

# An open shutter is probed at so many times to see whether a filter rests throughout.
_REST_PROBES = 9
ANY_RATE = Fraction(25)


@dataclass(frozen=True)
class FramePlan:
    """Frame ``offset`` from the cut of ``recipe`` over ``window``, at ``rate`` frames a second.

    The recipe's times have been placed in the window.
    """

    recipe: Recipe
    window: Window
    offset: int
    rate: Fraction = ANY_RATE

    @classmethod
    def of(cls, timeline: Timeline, offset: int) -> "FramePlan":
        """Return the plan of a frame of a timeline."""
        return cls(timeline.recipe, timeline.window, offset, timeline.rate)

    @property
    def is_inside(self) -> bool:
        """Whether the frame lies in the window; one outside is its source."""
        return self.offset in self.window

    @property
    def own_side(self) -> ClipSide:
        """The side of the cut that the frame lies on."""
        return "outgoing" if self.offset < 0 else "incoming"

    @cached_property
    def progress(self) -> float:
        """How much of the incoming picture the mix shows, 0…1."""
        return self.recipe.mix.progress(self.window.u_of_frame(self.offset))

    @cached_property
    def needs(self) -> Needs:
        """Which of the two clips are read."""
        return needs(self.recipe, self.window, self.offset)

    @cached_property
    def layer(self) -> ClipSide | None:
        """The clip whose subject lies over the mix; None where there is none."""
        return shown_layer(self.recipe, self.window, self.offset)

    def source_frames(self, side: ClipSide) -> SourceFrames:
        """Return the frames that a side shows, counted from its clip's frame at the cut."""
        return self.recipe.retime.ramp(side, self.window).source_frames(self.offset)

    def slipped(self, side: ClipSide) -> Slipped | None:
        """Return where the background of a side comes from; None where it is in its place."""
        return self.recipe.retime.slipped(side, self.window, self.offset)

    @cached_property
    def _by_size(self) -> dict[tuple[int, int], "FilterPlan"]:
        return {}

    def filters(self, size: tuple[int, int]) -> "FilterPlan":
        """Return the filters at work in a frame of ``size`` (W, H), found once."""
        if size not in self._by_size:
            timeline = Timeline(self.recipe, self.window, self.rate, size)
            self._by_size[size] = FilterPlan(timeline, self.offset)
        return self._by_size[size]


@dataclass(frozen=True)
class Working:
    """A filter at work in a frame, and its values there."""

    owner: Filter
    values: Mapping[str, Any]

    @property
    def composes(self) -> bool:
        """Whether it becomes a stage of one map with its neighbours."""
        owner = self.owner
        if not isinstance(owner, GeometryFilter) or owner.region is not None:
            return False
        return bool(self.values["opacity"] == 1)


@dataclass(frozen=True)
class Group:
    """Neighbouring filters at work: composed into one map, or each for itself."""

    is_composed: bool
    members: tuple[Working, ...]


class FilterPlan:
    """The filters at work in frame ``offset`` of a timeline, on each side, with their values."""

    def __init__(self, timeline: Timeline, offset: int) -> None:
        self.timeline, self.offset, self.t = timeline, offset, offset + 0.5
        working: dict[str, list[Working]] = {side: [] for side in get_args(Side)}
        for owner in timeline.recipe.filters:
            if not owner.enabled:
                continue
            values = timeline.values(owner, self.t)
            if not self._rests(owner, values):
                working[owner.side].append(Working(owner, values))
        self._groups = {side: tuple(_grouped(each)) for side, each in working.items()}

    @property
    def recipe(self) -> Recipe:
        """The recipe whose filters they are."""
        return self.timeline.recipe

    def groups(self, side: Side) -> tuple[Group, ...]:
        """Return the filters at work on a side, in order."""
        return self._groups[side]

    def is_shown_alone(self, side: ClipSide) -> bool:
        """Whether the frame shows nothing of the other clip before the filters across."""
        progress = self.recipe.mix.progress(self.timeline.window.u_of_frame(self.offset))
        return progress <= 0 if side == "outgoing" else progress >= 1

    def maps_first(self, side: ClipSide) -> bool:
        """Whether the first thing that is done with the picture of ``side`` is to map it."""
        groups = self.groups(side)
        if not groups and self.is_shown_alone(side):
            groups = self.groups("across")
        return bool(groups) and groups[0].is_composed

    def looks_for_subject(self, side: Side) -> bool:
        """Whether a filter at work on ``side`` acts where the subject is, or where it is not."""
        return any(
            each.owner.region is not None and each.owner.region.needs_subject
            for group in self.groups(side)
            for each in group.members
        )

    def encoding_into(self, side: Side, resting: Encoding) -> Encoding:
        """Return the encoding that the filters of ``side`` work in; ``resting`` without any."""
        return self.recipe.light if self.groups(side) else resting

    def context(self, other: Callable[[], Picture] | None) -> FrameContext:
        """Return where and when the filters work; ``other`` gives the other clip's picture."""
        return self.timeline.context(self.t, self.offset, other)

    def stage(self, working: Working, t: float) -> CoordinateTransform:
        """Return the stage of a geometry filter at ``t``; beyond a subject's picture nothing is seen."""
        owner = working.owner
        assert isinstance(owner, GeometryFilter)
        values = working.values if t == self.t else self.timeline.values(owner, t)
        stage = owner.stage(values, self.timeline.context(t, self.offset))
        if owner.side == "subject" and stage.edge != "tile":
            return CoordinateTransform(stage.move, stage.parameters, "clear")
        return stage

    def _rests(self, owner: Filter, values: Mapping[str, Any]) -> bool:
        """Whether a filter does nothing at this frame, the open shutter included."""
        if self.recipe.shutter == 0 or not isinstance(owner, GeometryFilter):
            return owner.is_at_rest(values)
        span = self.recipe.shutter / 360
        times = np.linspace(self.t - span / 2, self.t + span / 2, _REST_PROBES)
        return all(owner.is_at_rest(self.timeline.values(owner, float(t))) for t in times)


def _grouped(working: list[Working]) -> Iterator[Group]:
    for composed, members in groupby(working, key=lambda each: each.composes):
        yield Group(composed, tuple(members))
