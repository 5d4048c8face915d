"""Regions of filters: their shapes, and that they belong to the picture that enters the filter."""

import math
from fractions import Fraction

import cv2
import numpy as np
import pytest
from skimage import data

from idle_shimmer.core.adjust import flip, turn
from idle_shimmer.core.animation.curves import curves_of
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.frame.render import NO_MATTES, Mattes
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from tests.support.frames import render_frame, render_picture

WINDOW, SIZE = Window(5, 5), (320, 180)
FLASH = {"kind": "flash", "mix": 1.0, "colour": "#ffffff"}


def photo(name: str = "astronaut") -> np.ndarray:
    return cv2.resize(getattr(data, name)(), SIZE, interpolation=cv2.INTER_AREA)


def matte() -> np.ndarray:
    """A soft ellipse off the middle, in whole-pixel sizes that a half roll maps onto themselves."""
    x, y = np.meshgrid(np.arange(SIZE[0]) + 0.5, np.arange(SIZE[1]) + 0.5)
    return np.clip(2 - np.hypot((x - 110) / 50, (y - 70) / 40) * 2, 0, 1).astype(np.float32)


def shown(recipe: dict | Recipe, mattes: Mattes = NO_MATTES, offset: int = -2) -> np.ndarray:
    made = recipe if isinstance(recipe, Recipe) else recipe_from_json(recipe)
    return render_picture(made, WINDOW, offset, photo(), photo("coffee"), mattes=mattes).pixels


def weight(**region: object) -> np.ndarray:
    """How much a filter acts: a flash to white on a black picture, as light."""
    recipe = recipe_from_json({"filters": [{**FLASH, "region": region}]})
    black = np.zeros((SIZE[1], SIZE[0], 3), np.uint8)
    return render_picture(recipe, WINDOW, -1, black, None).to("linear").pixels[..., 0]


@pytest.mark.parametrize(("kind", "share"), [("ellipse", math.pi / 4), ("box", 1.0)])
def test_a_shape_has_its_area_and_its_feather(kind: str, share: float) -> None:
    """The area of an ellipse and of a rectangle; a straight ramp keeps the area to first order."""
    area = weight(kind=kind, centre=[0.5, 0.5], size=[0.8, 0.6], feather=0.05).sum()
    assert area == pytest.approx(share * 0.8 * 0.6 * SIZE[1] ** 2, rel=0.01)
    row = weight(kind=kind, centre=[0.5, 0.5], size=[0.8, 0.6], feather=0.2)[SIZE[1] // 2]
    edge_px, feather_px = SIZE[0] / 2 - 0.4 * SIZE[1], 0.2 * SIZE[1]
    at = np.arange(SIZE[0]) + 0.5
    ramp = np.clip((at - edge_px) / feather_px + 0.5, 0, 1)
    left = slice(0, SIZE[0] // 2)
    assert np.abs(row[left] - ramp[left]).max() < (0.06 if kind == "ellipse" else 0.002)


def test_inside_acts_the_whole_filter_and_outside_is_the_source() -> None:
    region = {"kind": "box", "centre": [0.25, 0.5], "size": [0.5, 0.5], "feather": 0.0}
    blur = {"kind": "gaussian_blur", "radius": 0.03}
    light = shown({"filters": []}), shown({"filters": [blur]})
    found = shown({"filters": [{**blur, "region": region}]})
    box = (slice(46, 134), slice(36, 124))
    plain, whole = (np.asarray(each) for each in light)
    source = render_frame(recipe_from_json({}), WINDOW, -2, photo(), None)
    made = render_frame(
        recipe_from_json({"filters": [{**blur, "region": region}]}), WINDOW, -2, photo(), None
    )
    np.testing.assert_array_equal(made[:, 200:], source[:, 200:])
    assert plain.shape == whole.shape
    np.testing.assert_allclose(found[box], whole[box], atol=1e-6)
    inverse = shown({"filters": [{**blur, "region": {**region, "invert": True}}]})
    np.testing.assert_allclose(inverse[:, 200:], whole[:, 200:], atol=1e-6)


@pytest.mark.parametrize("side", ["outgoing", "across"])
def test_a_subject_is_found_where_geometry_has_brought_it(side: str) -> None:
    """A flash on the subject, then a roll, is a roll, then a flash on the subject."""
    flash = {**FLASH, "side": side, "region": {"kind": "subject"}}
    roll = {"kind": "roll", "x": 0.25, "y": 0.5, "edge": "tile", "side": side}
    mattes = Mattes(outgoing=matte())
    one = shown({"filters": [flash, roll]}, mattes)
    other = shown({"filters": [roll, flash]}, mattes)
    np.testing.assert_allclose(one, other, atol=2e-6)
    assert np.abs(one - shown({"filters": [{**roll}]}, mattes)).max() > 0.5


@pytest.mark.parametrize("mix", ["dissolve", "push", "wipe"])
def test_the_mix_joins_subjects_as_it_joins_pictures(mix: str) -> None:
    """A flash to white on both subjects across the mix, against flashes on each side before it.

    White on the subject is an affine change of every pixel, which a dissolve in light keeps; pushes and
    hard wipes show either picture.
    """
    more = {"dissolve": {}, "push": {"from": "left"}, "wipe": {"softness": 0}}[mix]
    document = {"mix": {"kind": mix, **more}, "light": "display"}
    flash = {**FLASH, "region": {"kind": "subject"}}
    mattes = Mattes(matte(), matte()[:, ::-1].copy())
    across = shown({**document, "filters": [flash]}, mattes)
    sides = [{**flash, "side": side} for side in ("outgoing", "incoming")]
    apart = np.abs(across - shown({**document, "filters": sides}, mattes))
    # A dissolve of two weights is not the weight of the dissolve where both change: only there.
    assert np.median(apart) < 1e-6
    limit = 0.02 if mix != "dissolve" else 0.12
    assert apart.mean() < limit
    assert np.abs(across - shown({**document, "filters": []}, mattes)).mean() > 0.01


def test_background_is_what_the_subject_is_not() -> None:
    mattes = Mattes(outgoing=matte())
    on, off = (
        shown({"filters": [{**FLASH, "region": {"kind": kind}}]}, mattes)
        for kind in ("subject", "background")
    )
    source = render_picture(recipe_from_json({}), WINDOW, -2, photo(), None).to("linear").pixels
    np.testing.assert_allclose(on - source + off, np.ones_like(on), atol=1e-5)


def test_what_follows_a_region_moves_its_result() -> None:
    """A region on a transform, step by step: its input is sampled, what follows samples the result."""
    region = {"kind": "ellipse", "centre": [0.4, 0.4], "size": [0.6, 0.4], "feather": 0.1}
    first = {"kind": "transform", "scale": 1.3}
    middle = {"kind": "transform", "turns": 0.1, "region": region}
    last = {"kind": "roll", "x": 0.25, "edge": "tile"}
    found = shown({"filters": [first, middle, last]})
    one = shown({"filters": [first]})
    two = shown({"filters": [first, {**middle, "region": None}]})
    by = weight(**region)[..., None]
    expected = np.roll(one + by * (two - one), SIZE[0] // 4, axis=1)
    assert np.abs(found - expected).mean() < 0.01


def test_regions_turn_and_flip_with_the_recipe() -> None:
    region = {
        "kind": "ellipse",
        "centre": {"kind": "travel", "from": [0.3, 0.4], "amount": [0.2, 0.1]},
        "size": [0.5, 0.3],
    }
    recipe = recipe_from_json({"filters": [{**FLASH, "region": region}]})
    assert recipe_to_json(turn(recipe, 4)) == recipe_to_json(recipe)
    assert recipe_to_json(flip(flip(recipe, "vertical"), "vertical")) == recipe_to_json(recipe)
    square = np.ascontiguousarray(photo()[:, :180])
    plain = render_frame(recipe, WINDOW, -2, square, None)
    turned = render_frame(turn(recipe), WINDOW, -2, np.rot90(square).copy(), None)
    np.testing.assert_allclose(turned.astype(int), np.rot90(plain).astype(int), atol=1)
    flipped = render_frame(flip(recipe, "horizontal"), WINDOW, -2, square[:, ::-1].copy(), None)
    np.testing.assert_allclose(flipped.astype(int), plain[:, ::-1].astype(int), atol=1)


@pytest.mark.parametrize(
    ("region", "message"),
    [
        ({"kind": "star"}, "unknown kind 'star'"),
        ({"kind": "box", "size": [0, 1]}, "must be above 0"),
        ({"kind": "box", "centre": {"kind": "follow", "filter": "flash"}}, "cannot follow"),
        ({"kind": "subject", "feather": 1}, "unknown field"),
    ],
)
def test_a_wrong_region_is_named(region: dict, message: str) -> None:
    with pytest.raises(RecipeError) as caught:
        recipe_from_json({"filters": [{**FLASH, "region": region}]})
    assert any(message in text and "region" in path for path, text in caught.value.problems)


def moving(part: str, *keyframes: tuple[object, list[float]]) -> Recipe:
    """A flash to white in a box, with keyframes of its centre or size at frames."""
    places = [{"at": at, "value": value, "easing": "linear"} for at, value in keyframes]
    box = {"kind": "box", "centre": [0.5, 0.5], "size": [0.4, 0.4], "feather": 0.0}
    region = {**box, part: {"kind": "keyframes", "keyframes": places}}
    return recipe_from_json({"times": "frames", "filters": [{**FLASH, "region": region}]})


def middle_of(recipe: Recipe, offset: int) -> tuple[float, float]:
    """The middle of what is white in a frame, 0…1."""
    black = np.zeros((SIZE[1], SIZE[0], 3), np.uint8)
    shown = render_picture(recipe, WINDOW, offset, black, black).to("linear").pixels[..., 0]
    down, right = np.nonzero(shown > 0.5)
    return (right.mean() + 0.5) / SIZE[0], (down.mean() + 0.5) / SIZE[1]


def test_a_region_lies_where_it_is_stated_to_be_in_frames() -> None:
    recipe = moving("centre", ({"frames": -3}, [0.3, 0.4]), ({"frames": 2}, [0.7, 0.6]))
    assert middle_of(recipe, -4) == pytest.approx((0.3, 0.4), abs=0.004)
    first, second = middle_of(recipe, -2), middle_of(recipe, 0)
    assert first[0] < second[0]
    assert middle_of(recipe, 3) == pytest.approx((0.7, 0.6), abs=0.004)


def test_curves_of_a_region_are_what_is_seen() -> None:
    recipe = moving("centre", (-0.9, [0.3, 0.4]), (0.1, [0.7, 0.6]))
    curves = {
        each.parameter: each for each in curves_of(Timeline(recipe, WINDOW, Fraction(25), SIZE))
    }
    assert "region.size.x" not in curves
    for place, offset in enumerate(WINDOW.offsets):
        found = [curves[f"region.centre.{axis}"].values[place] for axis in "xy"]
        assert middle_of(recipe, offset) == pytest.approx(tuple(found), abs=0.006)
