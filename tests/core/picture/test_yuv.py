"""Planes for encoders: the published formula, in float64, and libswscale."""

from fractions import Fraction
from itertools import pairwise
from typing import Any

import av
import cv2
import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Picture
from idle_shimmer.core.picture.yuv import YUV_FORMS, LumaCoding, Planes, YuvForm, yuv_planes

FORMS = pytest.mark.parametrize("name", YUV_FORMS)


def exact(rgb: NDArray[np.float64], bits: int) -> NDArray[np.float64]:
    """Y, Cb and Cr codes of display values (…, 3): ITU-R BT.709-6, items 3.2 to 3.5 (from memory)."""
    y = rgb @ [0.2126, 0.7152, 0.0722]
    cb, cr = (rgb[..., 2] - y) / 1.8556, (rgb[..., 0] - y) / 1.5748
    unit = 2 ** (bits - 8)
    return np.stack([(219 * y + 16) * unit, (224 * cb + 128) * unit, (224 * cr + 128) * unit], -1)


def planes(display: NDArray[Any], form: YuvForm, encoding: Any = "deep") -> tuple[NDArray, ...]:
    pixels = np.rint(display * 65535).astype(np.uint16) if encoding == "deep" else display
    return parts(yuv_planes(Picture(pixels, encoding), form, 7))


def parts(found: Planes) -> tuple[NDArray, ...]:
    return found.luma, found.blue, found.red


@FORMS
def test_flat_colours_are_the_formula_rounded_once(name: str) -> None:
    form = YUV_FORMS[name]
    for colour in np.random.default_rng(5).uniform(0, 1, (60, 3)).tolist():
        flat = np.broadcast_to(np.array(colour), (8, 8, 3))
        expected = exact(np.rint(np.array(colour) * 65535) / 65535, form.bits)
        for plane, value in zip(planes(flat, form), expected, strict=True):
            assert (plane == plane[0, 0]).all()
            assert abs(plane[0, 0] - value) <= 0.5 + 1e-3


@FORMS
def test_white_and_black_are_the_ends_of_limited_range(name: str) -> None:
    form = YUV_FORMS[name]
    unit = 2 ** (form.bits - 8)
    for level, code in ((0.0, 16), (1.0, 235)):
        luma, blue, red = planes(np.full((4, 4, 3), level), form)
        assert (luma == code * unit).all()
        assert (blue == 128 * unit).all()
        assert (red == 128 * unit).all()


@FORMS
def test_a_photograph_comes_back_through_libswscale(name: str, photo: NDArray[np.float32]) -> None:
    """By its own inverse, with chroma beside the left sample; its white of 16 bits is 65283."""
    form = YUV_FORMS[name]
    soft = cv2.GaussianBlur(photo, (0, 0), 1.5)
    found = {place: decoded(planes(soft, form), name, place) for place in ("left", "center")}
    apart = {place: np.abs(each - soft) * 255 for place, each in found.items()}
    assert apart["left"].mean() < (0.5 if form.bits == 8 else 0.25)
    assert np.percentile(apart["left"], 99.9) < 4
    assert apart["left"].mean() < 0.8 * apart["center"].mean()


def decoded(found: tuple[NDArray, ...], name: str, chroma: str) -> NDArray[np.float64]:
    """Return the display values that libswscale makes of planes."""
    height, width = found[0].shape
    frame = av.VideoFrame(width, height, name)
    for target, plane in zip(frame.planes, found, strict=True):
        rows = np.asarray(memoryview(target)).view(plane.dtype).reshape(target.height, -1)
        rows[:, : target.width] = plane
    frame.colorspace, frame.color_range = 1, 1
    graph = av.filter.Graph()
    scale = f"flags=bicubic+accurate_rnd+full_chroma_int+full_chroma_inp:in_chroma_loc={chroma}"
    steps = [
        graph.add_buffer(
            width=width, height=height, format=frame.format, time_base=Fraction(1, 1000)
        ),
        graph.add("scale", scale),
        graph.add("format", "rgb48le"),
        graph.add("buffersink"),
    ]
    for one, following in pairwise(steps):
        one.link_to(following)
    graph.configure()
    graph.push(frame)
    return graph.pull().to_ndarray(format="rgb48le") / 65283


def test_chroma_lies_where_the_left_luma_sample_does() -> None:
    """A saturated ramp: its chroma at sample j is that of pixel 2j, between rows of its own."""
    columns = np.linspace(0.1, 0.9, 64)
    ramp = np.zeros((16, 64, 3))
    ramp[..., 0], ramp[..., 2] = columns, columns[::-1]
    for form in YUV_FORMS.values():
        _, blue, _ = planes(ramp, form)
        expected = exact(ramp[0, ::2], form.bits)[:, 1]
        np.testing.assert_allclose(blue[3, 1:-1], expected[1:-1], atol=0.51)


def test_what_is_computed_is_dithered_in_eight_bits_alone() -> None:
    gradient = np.broadcast_to(
        np.linspace(0.2, 0.23, 640, dtype=np.float32)[None, :, None], (64, 640, 3)
    )
    eight, ten = YUV_FORMS["yuv420p"], YUV_FORMS["yuv420p10le"]
    noisy, again = (planes(gradient, eight, "display")[0] for _ in range(2))
    np.testing.assert_array_equal(noisy, again)
    target = exact(gradient.astype(np.float64), 8)[..., 0]
    mean = cv2.blur(noisy.astype(np.float64) - target, (31, 31))
    assert np.abs(mean[16:-16, 16:-16]).max() < 0.25
    plain = planes(gradient, ten, "display")[0]
    assert np.abs(plain - exact(gradient.astype(np.float64), 10)[..., 0]).max() <= 0.51
    # Codes of a source are only rounded, also where they are handed on as float values.
    codes = np.rint(gradient * 255).astype(np.uint8)
    for picture in (Picture(codes, "codes"), Picture(codes / np.float32(255), "display")):
        luma = yuv_planes(picture, eight, 3).luma
        assert np.abs(luma - exact(codes / 255, 8)[..., 0]).max() <= 0.5 + 1e-3


@pytest.mark.parametrize("weights", [(0.299, 0.114), (0.2627, 0.0593)])
def test_other_weights_are_those_of_their_standard(weights: tuple[float, float]) -> None:
    """ITU-R BT.601-7 and BT.2020-2 (from memory): the same formula with their luma."""
    red, blue = weights
    colour = np.array([0.8, 0.3, 0.1])
    y = red * colour[0] + (1 - red - blue) * colour[1] + blue * colour[2]
    expected = (
        64 + 876 * y,
        512 + 896 * (colour[2] - y) / (2 * (1 - blue)),
        512 + 896 * (colour[0] - y) / (2 * (1 - red)),
    )
    flat = Picture(np.broadcast_to(colour, (4, 4, 3)).astype(np.float32), "display")
    found = parts(yuv_planes(flat, YUV_FORMS["yuv422p10le"], 0, LumaCoding(weights)))
    for plane, value in zip(found, expected, strict=True):
        assert abs(int(plane[0, 0]) - value) <= 0.51


@pytest.mark.parametrize("form", YUV_FORMS.values())
@pytest.mark.parametrize("colour", [(0, 0, 0), (1, 1, 1), (0, 0, 1), (1, 0, 0), (0.8, 0.3, 0.1)])
def test_full_range_is_that_of_its_standard_and_stays_inside(
    form: YuvForm, colour: tuple[float, float, float]
) -> None:
    """ITU-T H.273, 8.3 (from memory): luma by 2^n - 1, chroma about 2^(n-1), both clipped."""
    red, green, blue = colour
    top, middle = (1 << form.bits) - 1, 1 << (form.bits - 1)
    y = 0.2126 * red + 0.7152 * green + 0.0722 * blue
    expected = np.clip(
        [top * y, middle + top * (blue - y) / 1.8556, middle + top * (red - y) / 1.5748], 0, top
    )
    codes = np.rint(np.broadcast_to(colour, (4, 4, 3)) * 65535).astype(np.uint16)
    found = parts(yuv_planes(Picture.of_codes(codes), form, 0, LumaCoding(is_full=True)))
    for plane, value in zip(found, expected, strict=True):
        assert abs(int(plane[0, 0]) - value) <= 0.51
