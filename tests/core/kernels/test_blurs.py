"""Blurs against scipy and against brute-force averages in float64."""

import os
import tracemalloc
from collections.abc import Callable
from functools import partial

import numpy as np
import pytest
import scipy.ndimage
from numpy.typing import NDArray

from idle_shimmer.core.kernels import spin_blur, zoom_blur
from idle_shimmer.core.kernels.directional_blur import directional_blur
from idle_shimmer.core.kernels.gaussian import gaussian
from idle_shimmer.core.kernels.spin_blur import spin
from idle_shimmer.core.kernels.zoom_blur import zoom
from tests.conftest import psnr

LEAST_GAUSSIAN_DB = 45.0
LEAST_STREAK_DB = 40.0
LEAST_PARTS_DB = 55.0


@pytest.mark.parametrize("sigma", [0.4, 2.0, 2.9, 3.1, 5.9, 6.1, 17.0, 60.0, 150.0])
def test_gaussian_agrees_with_scipy(photo: NDArray, sigma: float) -> None:
    expected = scipy.ndimage.gaussian_filter(
        photo.astype(np.float64), (sigma, sigma, 0), mode="reflect"
    )
    assert psnr(gaussian(photo, sigma_x=sigma, sigma_y=sigma), expected) > LEAST_GAUSSIAN_DB


@pytest.mark.parametrize("shape", [(90, 130), (5, 7, 3), (5, 7), (40, 1, 3), (1, 40, 3)])
@pytest.mark.parametrize("sigma", [1.3, 8.0])
def test_gaussian_of_planes_and_of_the_smallest_pictures(
    photo: NDArray, shape: tuple[int, ...], sigma: float
) -> None:
    part = photo[: shape[0], : shape[1]]
    part = part[..., 1] if len(shape) == 2 else part
    axes = (sigma, sigma, *(0,) * (len(shape) - 2))
    expected = scipy.ndimage.gaussian_filter(part.astype(np.float64), axes, mode="reflect")
    found = gaussian(np.ascontiguousarray(part), sigma_x=sigma, sigma_y=sigma)
    assert found.shape == shape
    assert psnr(found, expected) > LEAST_GAUSSIAN_DB


@pytest.mark.parametrize("sigmas", [(14.0, 0.0), (0.0, 14.0), (2.0, 40.0), (40.0, 2.0), (3.6, 9.0)])
def test_gaussian_along_either_axis(photo: NDArray, sigmas: tuple[float, float]) -> None:
    sigma_x, sigma_y = sigmas
    expected = scipy.ndimage.gaussian_filter(
        photo.astype(np.float64), (sigma_y, sigma_x, 0), mode="reflect"
    )
    found = gaussian(photo, sigma_x=sigma_x, sigma_y=sigma_y)
    assert psnr(found, expected) > LEAST_GAUSSIAN_DB


def average_of_copies(photo: NDArray, length: float, angle_deg: float, copies: int) -> NDArray:
    """The mean of copies shifted along the line, linear between pixels, in float64."""
    room = int(length) + 4
    height, width = photo.shape[:2]
    wide = np.pad(photo.astype(np.float64), ((room, room), (room, room), (0, 0)), mode="symmetric")
    total = np.zeros(photo.shape)
    for at in (np.arange(copies) + 0.5) / copies - 0.5:
        x = room + length * at * np.cos(np.radians(angle_deg))
        y = room - length * at * np.sin(np.radians(angle_deg))
        j, i = int(np.floor(x)), int(np.floor(y))
        for row, down in ((i, 1 - (y - i)), (i + 1, y - i)):
            for column, across in ((j, 1 - (x - j)), (j + 1, x - j)):
                total += down * across * wide[row : row + height, column : column + width]
    return total / copies


@pytest.mark.parametrize(
    ("length", "angle_deg"),
    [(0.7, 30), (5, -70), (7, 45), (24, 0), (24, 90), (24, 12), (60, -33), (150, 118)],
)
def test_streak_agrees_with_the_average_of_many_shifted_copies(
    photo: NDArray, length: float, angle_deg: float
) -> None:
    part = photo[:160, :200]
    expected = average_of_copies(part, length, angle_deg, copies=400)
    assert (
        psnr(directional_blur(part, length_px=length, angle_deg=angle_deg), expected)
        > LEAST_STREAK_DB
    )


@pytest.mark.parametrize("shape", [(1, 9), (5, 7), (37, 23), (50, 301), (301, 50)])
@pytest.mark.parametrize(("length", "angle_deg"), [(7, 0), (31.4, 8), (31.4, -44), (90, 30)])
def test_a_streak_of_a_turned_picture_is_the_turned_streak(
    photo: NDArray, shape: tuple[int, int], length: float, angle_deg: float
) -> None:
    """Lines followed by columns against lines followed by rows, also where they leave the frame."""
    part = photo[: shape[0], : shape[1]]
    by_columns = directional_blur(part, length_px=length, angle_deg=angle_deg)
    by_rows = directional_blur(part.swapaxes(0, 1), length_px=length, angle_deg=90 - angle_deg)
    assert by_columns == pytest.approx(by_rows.swapaxes(0, 1), abs=2e-5)
    expected = average_of_copies(part, length, angle_deg, copies=400)
    assert psnr(by_columns, expected) > LEAST_STREAK_DB


@pytest.mark.parametrize("angle_deg", [0, 20, 90, 135])
def test_blurs_keep_constants_and_the_mean(photo: NDArray, angle_deg: float) -> None:
    flat = np.full((90, 130, 3), 0.37, np.float32)
    assert directional_blur(flat, length_px=41.5, angle_deg=angle_deg) == pytest.approx(
        flat, abs=1e-6
    )
    assert gaussian(flat, sigma_x=30, sigma_y=3) == pytest.approx(flat, abs=1e-6)
    # Half-sample mirrors repeat every two frames, so nothing leaves the frame along its axes.
    assert gaussian(photo, sigma_x=9, sigma_y=9).mean() == pytest.approx(photo.mean(), rel=1e-3)
    if angle_deg % 90 == 0:
        streaked = directional_blur(photo, length_px=41.5, angle_deg=angle_deg)
        assert streaked.mean() == pytest.approx(photo.mean(), rel=1e-4)


@pytest.mark.parametrize("length", [3.0, 30.0])
def test_a_streak_points_where_its_angle_says(length: float) -> None:
    """Counter-clockwise as seen: at 30° a point smears up to the right and down to the left."""
    dot = np.zeros((121, 121, 3), np.float32)
    dot[60, 60] = 1
    smear = directional_blur(dot, length_px=length, angle_deg=30)[..., 0]
    rows, columns = np.indices(smear.shape)
    right, up = columns - 60.0, 60.0 - rows
    skew, spread = (smear * right * up).sum(), (smear * (right**2 - up**2)).sum()
    assert np.degrees(np.arctan2(2 * skew, spread)) / 2 == pytest.approx(30, abs=2)


@pytest.mark.skipif("IDLE_SHIMMER_CHECKED" in os.environ, reason="memory, not bounds; slow there")
@pytest.mark.parametrize("centre", [(0.5, 0.5), (0.02, 0.01), (2, 2)])
@pytest.mark.parametrize("blur", [partial(zoom, amount=0.0008), partial(spin, amount_deg=0.04)])
def test_radial_blurs_take_no_more_memory_wherever_their_centre_is(
    blur: Callable[..., NDArray], centre: tuple[float, float], monkeypatch: pytest.MonkeyPatch
) -> None:
    """A quarter of 3840x2160 and of its tiles: a sixteenth of the 0.35 GB that their tables may take."""
    monkeypatch.setattr(spin_blur, "_WHOLE_REACH_PX", spin_blur._WHOLE_REACH_PX / 4)
    monkeypatch.setattr(zoom_blur, "_MOST_ENTRIES", zoom_blur._MOST_ENTRIES // 16)
    pixels = np.zeros((540, 960, 3), np.float32)
    # Loading the kernel takes memory, too, once.
    blur(pixels[:32, :32], centre=(16.0, 16.0))
    tracemalloc.start()
    try:
        blur(pixels, centre=(960 * centre[0], 540 * centre[1]))
        _, most = tracemalloc.get_traced_memory()
    finally:
        tracemalloc.stop()
    assert most < 0.35e9 / 16 + pixels.nbytes


def test_a_large_frame_in_quarters_is_the_frame_in_one_piece(
    photo: NDArray, monkeypatch: pytest.MonkeyPatch
) -> None:
    wanted = {"centre": (71.3, 40.6), "amount_deg": 25.0}
    whole = spin(photo, **wanted)
    monkeypatch.setattr(spin_blur, "_WHOLE_REACH_PX", 0.0)
    np.testing.assert_allclose(spin(photo, **wanted), whole, atol=2e-6)


CONSTANT_CENTRES = [
    (40.0, 30.0),
    (0.5, 0.5),
    (39.5, 0.0),
    (-50.0, 30.0),
    (200.0, 150.0),
    (80.0, 30.0),
]


@pytest.mark.parametrize("centre", CONSTANT_CENTRES)
@pytest.mark.parametrize("amount", [0.01, 0.3, 1.9])
def test_every_pixel_is_written_once_wherever_the_centre_is(
    amount: float, centre: tuple[float, float]
) -> None:
    """A constant picture stays so, along the diagonals between the sides too."""
    pixels = np.full((60, 80, 3), 0.5, np.float32)
    for found in (
        zoom(pixels, amount=amount, centre=centre),
        spin(pixels, amount_deg=amount * 100, centre=centre),
    ):
        np.testing.assert_allclose(found, 0.5, atol=2e-4)


def test_a_side_in_parts_is_the_side_in_one_piece(
    photo: NDArray, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Rays lie elsewhere in each part: alike as the interpolation between them is exact."""
    wanted = {"centre": (71.3, 40.6), "amount": 0.4}
    whole = zoom(photo, **wanted)
    monkeypatch.setattr(zoom_blur, "_MOST_ENTRIES", 4000)
    assert psnr(zoom(photo, **wanted), whole) > LEAST_PARTS_DB
