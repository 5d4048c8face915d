"""The ways between codes, display and linear light.

Transfer: IEC 61966-2-1; scikit-image's ``rgb2xyz`` is the independent implementation of it.
"""

import numpy as np
import pytest
from skimage.color import rgb2xyz

from idle_shimmer.core.picture.encoding import Picture
from idle_shimmer.core.picture.transfer import display_of_linear, linear_of_display

# The luminance row of the sRGB matrix sums to this, so grey light is Y over it (ITU-R BT.709 white).
ALL_CODES = np.arange(256, dtype=np.uint8).repeat(3).reshape(16, 16, 3)


def test_linear_light_of_greys_agrees_with_scikit_image() -> None:
    luminance = rgb2xyz(ALL_CODES / 255)[..., 1]
    ours = Picture(ALL_CODES, "codes").to("linear").pixels[..., 0]
    assert ours == pytest.approx(luminance, abs=2e-6)


@pytest.mark.parametrize(
    "way", [("linear",), ("display",), ("display", "linear"), ("linear", "display")]
)
def test_every_code_comes_back(way: tuple) -> None:
    picture = Picture(ALL_CODES, "codes")
    for light in way:
        picture = picture.to(light)
    assert np.array_equal(picture.to("codes").pixels, ALL_CODES)


@pytest.mark.parametrize("scale", [1.0, 4.0, -2.0])
def test_float_conversions_follow_the_formula_inside_and_beyond_the_range(scale: float) -> None:
    values = (np.linspace(0, 1, 3 * 4000).reshape(40, 100, 3) * scale).astype(np.float32)
    to_linear = Picture(values, "display").to("linear").pixels
    to_display = Picture(values, "linear").to("display").pixels
    assert to_linear == pytest.approx(linear_of_display(values), abs=1e-6, rel=1e-5)
    assert to_display == pytest.approx(display_of_linear(values), abs=1e-6, rel=1e-5)


def test_codes_clip_what_lies_outside() -> None:
    values = np.array([[[-1.0, 0.5, 7.0]]], np.float32)
    for light in ("linear", "display"):
        codes = Picture(values, light).to("codes").pixels  # type: ignore[arg-type]
        assert (codes[0, 0, 0], codes[0, 0, 2]) == (0, 255)
