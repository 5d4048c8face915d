"""Times in frames, and values that are seen on frames."""

from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from idle_shimmer.core.adjust import with_duration
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.placed import placed
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.core.sound.accent import sample_at_u
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND

RATE = Fraction(25)
windows = st.builds(Window, st.integers(1, 40), st.integers(1, 40))


def blurred(radius: Any, **more: Any) -> Recipe:
    blur = {"kind": "gaussian_blur", "id": "blur", "radius": radius}
    return recipe_from_json({"format": 2, "filters": [blur], **more})


def radii(recipe: Recipe, window: Window, rate: Fraction = RATE) -> dict[int, float]:
    timeline = Timeline(recipe, window, rate, (480, 270))
    (blur,) = timeline.recipe.filters
    return {k: timeline.values(blur, k + 0.5)["radius"] for k in window.offsets}


@given(windows)
def test_a_peak_on_the_cut_is_seen_on_both_its_frames(window: Window) -> None:
    seen = radii(blurred({"kind": "swell", "peak": 0.25}, times="frames"), window)
    assert seen[-1] == seen[0] == 0.25
    assert max(seen.values()) == 0.25


def test_without_frames_a_peak_between_two_frames_is_seen_on_none() -> None:
    seen = radii(blurred({"kind": "swell", "peak": 0.25}), Window(5, 5))
    assert max(seen.values()) < 0.25


@given(windows, st.floats(-0.999, 0.999).filter(lambda u: abs(u) > 1e-6))
def test_the_value_of_a_keyframe_is_seen_on_the_nearest_frame(window: Window, at: float) -> None:
    keys = [{"at": -1.0, "value": 0.0}, {"at": at, "value": 0.2}, {"at": 1.0, "value": 0.0}]
    seen = radii(blurred({"kind": "keyframes", "keyframes": keys}, times="frames"), window)
    t = at * (window.before if at < 0 else window.after)
    nearest = min(window.offsets, key=lambda k: (round(abs(k + 0.5 - t), 9), abs(k + 0.5)))
    assert seen[nearest] == 0.2


@pytest.mark.parametrize(
    ("frames", "shown"),
    [(-0.5, [-1]), (0.5, [0]), (0, [-1, 0]), (-2, [-2]), (-1.5, [-2]), (2, [1]), (3.5, [3])],
)
def test_a_peak_is_given_to_one_frame_or_both_beside_the_cut(
    frames: float, shown: list[int]
) -> None:
    swell = {"kind": "swell", "peak": 0.1, "start": -1, "end": 1}
    swell |= {key: {"frames": frames} for key in ("full_from", "full_to")}
    for window in (Window(4, 4), Window(9, 7)):
        seen = radii(blurred(swell, times="frames"), window)
        assert [k for k, value in seen.items() if value == 0.1] == shown


def test_a_jump_at_the_cut_shows_both_its_values() -> None:
    keys = [
        {"at": -1.0, "value": 0.0},
        {"at": 0.0, "value": 0.3},
        {"at": 0.0, "value": 0.1},
        {"at": 1.0, "value": 0.0},
    ]
    seen = radii(blurred({"kind": "keyframes", "keyframes": keys}, times="frames"), Window(6, 4))
    assert (seen[-1], seen[0]) == (0.3, 0.1)


def test_a_rise_in_no_time_stays_on_its_border() -> None:
    """Starts and ends are borders between frames: what begins at the cut is not seen before it."""
    swell = {"kind": "swell", "peak": 0.2, "start": 0, "full_from": 0, "full_to": 0, "end": 1}
    seen = radii(blurred(swell, times="frames"), Window(4, 4))
    assert [seen[k] for k in (-2, -1, 0)] == [0, 0, 0.2]


def test_keyframes_at_the_ends_of_the_window_stay_there() -> None:
    keys = [{"at": -1.0, "value": 0.0}, {"at": 0.0, "value": 0.4}]
    exact, framed = (
        radii(blurred({"kind": "keyframes", "keyframes": keys}, times=times), Window(8, 8))
        for times in ("exact", "frames")
    )
    assert exact[-8] == pytest.approx(0.4 / 16)
    # The keyframe on the cut is seen half a frame earlier.
    assert framed[-8] == pytest.approx(0.4 / 15)


@given(windows, st.integers(1, 12))
def test_a_span_in_frames_lasts_so_many_frames_in_every_window(window: Window, half: int) -> None:
    mix = {"kind": "dissolve", "span": [{"frames": -half}, {"frames": half}]}
    timeline = Timeline(recipe_from_json({"format": 2, "mix": mix}), window, RATE, (480, 270))
    mixed = [
        k for k in window.offsets if 0 < timeline.recipe.mix.progress(window.u_of_frame(k)) < 1
    ]
    assert mixed == [k for k in window.offsets if -half <= k < half]


def test_frames_stay_under_the_duration_and_follow_the_rate_of_the_window() -> None:
    """A dissolve of four frames at 25 is four frames at any duration, and eight in an edit at 50."""
    mix = {"kind": "dissolve", "span": [{"frames": -2}, {"frames": 2}]}
    window = {"before": 10, "after": 10, "rate": "25"}
    recipe = recipe_from_json({"format": 2, "mix": mix, "window": window})
    longer = with_duration(recipe, 40)
    assert recipe_to_json(longer)["mix"]["span"] == mix["span"]

    def mixed(rate: int, side: int) -> int:
        made = placed(longer, Window(side, side), Fraction(rate)).mix
        return sum(0 < made.progress((k + 0.5) / side) < 1 for k in range(-side, side))

    assert [mixed(25, 10), mixed(25, 20), mixed(50, 40)] == [4, 4, 8]
    # At 30 two frames become 2.4, rounded to 2 as a window's sides are.
    assert mixed(30, 24) == 4


def test_half_frames_stay_the_centres_of_frames_at_other_rates() -> None:
    swell = {
        "kind": "swell",
        "peak": 0.1,
        "full_from": {"frames": -0.5},
        "full_to": {"frames": -0.5},
    }
    recipe = blurred(swell, times="frames", window={"before": 5, "after": 5, "rate": "25"})
    seen = radii(recipe, Window(12, 12), Fraction(60))
    assert [k for k, value in seen.items() if value == 0.1] == [-1]


def test_accents_and_speeds_take_frames() -> None:
    recipe = recipe_from_json(
        {
            "format": 2,
            "accent": {"sound": "hit", "start": {"frames": -30}, "end": {"frames": 5}},
            "retime": {
                "outgoing": {
                    "speed": {"kind": "swell", "peak": 3.0, "start": {"frames": -4}},
                    "slips": [{"from": {"frames": -8}, "to": {"frames": -6}, "offset": 3}],
                    "join": 0,
                }
            },
        }
    )
    window = Window(10, 10)
    made = placed(recipe, window, RATE)
    assert made.accent is not None
    first, end = made.accent.span(window, RATE)
    # An accent may begin before the window.
    assert (first, end) == (-30 * SAMPLES_PER_SECOND // 25, 5 * SAMPLES_PER_SECOND // 25)
    assert sample_at_u(-3.0, window, RATE) == first
    slipped = [k for k in window.offsets if made.retime.slipped("outgoing", window, k) is not None]
    assert slipped == [-8, -7]
    ramp = made.retime.ramp("outgoing", window)
    assert [ramp.speed_at(t) for t in (-9.5, -4.5)] == [ramp.factor, ramp.factor]
    assert ramp.speed_at(-0.5) > 2 * ramp.factor


@pytest.mark.parametrize("frames", [0.25, "2", None, float("nan"), 20_000])
def test_a_time_in_frames_is_a_number_of_halves(frames: Any) -> None:
    mix = {"kind": "dissolve", "span": [{"frames": frames}, 1]}
    with pytest.raises(RecipeError, match=r"^mix\.span\[0\]\.frames: "):
        recipe_from_json({"format": 2, "mix": mix})


@pytest.mark.parametrize(
    "span", [[0.5, {"frames": -2}], [{"frames": 3}, {"frames": 1}], [{"frames": 2}, -0.5]]
)
def test_times_that_never_follow_each_other_are_refused(span: Any) -> None:
    with pytest.raises(RecipeError, match="must not end before it starts"):
        recipe_from_json({"format": 2, "mix": {"kind": "dissolve", "span": span}})


@given(windows)
def test_placing_what_is_placed_changes_nothing(window: Window) -> None:
    swell = {"kind": "swell", "peak": 0.25, "start": {"frames": -3}, "end": {"frames": 3}}
    once = placed(blurred(swell, times="frames"), window, RATE)
    assert placed(once, window, RATE) == once


def test_a_document_that_says_nothing_of_times_is_exact() -> None:
    assert recipe_to_json(recipe_from_json({"format": 2}))["times"] == "exact"
