"""The clear edge: beyond it the other clip is seen, in whichever direction the picture moves."""

from fractions import Fraction

import cv2
import numpy as np
import pytest

from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.frame.needs import needs, spare_frames_needed
from idle_shimmer.core.frame.render import frame_coverage
from idle_shimmer.core.recipe import Recipe, recipe_from_json
from tests.conftest import code_psnr
from tests.support.frames import render_frame

WINDOW = Window(4, 4)


def shrinking(side: str, **more: object) -> Recipe:
    return recipe_from_json(
        {"filters": [{"kind": "transform", "side": side, "edge": "clear", "scale": 0.5}], **more}
    )


@pytest.mark.parametrize(("side", "offset"), [("outgoing", -2), ("incoming", 1), ("across", -1)])
def test_a_picture_that_shrinks_shows_the_other_clip_around_it(
    side: str, offset: int, codes_pair: tuple
) -> None:
    above, below = codes_pair if offset < 0 else codes_pair[::-1]
    made = render_frame(shrinking(side), WINDOW, offset, *codes_pair)
    height, width = made.shape[:2]
    rim = np.ones((height, width), bool)
    rim[height // 4 - 2 : -height // 4 + 2, width // 4 - 2 : -width // 4 + 2] = False
    assert np.array_equal(made[rim], below[rim])
    inner = np.s_[height // 4 + 2 : -height // 4 - 2, width // 4 + 2 : -width // 4 - 2]
    small = cv2.resize(above, (width // 2, height // 2), interpolation=cv2.INTER_AREA)
    assert code_psnr(made[inner], small[2:-2, 2:-2]) > 30


def test_it_needs_the_other_clips_frames_where_they_are_seen() -> None:
    recipe = shrinking("outgoing")
    assert spare_frames_needed(recipe, WINDOW).incoming == WINDOW.before
    assert spare_frames_needed(recipe, WINDOW).outgoing == 0
    assert needs(recipe, WINDOW, -1).incoming
    assert not needs(recipe, WINDOW, 1).outgoing
    plain = recipe_from_json(
        {"filters": [{"kind": "transform", "side": "outgoing", "edge": "clear"}]}
    )
    assert not needs(plain, WINDOW, -1).incoming


def test_a_blur_after_it_softens_the_border_without_a_dark_rim(codes_pair: tuple) -> None:
    grey = np.full_like(codes_pair[0], 128)
    recipe = recipe_from_json(
        {
            "filters": [
                {"kind": "transform", "side": "outgoing", "edge": "clear", "scale": 0.5},
                {"kind": "gaussian_blur", "side": "outgoing", "radius": 0.05},
            ]
        }
    )
    made = render_frame(recipe, WINDOW, -1, grey, grey)
    assert np.abs(made.astype(int) - 128).max() <= 1


def test_at_half_opacity_half_of_the_picture_stays_whole(codes_pair: tuple) -> None:
    grey = np.full_like(codes_pair[0], 128)
    half = {"kind": "transform", "side": "outgoing", "edge": "clear", "scale": 0.5, "opacity": 0.5}
    made = render_frame(recipe_from_json({"filters": [half]}), WINDOW, -1, grey, grey)
    assert np.abs(made.astype(int) - 128).max() <= 1


def test_the_check_of_edges_counts_it_as_picture() -> None:
    timeline = Timeline(shrinking("outgoing"), WINDOW, Fraction(25), (160, 90))
    assert frame_coverage(timeline, -1).min() == 1
