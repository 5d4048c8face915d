"""Speed ramps: which source frames are shown, anchored at the cut, and what they use."""

from fractions import Fraction
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from idle_shimmer.core.animation.easing import curve
from idle_shimmer.core.animation.edit_timing import CutTiming, played_ranges
from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide, Ramp, Retime, Retimes
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue, RecipeError, SpareFramesMissing
from idle_shimmer.core.frame.needs import spare_frames_needed
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.transition.missing_frames import (
    require_frames,
    require_window,
    shortages,
    span_that_fits,
)
from idle_shimmer.transition.transition import SlipRoom, Transition

WINDOW = Window(8, 12)


class Numbered:
    """A clip whose every frame is a flat grey of twice its number."""

    name = "numbered"

    def __init__(self, count: int = 100) -> None:
        self.count = count

    def frame(self, number: int) -> np.ndarray:
        assert 0 <= number < self.count
        return np.full((4, 6, 3), 2 * number, np.uint8)


def ramped(peak: float, **more: object) -> dict:
    return {"speed": {"kind": "swell", "peak": peak}, **more}


def ramp_of(retime: dict, side: ClipSide, window: Window = WINDOW) -> Ramp:
    return recipe_from_json({"retime": {side: retime}}).retime.ramp(side, window)


def shown(recipe: dict, offset: int, rate: int = 25) -> float:
    made = Transition(
        Numbered(), Numbered(), 60, 30, WINDOW, recipe_from_json(recipe), rate=Fraction(rate)
    )
    return float(made.frame(offset).mean()) / 2


@pytest.mark.parametrize("peak", [0.25, 3.0, 6.5])
def test_positions_are_the_integral_of_the_speed(peak: float) -> None:
    """Against scipy's adaptive quadrature of the swell's own formula, scaled to a whole number."""
    ramp = ramp_of(ramped(peak), "incoming")

    def speed(t: float) -> float:
        return 1 + (peak - 1) * (1 - curve("ease-out")(t / WINDOW.after))

    whole = quad(speed, 0, WINDOW.after)[0]
    factor = round(whole) / whole
    assert ramp.extra_frames == round(whole) - WINDOW.after
    for offset in (0, 3, 11):
        expected = factor * quad(speed, 0, offset + 0.5)[0] - 0.5
        assert ramp.position(offset) == pytest.approx(expected, abs=0.01)
        assert ramp.speed_at(offset + 0.5) == pytest.approx(factor * speed(offset + 0.5), abs=1e-3)


@given(st.integers(-40, 40))
def test_without_a_ramp_every_frame_is_its_own(offset: int) -> None:
    found = Retimes().ramp("outgoing", WINDOW).source_frames(offset)
    assert (found.first, found.second, found.share) == (offset, offset, 0.0)


SPEEDS = st.one_of(
    st.floats(0, 6),
    st.builds(
        lambda peak, rise, fall: {"kind": "swell", "peak": peak, "rise": rise, "fall": fall},
        st.floats(0, 8),
        st.sampled_from(["linear", "ease-in", "ease-out", "ease-in-out"]),
        st.sampled_from(["linear", "ease-in", "ease-out", "ease-in-out"]),
    ),
    st.builds(
        lambda values: {
            "kind": "keyframes",
            "keyframes": [{"at": n / 2 - 1, "value": v} for n, v in enumerate(values)],
        },
        st.lists(st.floats(0, 5), min_size=5, max_size=5),
    ),
)
RETIMES = st.builds(
    lambda speed, sampling, in_edit: {"speed": speed, "sampling": sampling, "in_edit": in_edit},
    SPEEDS,
    st.sampled_from(["nearest", "blend"]),
    st.sampled_from(["slip", "ripple"]),
)
WINDOWS = st.builds(Window, st.integers(1, 40), st.integers(1, 40))


@given(RETIMES, WINDOWS, st.sampled_from(CLIP_SIDES))
def test_outside_a_window_every_frame_is_one_source_frame(
    retime: dict, window: Window, side: ClipSide
) -> None:
    """The source runs on frame by frame, from where the window ends: nothing is left out or twice."""
    ramp = ramp_of(retime, side, window)
    outside = (
        range(-window.before - 6, -window.before)
        if side == "outgoing"
        else range(window.after, window.after + 6)
    )
    found = [ramp.source_frames(offset) for offset in outside]
    assert all(each.first == each.second and each.share == 0 for each in found)
    shift = -ramp.extra_frames if side == "outgoing" else ramp.extra_frames
    assert [each.first for each in found] == [offset + shift for offset in outside]
    # Inside it lies between what is shown outside and the cut, and never runs backwards.
    own = range(-window.before, 0) if side == "outgoing" else range(window.after)
    inside = [ramp.source_frames(offset) for offset in own]
    low, high = (found[-1].first + 1, -1) if side == "outgoing" else (0, found[0].first - 1)
    # A clip that stands still shows the frame that it has come to.
    low, high = (min(low, high), high) if side == "outgoing" else (low, max(low, high))
    assert all(low <= each.first and each.second <= high for each in inside)
    assert all(one.first <= other.first for one, other in pairwise(inside))


@given(RETIMES, RETIMES, RETIMES, WINDOWS, WINDOWS)
def test_an_edit_plays_its_clips_without_gaps(
    out_0: dict, in_0: dict, out_1: dict, first: Window, second: Window
) -> None:
    """From one window to the next every source frame is shown once, whatever the ramps at both ends."""
    cuts = [
        CutTiming(window, recipe_from_json({"retime": retime}).retime)
        for window, retime in (
            (first, {"outgoing": out_0, "incoming": in_0}),
            (second, {"outgoing": out_1}),
        )
    ]
    placed = [(500, 900), (1000, 1600), (40, 640)]
    played = played_ranges(placed, cuts)
    for n, each in enumerate(played):
        windows = (first.after if n == 1 else second.after if n == 2 else 0) + (
            first.before if n == 0 else second.before if n == 1 else 0
        )
        # Windows and what lies between them fill the clip's frames of the edit.
        assert each.untreated_end - each.untreated_first + windows == each.frames
    middle = played[1]
    incoming = cuts[0].retimes.ramp("incoming", first)
    outgoing = cuts[1].retimes.ramp("outgoing", second)
    assert middle.first + incoming.source_frames(first.after).first == middle.untreated_first
    assert middle.end + outgoing.source_frames(-second.before - 1).first == middle.untreated_end - 1
    slips = [ramp for ramp in (incoming, outgoing) if ramp.retime.in_edit == "slip"]
    ripples = [ramp for ramp in (incoming, outgoing) if ramp.retime.in_edit == "ripple"]
    assert middle.end - middle.first == 600 + sum(each.extra_frames for each in slips)
    assert middle.frames == 600 - sum(each.extra_frames for each in ripples)


def test_a_steady_speed_is_anchored_at_the_cut_and_normal_outside() -> None:
    recipe = {"retime": {"outgoing": {"speed": 2.0}, "incoming": {"speed": 0.5}}}
    # Twice as fast up to the cut: the frame ahead of it is half a frame earlier than usual.
    assert [shown(recipe, k) for k in (-1, -2, -8)] == [59, 57, 45]
    assert [shown(recipe, k) for k in (-9, -10)] == [43, 42]
    assert [shown(recipe, k) for k in (0, 1, 2, 3)] == [30, 30, 31, 31]
    assert [shown(recipe, k) for k in (12, 13)] == [36, 37]
    retimes = recipe_from_json(recipe).retime
    assert retimes.ramp("outgoing", WINDOW).extra_frames == 8
    assert retimes.ramp("incoming", WINDOW).extra_frames == -6


def test_a_slip_moves_the_far_end_and_a_ripple_the_length() -> None:
    fast = {"outgoing": {"speed": 2.0}, "incoming": {"speed": 0.5}}
    kept = CutTiming(WINDOW, recipe_from_json({"retime": fast}).retime)
    placed = [(10, 60), (30, 90)]
    slipped = played_ranges(placed, [kept])
    assert [(each.first, each.end, each.frames) for each in slipped] == [(2, 60, 50), (30, 84, 60)]
    rippling = {side: {**retime, "in_edit": "ripple"} for side, retime in fast.items()}
    rippled = played_ranges(
        placed, [CutTiming(WINDOW, recipe_from_json({"retime": rippling}).retime)]
    )
    assert [(each.first, each.end, each.frames) for each in rippled] == [(10, 60, 42), (30, 90, 66)]


def test_frames_between_are_blended_in_linear_light() -> None:
    recipe = {"retime": {"incoming": {"speed": 0.5, "sampling": "blend"}}}
    # Frame +1 shows the source at 0.25: a quarter of the way from frame 30 to 31.
    assert 30 < shown(recipe, 1) < 31
    with_flow = {"retime": {"incoming": {"speed": 0.5, "sampling": "flow"}}}
    assert shown(with_flow, 1) == pytest.approx(30.25, abs=0.3)


def test_a_ramp_needs_the_frames_that_it_uses() -> None:
    mix = {"kind": "dissolve"}
    usual = spare_frames_needed(recipe_from_json({"mix": mix}), WINDOW)
    fast = recipe_from_json({"mix": mix, "retime": {"outgoing": {"speed": 2.0}}})
    assert spare_frames_needed(fast, WINDOW).outgoing == 2 * usual.outgoing
    short = Transition(Numbered(), Numbered(), 20, 30, WINDOW, fast)
    require_window(short, 3)
    with pytest.raises(InvalidValue, match="at the speed of the outgoing clip"):
        require_window(short, 5)


def test_a_slip_beyond_the_source_is_told_with_both_remedies() -> None:
    fast = recipe_from_json({"retime": {"outgoing": {"speed": 2.0}}})
    room = SlipRoom(outgoing=5, incoming=None)
    made = Transition(Numbered(), Numbered(), 60, 30, WINDOW, fast, slip_room=room)
    with pytest.raises(SpareFramesMissing) as caught:
        require_frames(made)
    assert caught.value.message == (
        "The speed ramp uses 8 spare frames before the in point of numbered; it has 5."
        " Lower the speed, or let the ramp change the edit's length."
    )
    rippling = recipe_from_json({"retime": {"outgoing": {"speed": 2.0, "in_edit": "ripple"}}})
    require_frames(Transition(Numbered(), Numbered(), 60, 30, WINDOW, rippling, slip_room=room))


def test_the_span_is_shortened_to_the_frames_that_a_ramp_leaves() -> None:
    fast = {"mix": {"kind": "dissolve"}, "retime": {"outgoing": {"speed": 2.0}}}
    made = Transition(Numbered(70), Numbered(), 60, 30, WINDOW, recipe_from_json(fast))
    span = span_that_fits(made)
    assert span is not None
    with_fix = recipe_from_json({**fast, "mix": {"kind": "dissolve", "span": list(span)}})
    assert span[1] == pytest.approx(5 / 12, abs=1e-3)
    assert shortages(Transition(Numbered(70), Numbered(), 60, 30, WINDOW, with_fix)) == []


@pytest.mark.parametrize(
    ("retime", "path"),
    [
        ({"outgoing": {"speed": -1}}, "retime.outgoing.speed"),
        ({"outgoing": {"speed": {"kind": "follow", "filter": "x"}}}, "retime.outgoing.speed"),
        ({"incoming": {"sampling": "best"}}, "retime.incoming.sampling"),
        ({"incoming": {"in_edit": "push"}}, "retime.incoming.in_edit"),
        ({"middle": {}}, "retime.middle"),
    ],
)
def test_wrong_ramps_are_refused_by_name(retime: dict, path: str) -> None:
    with pytest.raises(RecipeError) as caught:
        recipe_from_json({"retime": retime})
    assert caught.value.problems[0][0].startswith(path)
    assert Retime().is_normal
