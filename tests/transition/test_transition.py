"""Two clips and a recipe: frames, spare frames and their fixes."""

import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.animation.shot import Shot, Shots
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue, SpareFramesMissing
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.transition.checking import check_transition
from idle_shimmer.transition.missing_frames import require_frames, shortages, span_that_fits
from idle_shimmer.transition.transition import Transition


class Counted:
    """A clip whose every frame is its number."""

    def __init__(self, name: str, count: int | None, base: int) -> None:
        self.name, self.count, self.base = name, count, base

    def frame(self, number: int) -> NDArray[np.uint8]:
        return np.full((4, 4, 3), self.base + number, np.uint8)


def transition(out: int = 20, into: int = 10, recipe: object = None, **more: object) -> Transition:
    clips = Counted("a.mp4", 30, 0), Counted("b.mp4", 40, 100)
    return Transition(*clips, out, into, Window(5, 6), recipe_from_json(recipe or {}), **more)  # type: ignore[arg-type]


DISSOLVE = {"mix": {"kind": "dissolve"}}


def test_frames_count_from_the_cut_into_both_clips() -> None:
    shown = [(offset, int(frame[0, 0, 0])) for offset, frame in transition().frames(margin=2)]
    assert shown[:7] == [(k, 20 + k) for k in range(-7, 0)]
    assert shown[7:] == [(k, 110 + k) for k in range(8)]


def test_a_dissolve_shows_frames_past_both_cut_points() -> None:
    frame = transition(recipe=DISSOLVE).frame(0)
    share = (0.5 / 6 + 1) / 2
    assert abs(int(frame[0, 0, 0]) - round(20 * (1 - share) + 110 * share)) <= 1


def test_missing_spare_frames_are_counted_named_and_fixed() -> None:
    short = transition(out=28, into=3, recipe=DISSOLVE)
    assert [(each.side, each.needed, each.missing) for each in shortages(short)] == [
        ("outgoing", 6, 4),
        ("incoming", 5, 2),
    ]
    span = span_that_fits(short)
    assert span is not None
    with_fix = transition(out=28, into=3, recipe={"mix": {"kind": "dissolve", "span": list(span)}})
    require_frames(with_fix)
    with pytest.raises(SpareFramesMissing) as caught:
        require_frames(short)
    assert str(caught.value).startswith(
        "mix.span: The window needs 6 spare frames after the out point of a.mp4; it has 2."
    )
    assert f"Shorten the span to [{span[0]:g}, {span[1]:g}]" in str(caught.value)


def test_a_recipe_that_holds_frames_lacks_none() -> None:
    held = transition(out=30, into=0, recipe={**DISSOLVE, "hold_frames": True})
    assert shortages(held) == []
    require_frames(held)
    # Past the outgoing clip's 30 frames its last one, number 29, goes on.
    share = (4.5 / 6 + 1) / 2
    assert abs(int(held.frame(4)[0, 0, 0]) - round(29 * (1 - share) + 104 * share)) <= 1


def test_held_frames_stand_in_for_missing_ones() -> None:
    held = transition(out=30, recipe=DISSOLVE, hold=True)
    assert int(held.frame(5)[0, 0, 0]) > 100
    with pytest.raises(SpareFramesMissing):
        transition(out=30, recipe=DISSOLVE).frame(0)


@pytest.mark.parametrize(("out", "into", "field"), [(5, 10, "before"), (20, 34, "after")])
def test_a_window_longer_than_its_clip_is_told(out: int, into: int, field: str) -> None:
    with pytest.raises(InvalidValue) as caught:
        require_frames(transition(out=out, into=into), margin=1)
    assert caught.value.field == field


class Asked(Counted):
    """A clip that tells which of its frames were asked for."""

    def __init__(self, name: str) -> None:
        super().__init__(name, 60, 0)
        self.numbers: set[int] = set()

    def frame(self, number: int) -> NDArray[np.uint8]:
        self.numbers.add(number)
        return super().frame(number)


MIXES = {
    "dissolve": {"mix": {"kind": "dissolve"}},
    "push": {"mix": {"kind": "push", "from": "left"}},
    "wipe": {"mix": {"kind": "wipe", "matte": {"type": "barWipe", "subtype": "leftToRight"}}},
    "morph": {"mix": {"kind": "morph"}},
}


@pytest.mark.parametrize("mix", MIXES)
def test_no_frame_of_the_next_shot_of_a_file_is_shown(mix: str) -> None:
    """A finished video of the shots 0–19, 20–39 and 40–59, cut at 40."""
    one, other = Asked("evening.mp4"), Asked("evening.mp4")
    shots = Shots(Shot(20, 40), Shot(40, 60))

    def made(recipe: object) -> Transition:
        window = Window(6, 5)
        return Transition(one, other, 40, 40, window, recipe_from_json(recipe), shots=shots)

    with pytest.raises(SpareFramesMissing, match="its shot has 0"):
        require_frames(made(MIXES[mix]))
    (found,) = [
        each for each in check_transition(made(MIXES[mix]), (64, 36)) if each.id == "spare_frames"
    ]
    assert found.status == "failed"
    assert [fix.label for fix in found.fixes] == ["Hold the end frames"]
    held = made({**MIXES[mix], "hold_frames": True})
    require_frames(held)
    for offset, _ in held.frames(margin=2):
        assert offset is not None
    assert (min(one.numbers), max(one.numbers)) == (32, 39)
    assert (min(other.numbers), max(other.numbers)) == (40, 46)
    (found,) = [each for each in check_transition(held, (64, 36)) if each.id == "spare_frames"]
    assert (found.status, found.message) == (
        "ok",
        "Holds the last frame of evening.mp4 for 5 frames and the first frame of evening.mp4 for 6 frames.",
    )
