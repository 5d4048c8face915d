"""Speed ramps: which source frames are shown, anchored at the cut, and what they spend."""

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from idle_shimmer.core.animation.easing import curve
from idle_shimmer.core.animation.retime import Retime, extra_source_frames
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue, RecipeError
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.core.render import spare_frames_needed
from idle_shimmer.jobs.render import Snapshot, untreated_frames
from idle_shimmer.transition import Transition

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


def shown(recipe: dict, offset: int, rate: int = 25) -> float:
    made = Transition(
        Numbered(), Numbered(), 60, 30, WINDOW, recipe_from_json(recipe), rate=Fraction(rate)
    )
    return float(made.frame(offset).mean()) / 2


@pytest.mark.parametrize("peak", [0.25, 3.0, 6.5])
def test_positions_are_the_integral_of_the_speed(peak: float) -> None:
    """Against scipy's adaptive quadrature of the swell's own formula."""
    retime = recipe_from_json({"retime": {"incoming": ramped(peak)}}).retime.incoming

    def speed(t: float) -> float:
        return 1 + (peak - 1) * (1 - curve("ease-out")(t / WINDOW.after))

    for offset in (0, 3, 11):
        expected = quad(speed, 0, offset + 0.5)[0] - 0.5
        assert retime.position(WINDOW, offset) == pytest.approx(expected, abs=0.01)


@given(st.integers(-40, 40))
def test_without_a_ramp_every_frame_is_its_own(offset: int) -> None:
    assert Retime().frames(WINDOW, offset) == (offset, offset, 0.0)


def test_a_steady_speed_is_anchored_at_the_cut_and_normal_outside() -> None:
    recipe = {"retime": {"outgoing": {"speed": 2.0}, "incoming": {"speed": 0.5}}}
    # Twice as fast up to the cut: the frame ahead of it is half a frame earlier than usual.
    assert [shown(recipe, k) for k in (-1, -2, -8)] == [59, 57, 45]
    assert [shown(recipe, k) for k in (-9, -10)] == [43, 42]
    assert [shown(recipe, k) for k in (0, 1, 2, 3)] == [30, 30, 31, 31]
    assert [shown(recipe, k) for k in (12, 13)] == [36, 37]
    retime = recipe_from_json(recipe).retime
    assert extra_source_frames(retime.outgoing, WINDOW, outgoing=True) == pytest.approx(8)
    assert extra_source_frames(retime.incoming, WINDOW, outgoing=False) == pytest.approx(-6)


def test_frames_between_are_blended_in_linear_light() -> None:
    recipe = {"retime": {"incoming": {"speed": 0.5, "sampling": "blend"}}}
    # Frame +1 shows the source at 0.25: a quarter of the way from frame 30 to 31.
    assert 30 < shown(recipe, 1) < 31
    with_flow = {"retime": {"incoming": {"speed": 0.5, "sampling": "flow"}}}
    assert shown(with_flow, 1) == pytest.approx(30.25, abs=0.3)


def test_a_ramp_needs_the_frames_that_it_spends() -> None:
    mix = {"kind": "dissolve"}
    usual = spare_frames_needed(recipe_from_json({"mix": mix}), WINDOW)
    fast = recipe_from_json({"mix": mix, "retime": {"outgoing": {"speed": 2.0}}})
    assert spare_frames_needed(fast, WINDOW).outgoing == 2 * usual.outgoing
    short = Transition(Numbered(), Numbered(), 20, 30, WINDOW, fast)
    short.require_window(3)
    with pytest.raises(InvalidValue, match="at the speed of the outgoing clip"):
        short.require_window(5)


def test_the_span_is_shortened_to_the_frames_that_a_ramp_leaves() -> None:
    fast = {"mix": {"kind": "dissolve"}, "retime": {"outgoing": {"speed": 2.0}}}
    made = Transition(Numbered(70), Numbered(), 60, 30, WINDOW, recipe_from_json(fast))
    span = made.span_that_fits()
    assert span is not None
    with_fix = recipe_from_json({**fast, "mix": {"kind": "dissolve", "span": list(span)}})
    assert span[1] == pytest.approx(5 / 12, abs=1e-3)
    assert Transition(Numbered(70), Numbered(), 60, 30, WINDOW, with_fix).shortages() == []


def test_the_rest_of_a_clip_meets_both_windows_without_a_jump() -> None:
    cut = {"before": 8, "after": 12, "recipe": {"retime": {"outgoing": {"speed": 2.0}}}}
    placed = {"name": "one", "file": "one.mp4", "in_frame": 10, "out_frame": 60}
    snapshot = Snapshot.model_validate(
        {"width": 6, "height": 4, "rate": "25", "placed": [placed, placed], "cuts": [cut]}
    )
    rest = untreated_frames(snapshot, 0)
    assert len(rest) == 42
    assert (rest[0], rest[-1]) == (10, 43)
    assert set(np.diff(rest)) <= {0, 1}
    assert untreated_frames(snapshot, 1) == list(range(22, 60))
    placed["in_frame"] = 50
    with pytest.raises(InvalidValue, match="the speed ramps on one use"):
        untreated_frames(
            Snapshot.model_validate(snapshot.model_dump() | {"placed": [placed] * 2}), 0
        )


@pytest.mark.parametrize(
    ("retime", "path"),
    [
        ({"outgoing": {"speed": -1}}, "retime.outgoing.speed"),
        ({"outgoing": {"speed": {"kind": "follow", "filter": "x"}}}, "retime.outgoing.speed"),
        ({"incoming": {"sampling": "best"}}, "retime.incoming.sampling"),
        ({"middle": {}}, "retime.middle"),
    ],
)
def test_wrong_ramps_are_refused_by_name(retime: dict, path: str) -> None:
    with pytest.raises(RecipeError) as caught:
        recipe_from_json({"retime": retime})
    assert caught.value.problems[0][0].startswith(path)
