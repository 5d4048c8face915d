"""Weighted sums of two pictures, against NumPy in float64."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from idle_shimmer.core.kernels.blend import Share, blend
from idle_shimmer.core.picture.encoding import Encoding, Picture
from idle_shimmer.core.picture.transfer import linear_of_display

HEIGHT, WIDTH = 9, 37
LIGHTS = st.sampled_from(["codes", "display", "linear"])


def pictures(seed: int, light: Encoding) -> list[Picture]:
    random = np.random.default_rng(seed)
    codes = [random.integers(0, 256, (HEIGHT, WIDTH, 3)).astype(np.uint8) for _ in range(2)]
    return [Picture(each, "codes").to(light) for each in codes]


def expected(pair: list[Picture], share: NDArray | float, light: Encoding) -> NDArray:
    """The sum in display light, in the light that is asked for; codes are not rounded."""
    one, other = (each.to("display").pixels.astype(np.float64) for each in pair)
    weight = np.broadcast_to(np.asarray(share, np.float64), (HEIGHT, WIDTH))[..., None]
    mixed = one * (1 - weight) + other * weight
    return {"codes": mixed * 255, "display": mixed, "linear": linear_of_display(mixed)}[light]


def assert_is(found: Picture, wanted: NDArray, light: Encoding) -> None:
    assert found.encoding == light
    assert found.pixels.dtype == (np.uint8 if light == "codes" else np.float32)
    most = 0.502 if light == "codes" else 3e-6
    assert np.abs(found.pixels - wanted).max() <= most


@settings(max_examples=60)
@given(st.integers(0, 99), LIGHTS, LIGHTS, LIGHTS, st.floats(0, 1))
def test_one_share_for_all_pixels(
    seed: int, first: Encoding, second: Encoding, wanted: Encoding, share: float
) -> None:
    pair = [pictures(seed, first)[0], pictures(seed, second)[1]]
    found = blend(*pair, share, wanted)
    assert_is(found, expected(pair, share, wanted), wanted)


# Planes as mattes have them: for every pixel, the same in every row, the same in every column.
PLANES = st.sampled_from([(HEIGHT, WIDTH), (1, WIDTH), (HEIGHT, 1)])


@settings(max_examples=120)
@given(
    st.integers(0, 99), LIGHTS, LIGHTS, PLANES, st.floats(-40, 40), st.floats(-1, 2), st.booleans()
)
def test_a_share_for_each_pixel_is_a_ramp_held_in_its_range(
    seed: int,
    light: Encoding,
    wanted: Encoding,
    shape: tuple[int, int],
    slope: float,
    start: float,
    in_order: bool,
) -> None:
    """Steep slopes leave rows that begin and end with one picture alone, as wipes do."""
    pair = pictures(seed, light)
    plane = np.random.default_rng(seed).random(shape).astype(np.float32)
    plane = np.sort(plane, axis=None).reshape(shape) if in_order else plane
    whole = np.broadcast_to(plane, (HEIGHT, WIDTH))
    share = np.clip(np.float32(start) + np.float32(slope) * whole, 0, 1)
    found = blend(*pair, Share(whole, slope=slope, start=start), wanted)
    assert_is(found, expected(pair, share, wanted), wanted)


@pytest.mark.parametrize("light", ["codes", "display", "linear"])
def test_shares_of_none_and_all_give_the_pictures_themselves(light: Encoding) -> None:
    pair = pictures(3, "codes")
    half = np.zeros((1, WIDTH), np.float32)
    half[0, 17:] = 1
    joined = blend(*pair, Share(half), light).to("codes").pixels
    assert np.array_equal(joined[:, :17], pair[0].pixels[:, :17])
    assert np.array_equal(joined[:, 17:], pair[1].pixels[:, 17:])
    for share, kept in ((0.0, pair[0]), (1.0, pair[1])):
        assert np.array_equal(blend(*pair, share, light).to("codes").pixels, kept.pixels)
