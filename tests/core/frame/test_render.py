"""Frames: what must hold whatever the size, the rate and the side."""

import gc
import weakref

import cv2
import numpy as np
import pytest
import skimage.data
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.frame.needs import needs, spare_frames_needed
from idle_shimmer.core.mixes.base import registered as mixes
from idle_shimmer.core.recipe import Recipe, recipe_from_json
from tests.conftest import code_psnr
from tests.core.test_recipe import FOUR_ROLLS
from tests.support.frames import render_frame

WINDOW = Window(5, 5)
SIZES_DB = 34.0
WHOLE = {
    "mix": {"kind": "dissolve", "span": [-0.5, 0.5]},
    "shutter": 90,
    "filters": [
        {"kind": "gaussian_blur", "side": "outgoing", "radius": {"kind": "swell", "peak": 0.02}},
        {"kind": "roll", "edge": "tile", "x": {"kind": "travel", "amount": 1}},
        {
            "kind": "transform",
            "scale": {"kind": "swell", "peak": 1.6},
            "turns": {"kind": "swell", "peak": 0.03},
        },
        {"kind": "directional_blur", "length": {"kind": "swell", "peak": 0.1}, "angle": 25},
    ],
}


def frames(recipe: Recipe, window: Window, pair: tuple) -> list[NDArray]:
    return [render_frame(recipe, window, offset, *pair) for offset in window.offsets]


def test_a_frame_s_pictures_are_freed_with_it(codes_pair: tuple) -> None:
    """Without the collector of circular references, which leaves gigabytes in memory between its rounds."""
    pair = [each.copy() for each in codes_pair]
    held = [weakref.ref(each) for each in pair]
    gc.disable()
    try:
        render_frame(recipe_from_json(WHOLE), WINDOW, -1, *pair)
        del pair
        assert all(each() is None for each in held)
    finally:
        gc.enable()


def test_an_empty_recipe_returns_the_sources_themselves(codes_pair: tuple) -> None:
    made = frames(recipe_from_json("{}"), WINDOW, codes_pair)
    assert all(frame is codes_pair[0] for frame in made[:5])
    assert all(frame is codes_pair[1] for frame in made[5:])


@pytest.mark.parametrize("offset", [-6, -30, 5, 17])
def test_outside_the_window_the_source_itself_is_shown(offset: int, codes_pair: tuple) -> None:
    frame = render_frame(recipe_from_json(WHOLE), WINDOW, offset, *codes_pair)
    assert frame is codes_pair[offset >= 0]


@pytest.mark.parametrize("offset", [-2, 0, 3])
def test_two_sizes_look_the_same(offset: int) -> None:
    photos = [skimage.data.astronaut()[112:400], skimage.data.coffee()]
    large = [cv2.resize(each, (1920, 1080), interpolation=cv2.INTER_CUBIC) for each in photos]
    small = [cv2.resize(each, (640, 360), interpolation=cv2.INTER_AREA) for each in large]
    recipe = recipe_from_json(WHOLE)
    big = render_frame(recipe, WINDOW, offset, *large)
    averaged = cv2.resize(big, (640, 360), interpolation=cv2.INTER_AREA)
    assert code_psnr(averaged, render_frame(recipe, WINDOW, offset, *small)) > SIZES_DB


def test_two_rates_agree_where_the_centres_of_frames_coincide(codes_pair: tuple) -> None:
    """Frame k of 6 has the centre of frame 3k + 1 of 18: 20 and 60 frames a second."""
    recipe = recipe_from_json({**WHOLE, "shutter": 0})
    slow, fast = Window(6, 6), Window(18, 18)
    for offset in (-6, -1, 0, 4):
        one = render_frame(recipe, slow, offset, *codes_pair)
        other = render_frame(recipe, fast, 3 * offset + 1, *codes_pair)
        assert code_psnr(one, other) > 80


def test_the_flipped_recipe_on_flipped_clips_is_the_flipped_result(codes_pair: tuple) -> None:
    plain = recipe_from_json(
        FOUR_ROLLS
        | {
            "filters": [
                {"kind": "roll", "edge": "tile", "x": {"kind": "travel", "amount": 2}},
                {"kind": "directional_blur", "length": 0.1, "angle": 30},
            ]
        }
    )
    flipped = recipe_from_json(
        FOUR_ROLLS
        | {
            "filters": [
                {"kind": "roll", "edge": "tile", "x": {"kind": "travel", "amount": -2}},
                {"kind": "directional_blur", "length": 0.1, "angle": 150},
            ]
        }
    )
    mirrored = [picture[:, ::-1] for picture in codes_pair]
    for offset in (-3, 0, 2):
        one = render_frame(plain, WINDOW, offset, *codes_pair)[:, ::-1]
        other = render_frame(flipped, WINDOW, offset, *mirrored)
        assert code_psnr(one, other) > 55


def test_a_dissolve_is_the_weighted_sum_of_codes(codes_pair: tuple) -> None:
    recipe = recipe_from_json({"mix": {"kind": "dissolve"}})
    for offset, frame in zip(WINDOW.offsets, frames(recipe, WINDOW, codes_pair), strict=True):
        share = (offset + 5.5) / 10
        expected = codes_pair[0] * (1 - share) + codes_pair[1] * share
        assert np.abs(frame - expected).max() <= 0.51


def test_a_dissolve_in_linear_light_averages_light(codes_pair: tuple) -> None:
    black, white = np.zeros((4, 4, 3), np.uint8), np.full((4, 4, 3), 255, np.uint8)
    recipe = recipe_from_json({"mix": {"kind": "dissolve", "light": "linear", "span": [-1, 1]}})
    # Half of white light is code 188 (IEC 61966-2-1).
    assert render_frame(recipe, Window(1, 1), 0, black, white)[0, 0, 0] == 225
    assert render_frame(recipe, Window(2, 2), -1, black, white)[0, 0, 0] == 165


def test_spare_frames_are_counted_on_both_sides() -> None:
    half = recipe_from_json({"mix": {"kind": "dissolve", "span": [-0.5, 0.5]}})
    assert spare_frames_needed(half, Window(10, 10)).outgoing == 5
    assert spare_frames_needed(half, Window(10, 6)).outgoing == 3
    assert spare_frames_needed(half, Window(10, 6)).incoming == 5
    hard = spare_frames_needed(recipe_from_json("{}"), Window(10, 10))
    assert (hard.outgoing, hard.incoming) == (0, 0)


def test_a_needed_clip_that_is_not_given_is_told(codes_pair: tuple) -> None:
    recipe = recipe_from_json({"mix": {"kind": "dissolve"}})
    assert needs(recipe, WINDOW, 0).outgoing
    with pytest.raises(InvalidValue, match="outgoing: frame 0 needs the outgoing clip"):
        render_frame(recipe, WINDOW, 0, None, codes_pair[1])


@pytest.mark.parametrize("kind", sorted(mixes()))
def test_every_mix_begins_with_outgoing_and_ends_with_incoming(kind: str) -> None:
    mix = recipe_from_json({"mix": {"kind": kind}}).mix
    assert (mix.progress(-1.0), mix.progress(1.0)) == (0, 1)
    steps = [mix.progress(u) for u in np.linspace(-1, 1, 41)]
    assert steps == sorted(steps)
