"""Depth: nothing is rounded before the output, which rounds once, with dither where it has 8 bits."""

import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.picture.encoding import Picture, codes_from_deep, deep_from_codes
from idle_shimmer.core.picture.output import dithered, output_codes
from idle_shimmer.core.recipe import recipe_from_json
from tests.support.frames import render_frame, render_picture

WINDOW = Window(4, 4)
BLUR = {"filters": [{"kind": "gaussian_blur", "radius": 0.02}]}
WIDE_BLUR = {"filters": [{"kind": "gaussian_blur", "radius": 0.3}]}
DISSOLVE = {"mix": {"kind": "dissolve"}}
PUSH = {"mix": {"kind": "push", "from": "left"}}


def ramp(levels: int, height: int = 72, width: int = 1280) -> NDArray[np.uint16]:
    """A horizontal ramp of 10-bit levels, as full-range codes of 16 bits."""
    steps = 400 + np.arange(width) * levels // width
    codes = np.rint(steps / 1023 * 65535).astype(np.uint16)
    return np.ascontiguousarray(np.broadcast_to(codes[None, :, None], (height, width, 3)))


def test_both_depths_carry_the_same_values() -> None:
    eight = np.arange(256, dtype=np.uint8).reshape(16, 16, 1).repeat(3, axis=2)
    deep = deep_from_codes(eight)
    assert (deep[-1, -1] == 65535).all()
    assert np.array_equal(codes_from_deep(deep), eight)
    for encoding in ("display", "linear"):
        one, other = (Picture.of_codes(each).to(encoding).pixels for each in (eight, deep))
        np.testing.assert_allclose(one, other, atol=1e-7)
        assert np.array_equal(Picture(one, encoding).to("deep").pixels, deep)
    everything = np.arange(65536, dtype=np.uint16).reshape(256, 256, 1).repeat(3, axis=2)
    through = Picture.of_codes(everything)
    assert np.array_equal(through.to("display").to("deep").pixels, everything)
    # Float32 light is not exact to 16 bits near black; a code of 10 bits is 64 of these.
    apart = np.abs(through.to("linear").to("deep").pixels.astype(int) - everything)
    assert apart.max() <= 1


@pytest.mark.parametrize("recipe", [{}, DISSOLVE, PUSH, BLUR, {"light": "display", **BLUR}])
def test_a_ten_bit_ramp_keeps_its_levels(recipe: dict[str, object]) -> None:
    """121 levels of 10 bits that 8 bits would make 31: through an empty recipe, mixes and a blur."""
    source = ramp(121)
    shown = render_picture(recipe_from_json(recipe), WINDOW, 0, source, source)
    codes = output_codes(shown, 16, 0)[:, 64:-64, 0]
    levels = np.unique(np.rint(codes / 65535 * 1023))
    assert len(levels) >= 121 - 13
    if not recipe:
        assert np.array_equal(output_codes(shown, 16, 0), source)


@pytest.mark.parametrize("depth", [8, 16])
def test_an_untouched_frame_is_the_source_code_for_code(depth: int, photo: NDArray) -> None:
    eight = np.rint(photo * 255).astype(np.uint8)
    for offset in (-9, -1, 0, 8):
        shown = render_picture(recipe_from_json({}), WINDOW, offset, eight, eight)
        assert np.array_equal(
            output_codes(shown, depth, offset), eight if depth == 8 else deep_from_codes(eight)
        )
        deep = deep_from_codes(eight)
        shown = render_picture(recipe_from_json({}), WINDOW, offset, deep, deep)
        assert np.array_equal(output_codes(shown, depth, offset), deep if depth == 16 else eight)


def test_dither_has_no_bias_and_the_spread_of_triangular_noise() -> None:
    """Mean error 0, mean square error 1/4 of a code: 1/12 by rounding, 1/6 by the noise."""
    values = np.linspace(20, 230, 211, dtype=np.float64)[:, None] + np.array([0.25, 0.5, 0.7])
    display = np.repeat((values / 255).reshape(-1, 1, 3), 3000, axis=1).astype(np.float32)
    error = dithered(display, 5).astype(np.float64) - display.astype(np.float64) * 255
    assert np.abs(error.mean(axis=1)).max() < 0.05
    assert error.mean() == pytest.approx(0, abs=1e-3)
    assert (error**2).mean(axis=(0, 1)) == pytest.approx(np.full(3, 0.25), abs=0.005)
    assert np.abs(error).max() <= 1.5


def test_dither_depends_on_the_frame_alone_and_leaves_whole_codes(photo: NDArray) -> None:
    display = photo.astype(np.float32) * 0.93
    assert np.array_equal(dithered(display, 7), dithered(display.copy(), 7))
    assert not np.array_equal(dithered(display, 7), dithered(display, 8))
    whole = np.rint(photo * 255).astype(np.uint8)
    light = Picture.of_codes(whole).to("linear").to("display").pixels
    assert np.array_equal(dithered(light, 7), whole)
    beyond = np.array([[[-0.3, 0.0, 1.4]]], np.float32)
    assert dithered(beyond, 1).tolist() == [[[0, 0, 255]]]


def test_dither_breaks_the_bands_of_a_blurred_gradient() -> None:
    """A soft gradient of 24 codes: bands 50 px wide without dither; with it, its average is the ramp."""
    codes = np.rint(np.linspace(60, 84, 1280)).astype(np.uint8)
    source = np.ascontiguousarray(np.broadcast_to(codes[None, :, None], (200, 1280, 3)))
    shown = render_picture(recipe_from_json(WIDE_BLUR), WINDOW, 0, source, source)
    exact = shown.to("display").pixels[:, :, 0] * 255
    plain = render_frame(recipe_from_json(WIDE_BLUR), WINDOW, 0, source, source)[:, :, 0]
    with_dither = output_codes(shown, 8, 0)[:, :, 0]
    bands = {name: longest_run(each[100]) for name, each in (("no", plain), ("yes", with_dither))}
    assert bands["no"] > 20
    assert bands["yes"] < bands["no"] / 2
    columns = with_dither.mean(axis=0) - exact.mean(axis=0)
    assert np.abs(columns).max() < 0.2


def longest_run(row: NDArray) -> int:
    """The most neighbours of one value."""
    ends = np.flatnonzero(np.diff(row.astype(int), prepend=-1, append=-1))
    return int(np.diff(ends).max())
