"""The composed map, its one lookup, its edges and the shutter."""

from typing import Any

import cv2
import numpy as np
import pytest
import skimage.transform
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from idle_shimmer.core.compute.jit import kernel
from idle_shimmer.core.geometry.shutter import Exposure
from idle_shimmer.core.geometry.transforms import (
    AffineTransform,
    CoordinateTransform,
    placement,
    translation,
)
from idle_shimmer.core.geometry.warp import coverage_map, warp
from tests.conftest import psnr

LEAST_DB = 40.0
RETURN_DB = 45.0


def turned(
    photo: NDArray, turns: float, scale: float = 1.0, edge: str = "mirror"
) -> AffineTransform:
    height, width = photo.shape[:2]
    return placement((scale, scale), turns, (width / 2, height / 2), (0.0, 0.0), edge)  # type: ignore[arg-type]


@pytest.mark.parametrize("edge", ["tile", "mirror"])
def test_whole_rolls_give_the_input(photo: NDArray, edge: str) -> None:
    height, width = photo.shape[:2]
    period = 1 if edge == "tile" else 2
    shift = (4 * period * width, -22 * period * height)
    stage = translation(shift, edge)  # type: ignore[arg-type]
    assert stage.is_identity(width, height)
    assert np.array_equal(warp(photo, [[stage]]), photo)


def test_an_odd_mirrored_roll_lands_reversed(photo: NDArray) -> None:
    stage = translation((photo.shape[1], 0.0), "mirror")
    assert not stage.is_identity(photo.shape[1], photo.shape[0])
    assert np.array_equal(warp(photo, [[stage]]), photo[:, ::-1])


def test_common_practice_rolls_are_whole() -> None:
    """Pixel positions that editors type for whole rolls (common practice)."""
    cases = [(960, 2880, 1920, True), (2048, -2048, 4096, True), (540, 4860, 1080, True)]
    cases += [(360, 16200, 720, True), (360, 16247, 720, False)]
    for start, end, size, whole in cases:
        assert translation((0.0, end - start), "tile").is_identity(64, size) is whole
    # 22 rolls and 47 pixels: what the strip shows is 47 pixels off.
    strip = np.random.default_rng(1).random((720, 8, 3), np.float32)
    rolled = warp(strip, [[translation((0.0, 16247 - 360), "tile")]])
    assert np.array_equal(rolled, np.roll(strip, 47, axis=0))


@settings(max_examples=15)
@given(st.integers(-500, 500), st.integers(-500, 500))
def test_rolling_twice_is_rolling_by_the_sum(photo: NDArray, a: int, b: int) -> None:
    both = warp(photo, [[translation((a, b), "tile"), translation((b, a), "tile")]])
    assert np.array_equal(both, warp(photo, [[translation((a + b, a + b), "tile")]]))
    assert np.array_equal(both, np.roll(photo, (a + b, a + b), axis=(0, 1)))


@pytest.mark.parametrize(
    ("edge", "numpy_mode"),
    [("mirror", "symmetric"), ("tile", "wrap"), ("smear", "edge"), ("black", "constant")],
)
@pytest.mark.parametrize("turn", [0.0, 0.25])
def test_edges_are_those_of_numpy(photo: NDArray, edge: str, numpy_mode: str, turn: float) -> None:
    """Shrunk to a third by whole steps, the frame shows the picture and what lies beyond it."""
    part = photo[:90, :90]
    wide = np.pad(part, ((90, 90), (90, 90), (0, 0)), mode=numpy_mode)  # type: ignore[call-overload]
    expected = np.rot90(cv2.resize(wide, (90, 90), interpolation=cv2.INTER_AREA), int(turn * 4))
    found = warp(part, [[turned(part, turn, 1 / 3, edge)]])
    assert psnr(found, expected) > RETURN_DB


@pytest.mark.parametrize(("turns", "scale"), [(0.07, 1.0), (-0.2, 1.7), (0.0, 1.3)])
def test_turning_and_enlarging_agree_with_scikit_image(
    photo: NDArray, turns: float, scale: float
) -> None:
    stage = turned(photo, turns, scale)
    to_points = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1]])
    matrix = np.linalg.inv(to_points) @ np.vstack([stage.matrix, [0, 0, 1]]) @ to_points
    expected = skimage.transform.warp(photo.astype(np.float64), matrix, order=3, mode="symmetric")
    assert psnr(warp(photo, [[stage]]), expected) > LEAST_DB


def test_positive_turns_are_counter_clockwise(photo: NDArray) -> None:
    square = photo[:200, :200]
    assert psnr(warp(square, [[turned(square, 0.25)]]), np.rot90(square)) > 100


@pytest.mark.parametrize("scale", [0.5, 0.25, 0.1])
def test_shrinking_does_not_alias(scale: float) -> None:
    """A checkerboard finer than the output must come out grey (its mean)."""
    board = np.indices((240, 240)).sum(axis=0)[..., None].repeat(3, axis=2) % 2
    shrunk = warp(board.astype(np.float32), [[turned(board, 0.06, scale)]])
    assert np.abs(shrunk[60:180, 60:180] - 0.5).max() < 0.12


chained = st.lists(
    st.builds(
        placement,
        st.floats(1.0, 3).map(lambda scale: (scale, scale)),
        # Never a turn that puts points just on a seam, where either side is right.
        st.integers(1, 98).map(lambda turns: turns / 100 + 0.00314),
        st.just((64.0, 48.0)),
        st.tuples(st.floats(-200, 200), st.floats(-200, 200)),
        st.sampled_from(["mirror", "tile", "smear", "black"]),
    ),
    min_size=1,
    max_size=3,
)


def folded(x: NDArray, size: int, edge: str) -> NDArray:
    if edge == "tile":
        return np.mod(x, size)
    if edge == "mirror":
        return size - np.abs(np.mod(x, 2 * size) - size)
    return np.clip(x, 0, size)


def warped_point_by_point(part: NDArray, stages: list[AffineTransform]) -> NDArray:
    """Every pixel traced by itself and interpolated by Keyframes's cubic (1981), in float64."""
    height, width = part.shape[:2]
    x, y = np.meshgrid(np.arange(width) + 0.5, np.arange(height) + 0.5)
    cover = np.ones_like(x)
    for stage in reversed(stages):
        x, y = np.tensordot(stage.matrix, np.stack([x, y, np.ones_like(x)]), 1)
        if stage.edge == "black":
            for at, size in ((x, width), (y, height)):
                cover *= np.clip(np.minimum(at, size - at) + 0.5, 0, 1)
        x, y = folded(x, width, stage.edge), folded(y, height, stage.edge)
    total = np.zeros(part.shape)
    edge = stages[0].edge
    left, top = np.floor(x - 0.5), np.floor(y - 0.5)
    for i, j in np.ndindex(4, 4):
        row, column = top + i - 1, left + j - 1
        weight = keys(y - 0.5 - row) * keys(x - 0.5 - column)
        at = folded(row + 0.5, height, edge), folded(column + 0.5, width, edge)
        inside = [
            np.clip(each.astype(int), 0, n - 1) for each, n in zip(at, part.shape, strict=False)
        ]
        total += weight[..., None] * part[inside[0], inside[1]]
    return total * cover[..., None]


def keys(distance: NDArray) -> NDArray:
    d = np.abs(distance)
    near, far = (1.5 * d - 2.5) * d * d + 1, ((-0.5 * d + 2.5) * d - 4) * d + 2
    return np.where(d < 1, near, np.where(d < 2, far, 0))


@settings(max_examples=60)
@given(chained)
def test_chains_of_rotations_agree_with_points_mapped_one_by_one(
    photo: NDArray, stages: list[AffineTransform]
) -> None:
    part = np.ascontiguousarray(photo[:96, :128])
    expected = warped_point_by_point(part, stages)
    assert np.abs(warp(part, [stages, stages]) - expected).max() < 1e-4


@settings(max_examples=60)
@given(
    st.lists(st.tuples(st.floats(-300, 300), st.floats(-300, 300)), min_size=1, max_size=3),
    st.sampled_from(["mirror", "tile"]),
)
def test_translations_agree_with_points_mapped_one_by_one(
    photo: NDArray, shifts: list[tuple[float, float]], edge: str
) -> None:
    """Averaged over time samples, far beyond the frame's own size."""
    part = np.ascontiguousarray(photo[:48, :64])
    stages = [translation(each, edge) for each in shifts]  # type: ignore[arg-type]
    expected = np.mean([warped_point_by_point(part, [each]) for each in stages], axis=0)
    assert np.abs(warp(part, [[each] for each in stages]) - expected).max() < 1e-4


def test_there_and_back_is_the_input(photo: NDArray) -> None:
    there = [turned(photo, 0, 0.5), turned(photo, 0.1), translation((31.7, -12.3), "tile")]
    back = [translation((-31.7, 12.3), "tile"), turned(photo, -0.1), turned(photo, 0, 2.0)]
    assert psnr(warp(photo, [[*there, *back]]), photo) > RETURN_DB


def test_it_is_the_picture_entering_a_pass_that_is_extended(photo: NDArray) -> None:
    """Shrunk with mirrored edges, then moved with black ones: black shows only beyond the black edges."""
    height, width = photo.shape[:2]
    stages = [turned(photo, 0, 0.5, "mirror"), translation((width / 4, 0.0), "black")]
    cover = coverage_map(width, height, [stages])
    assert cover[:, : width // 4 - 1].max() == 0
    assert cover[:, width // 4 + 1 :].min() == 1


def test_a_half_sized_picture_with_black_edges_covers_a_quarter(photo: NDArray) -> None:
    height, width = photo.shape[:2]
    cover = coverage_map(width, height, [[turned(photo, 0, 0.5, "black")]])
    assert 1 - cover.mean() == pytest.approx(0.75, abs=0.01)


def test_an_open_shutter_blurs_by_its_share_of_the_frame() -> None:
    """180° at any rate is half a frame: a point moving 20 px a frame smears over 10 px."""
    dot = np.zeros((40, 120, 3), np.float32)
    dot[20, 60] = 1
    open_ = Exposure(lambda t: [translation((20 * t, 0.0), "smear")], 0.0, 180.0, (120, 40))
    smeared = warp(dot, open_.time_samples)[20, :, 0]
    at = np.arange(120) - 60.0
    spread = np.sqrt((smeared * at**2).sum() / smeared.sum())
    # The standard deviation of a uniform smear of length L is L / sqrt(12).
    assert spread * np.sqrt(12) == pytest.approx(10, abs=0.5)
    assert smeared.sum() == pytest.approx(1, abs=1e-3)


def test_a_longer_movement_needs_more_time_samples() -> None:
    def turning(t: float) -> list[AffineTransform]:
        return [placement((1, 1), 0.2 * t, (320, 180), (0, 0), "mirror")]

    counts = [
        len(Exposure(turning, 0.0, shutter, (640, 360)).time_samples) for shutter in (0, 30, 360)
    ]
    assert counts[0] == 1 < counts[1] < counts[2]


@pytest.mark.parametrize(("degrees", "least_db"), [(4, 48), (40, 48)])
def test_the_shutter_is_the_average_of_many_rotations(
    photo: NDArray, degrees: float, least_db: float
) -> None:
    """Against 120 turns by scikit-image (third order, symmetric), spread evenly over the frame."""
    height, width = photo.shape[:2]

    def turning(t: float) -> list[AffineTransform]:
        return [placement((1, 1), t * degrees / 360, (width / 2, height / 2), (0, 0), "mirror")]

    exposure = Exposure(turning, 0.0, 360.0, (width, height))
    seen = warp(photo, exposure.time_samples)
    expected = np.mean(
        [
            skimage.transform.rotate(photo, angle, order=3, mode="symmetric")
            for angle in degrees * ((np.arange(120) + 0.5) / 120 - 0.5)
        ],
        axis=0,
    )
    assert psnr(seen, expected) > least_db


@pytest.mark.parametrize("degrees", [40, 360])
def test_where_less_moves_fewer_time_samples_show_the_same(photo: NDArray, degrees: float) -> None:
    """Beside all of them everywhere, which is what a plain list of stages gets."""
    height, width = photo.shape[:2]

    def turning(t: float) -> list[AffineTransform]:
        return [placement((1, 1), t * degrees / 360, (width / 2, height / 2), (0, 0), "mirror")]

    samples = Exposure(turning, 0.0, 360.0, (width, height)).time_samples
    thinned, whole = warp(photo, samples), warp(photo, list(samples))
    assert psnr(thinned, whole) > 48
    assert np.abs(thinned - whole).max() < 0.06
    middle = (width // 2 - 20, height // 2 - 20, width // 2 + 20, height // 2 + 20)
    assert len(samples.of_part(middle)) < 0.7 * len(samples)
    assert len(samples.of_part((0, 0, 40, 40))) == len(samples)


@kernel
def _shrink_to_nowhere(xs: Any, ys: Any, gains: Any, parameters: Any) -> None:
    for i in range(xs.shape[0]):
        for j in range(xs.shape[1]):
            xs[i, j], ys[i, j] = parameters[0, 0] * xs[i, j], 2.3 * ys[i, j]
            if int(xs[i, j]) % 50 == 7:
                xs[i, j] = np.nan


@pytest.mark.parametrize("edge", ["mirror", "tile", "smear", "black"])
def test_a_point_that_leads_nowhere_reads_nothing_outside(photo: NDArray, edge: str) -> None:
    """Where it shrinks, and in sharp rows beside: in the checked mode every access is tested."""
    for scale in (2.3, 1.0):
        stage = CoordinateTransform(_shrink_to_nowhere, np.array([[scale]]), edge)  # type: ignore[arg-type]
        assert warp(photo, [[stage]]).shape == photo.shape
