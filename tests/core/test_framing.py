"""Framing a clip, and the proposals that match the two sides of a cut."""

import cv2
import numpy as np
import pytest
import skimage.data
import skimage.transform
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.fit.matching import match_grade, match_placement
from idle_shimmer.core.framing import UNFRAMED, FramedPicture, Framing, apply_framing, source_scale
from idle_shimmer.core.framing import framed as framed_source
from idle_shimmer.core.picture.encoding import Picture
from idle_shimmer.core.recipe import recipe_from_json
from tests.conftest import psnr
from tests.support.frames import render_picture


@pytest.fixture(scope="module")
def picture() -> NDArray[np.uint8]:
    """The astronaut of scikit-image, 480 by 320."""
    return np.ascontiguousarray(skimage.data.astronaut()[60:380, 16:496])


def framed(codes: NDArray, framing: Framing) -> NDArray[np.uint8]:
    """The picture with a framing, as codes."""
    return apply_framing(Picture.of_codes(codes), framing).to("codes").pixels


def source_of(
    codes: NDArray, framing: Framing = UNFRAMED, whole: NDArray | None = None
) -> FramedPicture:
    """The picture, still to be sampled; ``whole`` is the same at its own size."""
    height, width = codes.shape[:2]
    reads = None if whole is None else lambda: Picture.of_codes(whole)
    return framed_source((width, height), framing, lambda: Picture.of_codes(codes), reads)


def halved(codes: NDArray) -> NDArray[np.uint8]:
    return cv2.resize(codes, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA)


def test_as_it_is_changes_nothing(picture: NDArray) -> None:
    assert framed(picture, UNFRAMED) is picture
    assert framed(picture, Framing(turn=360)).tobytes() == picture.tobytes()


def test_a_framed_picture_agrees_with_scikit_image(picture: NDArray) -> None:
    """A turn of 7° and a scale of 1.3 about the middle, in display light for the comparison."""
    flat = np.full_like(picture, 90)
    assert np.array_equal(framed(flat, Framing(scale=0.4, turn=31, x=0.2)), flat)
    shown = framed(picture, Framing(scale=1.3, turn=7))[40:-40, 40:-40]
    expected = skimage.transform.rotate(
        skimage.transform.rescale(picture, 1.3, order=3, channel_axis=2), 7, order=3
    )
    top, left = (expected.shape[0] - 320) // 2, (expected.shape[1] - 480) // 2
    inside = expected[top + 40 : top + 280, left + 40 : left + 440]
    assert psnr(shown / 255, inside) > 30


@pytest.mark.parametrize(
    ("scale", "turn", "x", "y"),
    [(0.8, 6, 0.03, -0.05), (1.25, -9, -0.06, 0.04), (0.6, 0, 0, 0)],
)
def test_a_moved_picture_is_laid_back_over_itself(
    picture: NDArray, scale: float, turn: float, x: float, y: float
) -> None:
    moved = framed(picture, Framing(scale=scale, turn=turn, x=x, y=y))
    match = match_placement(picture, moved)
    assert match is not None
    assert match.framing.scale == pytest.approx(1 / scale, rel=0.01)
    assert match.framing.turn == pytest.approx(-turn, abs=0.3)
    laid = framed(moved, match.framing)[100:220, 160:320] / 255
    assert psnr(laid, picture[100:220, 160:320] / 255) > 24


def test_pictures_with_nothing_in_common_are_told_so(picture: NDArray) -> None:
    noise = np.random.default_rng(1).integers(0, 255, picture.shape).astype(np.uint8)
    assert match_placement(picture, noise) is None
    assert match_placement(picture, np.zeros_like(picture)) is None


def test_matched_colours_have_the_mean_and_spread_of_the_other(picture: NDArray) -> None:
    dull = (picture * 0.4 + np.array([30, 50, 20])).astype(np.uint8)
    matched = framed(dull, match_grade(picture, dull)).reshape(-1, 3)
    flat = picture.reshape(-1, 3)
    # Clipping at black and white takes a little of the spread.
    assert matched.mean(axis=0) == pytest.approx(flat.mean(axis=0), abs=1)
    assert matched.std(axis=0) == pytest.approx(flat.std(axis=0), rel=0.02)


def test_the_enlargement_of_a_source_counts_its_framing() -> None:
    frame, small, large = (1280, 720), (640, 360), (2560, 1440)
    assert source_scale(frame, small, large) == 2
    framings = Framing(scale=1.5), Framing(scale=5)
    assert source_scale(frame, small, large, framings=framings) == 3
    assert source_scale(frame, large, small, framings=framings) == 10


TURN = {"kind": "transform", "turns": 0.03, "scale": 1.2, "shift_x": 0.04}


@pytest.mark.parametrize("side", ["outgoing", "across"])
def test_a_framed_clip_is_sampled_once_together_with_what_moves_it(
    picture: NDArray, side: str
) -> None:
    """One map: sharper than two samplings, and where two of them would put it.

    Of a zoom out and a zoom in again nothing is lost but what left the frame.
    """
    framing = Framing(scale=0.5, turn=5)
    back = {"kind": "transform", "scale": 2.0, "turns": -5 / 360, "side": side}
    recipe = recipe_from_json({"filters": [back]})
    source = source_of(picture, framing)
    shown = render_picture(recipe, Window(4, 4), -1, source, None)
    once = shown.to("codes").pixels
    inside = (slice(40, -40), slice(60, -60))
    assert psnr(once[inside] / 255, picture[inside] / 255) > 50
    twice = render_picture(
        recipe, Window(4, 4), -1, apply_framing(Picture.of_codes(picture), framing), None
    )
    assert psnr(twice.to("codes").pixels[inside] / 255, picture[inside] / 255) < 40


@pytest.mark.parametrize("filters", [[TURN], [{"kind": "gaussian_blur", "radius": 0.01}, TURN], []])
def test_where_a_framed_clip_lies_does_not_depend_on_what_follows(
    picture: NDArray, filters: list[dict]
) -> None:
    framing = Framing(scale=1.3, turn=-4, x=0.05, gain=(0.9, 1.0, 1.1))
    recipe = recipe_from_json({"filters": filters, "mix": {"kind": "dissolve"}})
    placed = apply_framing(Picture.of_codes(picture), framing)
    source = source_of(picture, framing)
    one, other = (
        render_picture(recipe, Window(4, 4), 1, each, each).to("codes").pixels
        for each in (source, placed)
    )
    assert psnr(one / 255, other / 255) > 33


@pytest.mark.parametrize("how", ["framing", "filter"])
def test_a_zoom_into_a_larger_source_shows_its_very_pixels(picture: NDArray, how: str) -> None:
    """Twice as large as the frame, and scaled by 2: sampled once, each pixel of the frame is one of the source."""
    small = halved(picture)
    framing = Framing(scale=2) if how == "framing" else UNFRAMED
    filters = [] if how == "framing" else [{"kind": "transform", "scale": 2.0, "edge": "black"}]
    shown = render_picture(
        recipe_from_json({"filters": filters}),
        Window(4, 4),
        -1,
        source_of(small, framing, picture),
        None,
    )
    assert np.array_equal(shown.to("codes").pixels, picture[80:240, 120:360])


def test_where_nothing_moves_a_larger_source_is_averaged(picture: NDArray) -> None:
    small = halved(picture)
    blur = recipe_from_json({"filters": [{"kind": "gaussian_blur", "radius": 0.02}]})
    for recipe in (recipe_from_json({}), blur):
        one, other = (
            render_picture(recipe, Window(4, 4), -1, each, None).to("codes").pixels
            for each in (source_of(small, UNFRAMED, picture), small)
        )
        assert np.array_equal(one, other)


@pytest.mark.parametrize("size", [(320, 160), (240, 240), (720, 480), (960, 640)])
def test_size_place_and_filters_are_one_map(picture: NDArray, size: tuple[int, int]) -> None:
    """Against scikit-image: scaled to cover the frame, framed and turned, sampled once with its cubic."""
    width, height = size
    framing = Framing(scale=1.2, turn=4, x=0.03)
    recipe = recipe_from_json({"light": "display", "filters": [TURN]})
    fitted = cv2.resize(picture, size)
    source = source_of(fitted, framing, picture)
    shown = render_picture(recipe, Window(4, 4), -1, source, None).to("codes").pixels / 255

    def about(turn: float, scale: float, x: float) -> NDArray:
        middle = skimage.transform.AffineTransform(translation=(-width / 2, -height / 2))
        place = skimage.transform.SimilarityTransform(
            scale=scale, rotation=-np.radians(turn), translation=(width / 2 + x, height / 2)
        )
        return (middle + place).params

    cover = max(width / 480, height / 320)
    fit = np.array(
        [[cover, 0, (width - 480 * cover) / 2], [0, cover, (height - 320 * cover) / 2], [0, 0, 1]]
    )
    turned = about(360 * TURN["turns"], TURN["scale"], TURN["shift_x"] * width)
    whole = turned @ about(framing.turn, framing.scale, framing.x * width) @ fit
    # Its pixel centres are whole numbers.
    half = skimage.transform.AffineTransform(translation=(0.5, 0.5)).params
    inverse = np.linalg.inv(np.linalg.inv(half) @ whole @ half)
    expected = skimage.transform.warp(
        picture / 255, inverse, order=3, output_shape=(height, width), mode="symmetric"
    )
    edge = height // 4
    inside = (slice(edge, -edge), slice(edge, -edge))
    found = psnr(shown[inside], expected[inside])
    assert found > 50
