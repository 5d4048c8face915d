"""Keyframes of the same shape, values stated on frames, sides copied."""

import itertools
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from idle_shimmer.core.animation.easing import curve
from idle_shimmer.core.animation.envelope import NumberEnvelope, PointEnvelope
from idle_shimmer.core.animation.keyframing.easing_parts import backwards, divided
from idle_shimmer.core.animation.keyframing.side_copy import with_side_copied
from idle_shimmer.core.animation.keyframing.value_on_frame import (
    Keyframing,
    as_keyframes,
    with_value_on_frame,
)
from idle_shimmer.core.animation.times import Placing
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue

_NUMBERS: TypeAdapter[Any] = TypeAdapter(NumberEnvelope)
_POINTS: TypeAdapter[Any] = TypeAdapter(PointEnvelope)
EASINGS = [
    "linear",
    "ease-in",
    "ease-out",
    "ease-in-out",
    "cubic-bezier(0.6,-0.4,0.8,0.9)",
    "linear(0, 0.7 40%, 1)",
]
easings = st.sampled_from([*EASINGS, {"steepness": 0.8}])
windows = st.builds(Window, st.integers(2, 30), st.integers(2, 30))
times = st.integers(-20, 20).map(lambda n: n / 20)


@st.composite
def swells(draw: Any) -> dict[str, Any]:
    at = sorted(draw(st.lists(times, min_size=4, max_size=4)))
    names = ("start", "full_from", "full_to", "end")
    eased = {"rise": draw(easings), "fall": draw(easings)}
    return {"kind": "swell", "peak": 3.0, **dict(zip(names, at, strict=True)), **eased}


@st.composite
def travels(draw: Any) -> dict[str, Any]:
    start, end = sorted(draw(st.lists(times, min_size=2, max_size=2, unique=True)))
    return {
        "kind": "travel",
        "amount": 2.0,
        "from": draw(st.sampled_from([1.0, 2.0])),
        "start": start,
        "end": end,
        "easing": draw(easings),
    }


@st.composite
def keyframed(draw: Any) -> dict[str, Any]:
    at = sorted(draw(st.lists(times, min_size=1, max_size=6, unique=True)))
    keys = [
        {"at": u, "value": draw(st.sampled_from([1.0, 2.0, 3.0, 0.5])), "easing": draw(easings)}
        for u in at
    ]
    return {"kind": "keyframes", "keyframes": keys}


envelopes = swells() | travels() | keyframed()


def about(window: Window, *, on_frames: bool, usual: Any = "linear") -> Keyframing:
    return Keyframing(1.0, usual, Placing(window, Fraction(1), on_frames))


def shown(envelope: Any, how: Keyframing) -> dict[int, float]:
    placed = envelope.placed(how.placing)
    window = how.placing.window
    return {k: how.value(placed, window.u_of_frame(k)) for k in window.offsets}


def is_told_apart(envelope: Any, how: Keyframing) -> bool:
    """Whether frames tell the parts of a curve apart.

    None is shorter than a frame, and a swell does not rise or fall in no time at the very centre of one: there
    either value could be meant.
    """
    window = how.placing.window
    at = envelope.placed(Placing(window))
    if envelope.kind == "keyframes":
        listed = [each.at for each in at.keyframes]
    elif envelope.kind == "swell":
        listed = [at.start, at.full_from, at.full_to, at.end]
    else:
        listed = [at.start, at.end]
    frames = [u * (window.before if u < 0 else window.after) for u in listed]
    lengths = [other - one for one, other in itertools.pairwise(frames)]
    if envelope.kind == "swell":
        jumps = [
            one for one, other in ((at.start, at.full_from), (at.end, at.full_to)) if one == other
        ]
        if any(how.placing.is_inside(u) and not how.placing.is_border(u) for u in jumps):
            return False
    return all(length == 0 or length >= 1 for length in lengths)


def close(one: dict[int, float], other: dict[int, float]) -> None:
    """Within 0.5 % of the range of the curve (the contract's figure)."""
    reach = max(one.values()) - min(one.values())
    for k, value in one.items():
        assert other[k] == pytest.approx(value, abs=0.005 * reach + 1e-6), k


@given(envelopes, windows, st.booleans(), st.sampled_from(["linear", "ratio"]))
def test_keyframes_show_what_the_envelope_showed(
    document: dict[str, Any], window: Window, on_frames: bool, usual: str
) -> None:
    envelope, how = (
        _NUMBERS.validate_python(document),
        about(window, on_frames=on_frames, usual=usual),
    )
    assume(is_told_apart(envelope, how))
    close(shown(envelope, how), shown(as_keyframes(envelope, how), how))


@given(envelopes, windows, st.booleans(), st.data())
def test_a_keyframe_added_where_the_curve_runs_changes_no_frame(
    document: dict[str, Any], window: Window, on_frames: bool, data: Any
) -> None:
    envelope, how = _NUMBERS.validate_python(document), about(window, on_frames=on_frames)
    assume(is_told_apart(envelope, how))
    offset = data.draw(st.sampled_from(window.offsets))
    made = with_value_on_frame(envelope, offset, None, how)
    close(shown(envelope, how), shown(made, how))
    assert _NUMBERS.validate_python(made.model_dump(by_alias=True)) == made


@given(envelopes, windows, st.booleans(), st.data())
def test_a_typed_value_is_seen_on_that_frame_exactly(
    document: dict[str, Any], window: Window, on_frames: bool, data: Any
) -> None:
    envelope, how = _NUMBERS.validate_python(document), about(window, on_frames=on_frames)
    offset = data.draw(st.sampled_from(window.offsets))
    made = with_value_on_frame(envelope, offset, 2.5, how)
    assert shown(made, how)[offset] == 2.5
    again = with_value_on_frame(made, offset, 1.75, how)
    assert shown(again, how)[offset] == 1.75
    assert len(again.keyframes) == len(made.keyframes)


def test_both_frames_beside_the_cut_take_their_own_values() -> None:
    how = about(Window(5, 5), on_frames=True)
    swell = _NUMBERS.validate_python({"kind": "swell", "peak": 3.0})
    before = shown(swell, how)
    made = with_value_on_frame(swell, -1, 25.0, how)
    assert shown(made, how)[-1] == 25.0
    assert shown(made, how)[0] == 3.0
    made = with_value_on_frame(made, 0, 7.0, how)
    after = shown(made, how)
    assert (after[-1], after[0]) == (25.0, 7.0)
    # The ends stay, the way there goes to the new values.
    assert before[-5] < after[-5] < after[-4] < 25


def test_ten_frames_typed_one_by_one_are_ten_keyframes() -> None:
    how = about(Window(5, 5), on_frames=True)
    made: Any = 0.0
    for k in how.placing.window.offsets:
        made = with_value_on_frame(made, k, k * k / 25, how)
    assert shown(made, how) == {k: k * k / 25 for k in range(-5, 5)}
    # The first of them had its value everywhere.
    assert len(made.keyframes) == 10


def test_points_are_keyframed_like_numbers() -> None:
    how = Keyframing((0.5, 0.5), "linear", Placing(Window(4, 4), on_frames=True))
    made = with_value_on_frame(_POINTS.validate_python([0.5, 0.5]), -2, (0.25, 0.75), how)
    placed = made.placed(how.placing)
    assert how.value(placed, -1.5 / 4) == how.value(placed, 0.5) == (0.25, 0.75)


def test_what_follows_has_no_keyframes() -> None:
    follow = _NUMBERS.validate_python({"kind": "follow", "filter": "roll"})
    with pytest.raises(InvalidValue, match="choose another animation"):
        as_keyframes(follow, about(Window(4, 4), on_frames=True))


@given(envelopes, st.integers(2, 20), st.booleans())
def test_a_mirrored_side_shows_the_frames_in_reverse(
    document: dict[str, Any], side: int, on_frames: bool
) -> None:
    envelope, how = (
        _NUMBERS.validate_python(document),
        about(Window(side, side), on_frames=on_frames),
    )
    assume(is_told_apart(envelope, how))
    made = shown(with_side_copied(envelope, "mirrored", how), how)
    for k in range(side):
        assert made[k] == pytest.approx(made[-1 - k], abs=1e-6)


def test_a_repeated_side_shows_the_frames_again() -> None:
    keys = [{"at": -1.0, "value": 1.0}, {"at": -0.4, "value": 3.0}, {"at": 0.0, "value": 2.0}]
    envelope = _NUMBERS.validate_python({"kind": "keyframes", "keyframes": keys})
    how = about(Window(10, 10), on_frames=False)
    made = shown(with_side_copied(envelope, "repeated", how), how)
    assert [made[k] for k in range(10)] == pytest.approx([made[k - 10] for k in range(10)])
    assert made[0] == shown(envelope, how)[-10]


@given(easings, st.floats(0.05, 0.95))
def test_the_parts_of_an_easing_run_as_the_whole(easing: Any, at: float) -> None:
    from idle_shimmer.core.animation.easing import Steepness

    easing = Steepness(**easing) if isinstance(easing, dict) else easing
    whole, (first, second) = curve(easing), map(curve, divided(easing, at))
    reached = whole(at)
    for n in range(11):
        x = n / 10
        if abs(reached) > 1e-3:
            assert reached * first(x) == pytest.approx(whole(x * at), abs=4e-3)
        if abs(1 - reached) > 1e-3:
            there = reached + (1 - reached) * second(x)
            assert there == pytest.approx(whole(at + x * (1 - at)), abs=4e-3)
    assert [curve(backwards(easing))(x) for x in (0.2, 0.7)] == pytest.approx(
        [1 - whole(0.8), 1 - whole(0.3)], abs=4e-3
    )
