"""Adjustments of whole recipes: strength, snap and flips."""

import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.book.entries import book
from idle_shimmer.core.adjust import flip, with_snap, with_strength
from idle_shimmer.core.animation.envelope import Travel
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import recipe_from_json
from tests.conftest import code_psnr
from tests.support.frames import render_frame

FLIPPED_DB = 40.0
WINDOW = Window(5, 5)
# Noise has no mirror image: these keep their seed.
SEEDED = {"shake", "block_shift", "line_jitter", "grain"}
STEADY = [
    slug
    for slug, entry in book().items()
    if not SEEDED & {each.kind for each in entry.recipe.filters}
    # Optical flow is an estimate, which comes out differently in a mirror.
    and entry.recipe.mix.kind != "morph"
    and "clouds" not in entry.recipe.mix.model_dump_json()
    and '"noise"' not in entry.recipe.model_dump_json()
]


@pytest.fixture(scope="module")
def small(codes_pair: tuple) -> list[NDArray]:
    return [cv2.resize(each, (160, 90), interpolation=cv2.INTER_AREA) for each in codes_pair]


@pytest.mark.parametrize("axis", ["horizontal", "vertical"])
@pytest.mark.parametrize("slug", STEADY)
def test_the_flipped_recipe_on_flipped_clips_is_the_flipped_result(
    slug: str, axis: str, small: list
) -> None:
    turn = np.s_[:, ::-1] if axis == "horizontal" else np.s_[::-1]
    recipe = book()[slug].recipe
    other = flip(recipe, axis)  # type: ignore[arg-type]
    mirrored = [np.ascontiguousarray(each[turn]) for each in small]
    for offset in (-2, 0):
        plain = render_frame(recipe, WINDOW, offset, *small)[turn]
        assert code_psnr(render_frame(other, WINDOW, offset, *mirrored), plain) > FLIPPED_DB


@pytest.mark.parametrize("slug", sorted(book()))
def test_flipping_twice_is_the_recipe_itself(slug: str) -> None:
    recipe = book()[slug].recipe
    window = recipe.window
    for axis in ("horizontal", "vertical"):
        back = flip(flip(recipe, axis), axis)  # type: ignore[arg-type]
        frames = [window.before, window.after]  # type: ignore[union-attr]
        assert frames == [back.window.before, back.window.after]  # type: ignore[union-attr]
        assert back.mix == recipe.mix


def test_strength_scales_about_rest_and_keeps_rolls_whole() -> None:
    recipe = recipe_from_json(
        {
            "filters": [
                {"kind": "roll", "edge": "tile", "y": {"kind": "travel", "amount": -3}},
                {"kind": "roll", "edge": "mirror", "x": {"kind": "travel", "amount": 2}},
                {"kind": "transform", "scale": {"kind": "swell", "peak": 0.5}},
                {"kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 0.04}},
            ]
        }
    )
    strong = with_strength(recipe, 1.5)
    amounts = [strong.filters[0].y.amount, strong.filters[1].x.amount]  # type: ignore[attr-defined]
    assert amounts == [-4, 4] or amounts == [-5, 4]
    assert strong.filters[2].scale.peak == pytest.approx(0.5**1.5)  # type: ignore[attr-defined]
    assert strong.filters[3].radius.peak == pytest.approx(0.06)  # type: ignore[attr-defined]
    weak = with_strength(recipe, 0.1)
    assert (weak.filters[0].y.amount, weak.filters[1].x.amount) == (-1, 2)  # type: ignore[attr-defined]
    assert with_strength(recipe, 1.0) == recipe


def test_snap_gives_every_curve_its_steepness() -> None:
    recipe = book()["four-rolls"].recipe
    steep, even = with_snap(recipe, 0.9), with_snap(recipe, 0.0)
    for made, s in ((steep, 0.9), (even, 0.0)):
        roll = made.filters[0].y  # type: ignore[attr-defined]
        assert isinstance(roll, Travel)
        assert roll.easing.steepness == s  # type: ignore[union-attr]
    blur = {"kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 1.0}}
    values = [
        with_snap(recipe_from_json({"filters": [blur]}), s)
        .filters[0]
        .values_at(-0.5, None)["radius"]  # type: ignore[arg-type]
        for s in (0.0, 0.5, 0.9)
    ]
    assert values[0] == pytest.approx(0.5, abs=1e-6)
    assert values == sorted(values, reverse=True)
