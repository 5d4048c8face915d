"""The core's speed, beside what a user would otherwise run, in one run on the same pictures."""

import statistics
import time
from collections.abc import Callable
from fractions import Fraction
from typing import Any

import av
import cv2
import numpy as np
import pytest
import skimage.data
from numpy.typing import NDArray

from idle_shimmer.api.clips import jpeg
from idle_shimmer.core.bands import threads
from idle_shimmer.core.filters.gaussian import gaussian
from idle_shimmer.core.filters.streak import streak
from idle_shimmer.core.geometry.lookup import look_up
from idle_shimmer.core.geometry.stages import placement, translation
from idle_shimmer.core.picture import linear_from_codes
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.core.render import render_frame
from idle_shimmer.core.timing import Window
from tests.core.test_recipe import FOUR_ROLLS

SIZES = {"640x360": (640, 360), "1920x1080": (1920, 1080)}
ROUNDS = 15


def photos(size: tuple[int, int]) -> list[NDArray[np.uint8]]:
    """Two photographs as codes."""
    pictures = (skimage.data.astronaut(), skimage.data.coffee())
    return [cv2.resize(each, size, interpolation=cv2.INTER_CUBIC) for each in pictures]


def median_ms(work: Callable[[], Any]) -> float:
    """The median of several runs after a warm-up, in milliseconds."""
    work()
    times = []
    for _ in range(ROUNDS):
        begun = time.perf_counter()
        work()
        times.append(time.perf_counter() - begun)
    return 1000 * statistics.median(times)


def libavfilter(name: str, arguments: str, size: tuple[int, int]) -> Callable[[], Any]:
    """A filter of libavfilter on planar 8-bit RGB, on as many threads as ours use."""
    graph = av.filter.Graph()
    layout = av.VideoFormat("gbrp", *size)
    source = graph.add_buffer(
        width=size[0], height=size[1], format=layout, time_base=Fraction(1, 25)
    )
    work = graph.add(name, f"{arguments}:threads={threads()}")
    sink = graph.add("buffersink")
    source.link_to(work)
    work.link_to(sink)
    graph.configure()
    frame = av.VideoFrame.from_ndarray(photos(size)[0], format="rgb24").reformat(format="gbrp")
    count = iter(range(10**9))

    def run() -> None:
        frame.pts = next(count)
        graph.push(frame)
        graph.pull()

    return run


@pytest.mark.benchmark(group="a frame of roll + directional blur + dissolve, 640x360")
def test_one_frame(benchmark: Any, tell: Any) -> None:
    pair, recipe = photos((640, 360)), recipe_from_json(FOUR_ROLLS)
    benchmark(lambda: render_frame(recipe, Window(10, 10), -1, *pair))
    tell(
        "one frame, roll + streak + dissolve, 640x360",
        f"{benchmark.stats.stats.median * 1000:.1f} ms (goal 12)",
    )


@pytest.mark.benchmark(group="a window of 20 frames with JPEGs, 640x360")
def test_a_window(benchmark: Any, tell: Any) -> None:
    pair, recipe, window = photos((640, 360)), recipe_from_json(FOUR_ROLLS), Window(10, 10)

    def whole() -> list[bytes]:
        return [jpeg(render_frame(recipe, window, offset, *pair)) for offset in window.offsets]

    benchmark(whole)
    tell("20 frames with JPEGs, 640x360", f"{benchmark.stats.stats.median:.2f} s (goal 0.4)")


def cases(size: tuple[int, int]) -> list[tuple[str, Callable[[], Any], str, str]]:
    """(what, ours, the filter of libavfilter, its arguments) on linear float32 against 8 bits."""
    lit = linear_from_codes(photos(size)[0])
    height, middle = size[1], (size[0] / 2, size[1] / 2)
    turn = placement((1.0, 1.0), 0.05, middle, (0.0, 0.0), "mirror")
    listed: list[tuple[str, Callable[[], Any], str, str]] = []
    for share in (0.01, 0.03, 0.1):
        sigma = share * height
        listed.append(
            (
                f"gaussian, sigma {share:.0%} of height",
                lambda sigma=sigma: gaussian(lit, sigma_x=sigma, sigma_y=sigma),
                "gblur",
                f"sigma={sigma}",
            )
        )
    for share, angle in ((0.06, 0), (0.06, 90), (0.06, 30), (0.5, 30)):
        length = share * height
        listed.append(
            (
                f"streak, {share:.0%} of height at {angle} deg",
                lambda length=length, angle=angle: streak(lit, length_px=length, angle_deg=angle),
                "dblur",
                f"angle={angle}:radius={length / 2}",
            )
        )
    listed.append(("turn of 18 deg", lambda: look_up(lit, [[turn]]), "rotate", "0.314"))
    return listed


@pytest.mark.parametrize("name", SIZES)
def test_filters_beside_libavfilter(name: str, tell: Any) -> None:
    for what, ours, other, arguments in cases(SIZES[name]):
        mine, theirs = median_ms(ours), median_ms(libavfilter(other, arguments, SIZES[name]))
        tell(
            f"{what}, {name}",
            f"{mine:7.1f} ms, {other} {theirs:7.1f} ms, ratio {mine / theirs:.2f}",
        )


def test_cost_against_length(tell: Any) -> None:
    lit = linear_from_codes(photos((1920, 1080))[0])
    for share in (0.01, 0.02, 0.05, 0.1, 0.2, 0.5):
        size = share * 1080
        blur = median_ms(lambda size=size: gaussian(lit, sigma_x=size, sigma_y=size))
        line = median_ms(lambda size=size: streak(lit, length_px=size, angle_deg=30))
        tell(
            f"cost at {share:.0%} of height, 1920x1080",
            f"gaussian {blur:6.1f} ms, streak {line:6.1f} ms",
        )


def test_roll_beside_opencv(tell: Any) -> None:
    for name, size in SIZES.items():
        lit = linear_from_codes(photos(size)[0])
        stage = translation((13.3, 7.7), "mirror")
        mine = median_ms(lambda lit=lit, stage=stage: look_up(lit, [[stage]]))
        x, y = np.meshgrid(np.arange(size[0]) - 13.3, np.arange(size[1]) - 7.7)
        maps = x.astype(np.float32), y.astype(np.float32)
        theirs = median_ms(
            lambda lit=lit, maps=maps: cv2.remap(
                lit, *maps, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
            )
        )
        tell(
            f"roll by a fraction, {name}",
            f"{mine:7.1f} ms, cv2.remap {theirs:7.1f} ms, ratio {mine / theirs:.2f}",
        )
