"""The core's speed, beside what a user would otherwise run, in one run on the same pictures."""

import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from fractions import Fraction
from typing import Any

import av
import cv2
import numpy as np
import pytest
import skimage.data
import skimage.transform
from numpy.typing import NDArray

from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.compute.allocator import keep_freed_memory
from idle_shimmer.core.compute.parallel import threads
from idle_shimmer.core.filters.base import GeometryFilter, PictureFilter
from idle_shimmer.core.geometry.transforms import translation
from idle_shimmer.core.geometry.warp import warp
from idle_shimmer.core.kernels.directional_blur import directional_blur
from idle_shimmer.core.kernels.gaussian import gaussian
from idle_shimmer.core.picture.encoding import linear_from_codes
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.media.previews.jpeg import jpeg
from tests.core.test_recipe import FOUR_ROLLS
from tests.support.frames import render_frame

# As every command of the application does.
keep_freed_memory()

SIZES = {"640x360": (640, 360), "1920x1080": (1920, 1080)}
ROUNDS = 15
# Short steps are run more often.
LEAST_S = 0.5
IN_A_ROW = 4
# High, so that a transition of a minute has frames enough for all runs.
THEIR_RATE = 1000


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


def side_by_side(ours: Callable[[], Any], theirs: Callable[[], Any]) -> tuple[float, float]:
    """Medians in milliseconds of both, a few runs of each by turns.

    The machine's pace changes from second to second, so that both must be run within one; the first
    run of a turn finds the other's data in the caches and the other's threads at work.
    """
    both: tuple[list[float], list[float]] = ([], [])
    begun = time.perf_counter()
    while len(both[0]) < ROUNDS or time.perf_counter() - begun < LEAST_S:
        for work, times in zip((ours, theirs), both, strict=True):
            work()
            for _ in range(IN_A_ROW):
                at = time.perf_counter()
                work()
                times.append(time.perf_counter() - at)
    return 1000 * statistics.median(both[0]), 1000 * statistics.median(both[1])


def libavfilter(
    name: str, arguments: str, size: tuple[int, int], inputs: int = 1
) -> Callable[[], Any]:
    """A filter of libavfilter on planar 8-bit RGB, on as many threads as ours use."""
    graph = av.filter.Graph()
    layout = av.VideoFormat("gbrp", *size)
    work = graph.add(name, arguments if inputs > 1 else f"{arguments}:threads={threads()}")
    sink = graph.add("buffersink")
    sources = []
    for pad in range(inputs):
        source = graph.add_buffer(
            width=size[0], height=size[1], format=layout, time_base=Fraction(1, THEIR_RATE)
        )
        if inputs > 1:
            rate = graph.add("settb", f"1/{THEIR_RATE}")
            fps = graph.add("fps", str(THEIR_RATE))
            source.link_to(rate)
            rate.link_to(fps)
            fps.link_to(work, 0, pad)
        else:
            source.link_to(work, 0, pad)
        sources.append(source)
    work.link_to(sink)
    graph.configure()
    frames = [
        av.VideoFrame.from_ndarray(photo, format="rgb24").reformat(format="gbrp")
        for photo in photos(size)[:inputs]
    ]
    count = iter(range(10**9))

    # The graph is held: its filters go with it.
    def run(_held: av.filter.Graph = graph) -> None:
        pts = next(count)
        for source, frame in zip(sources, frames, strict=True):
            frame.pts, frame.time_base = pts, Fraction(1, THEIR_RATE)
            source.push(frame)
        try:
            sink.pull()
        except av.BlockingIOError:
            # The frame rate filter holds the first picture back until it knows the next.
            if pts > 2:
                raise

    return run


@pytest.mark.benchmark(group="a frame of roll + directional blur + dissolve, 640x360")
def test_one_frame(benchmark: Any, report: Any) -> None:
    pair, recipe = photos((640, 360)), recipe_from_json(FOUR_ROLLS)
    benchmark(lambda: render_frame(recipe, Window(10, 10), -1, *pair))
    report(
        "one frame, roll + directional blur + dissolve, 640x360",
        f"{benchmark.stats.stats.median * 1000:.1f} ms (goal 12)",
    )


@pytest.mark.benchmark(group="a window of 20 frames with JPEGs, 640x360")
def test_a_window(benchmark: Any, report: Any) -> None:
    pair, recipe, window = photos((640, 360)), recipe_from_json(FOUR_ROLLS), Window(10, 10)

    def whole() -> list[bytes]:
        return [jpeg(render_frame(recipe, window, offset, *pair)) for offset in window.offsets]

    benchmark(whole)
    report("20 frames with JPEGs, 640x360", f"{benchmark.stats.stats.median:.2f} s (goal 0.4)")


def shown(
    document: dict[str, Any], size: tuple[int, int], light: str = "linear"
) -> Callable[[], Any]:
    """One filter on a picture in linear float32, as a stack applies it."""
    recipe = recipe_from_json({"light": light, "filters": [{"id": "it", **document}]})
    each = recipe.filters[0]
    timeline = Timeline(recipe, Window(10, 10), Fraction(25), size)
    values, context = timeline.values(each, -0.5), timeline.context(-0.5, -1)
    lit = linear_from_codes(photos(size)[0])
    if isinstance(each, PictureFilter):
        return lambda: each.apply(lit, values, context)
    assert isinstance(each, GeometryFilter)
    return lambda: warp(lit, [[each.stage(values, context)]])


Case = tuple[str, Callable[[], Any], str, Callable[[], Any]]


def cases(size: tuple[int, int]) -> Iterator[Case]:
    """(what, ours, what else does it, theirs) on linear float32 against 8 bits."""
    height = size[1]

    def filtered(name: str, arguments: str, inputs: int = 1) -> tuple[str, Callable[[], Any]]:
        return name, libavfilter(name, arguments, size, inputs)

    for share in (0.01, 0.03, 0.1):
        blur = {"kind": "gaussian_blur", "radius": share}
        yield (
            f"gaussian, sigma {share:.0%} of height",
            shown(blur, size),
            *filtered("gblur", f"sigma={share * height}"),
        )
    for share, angle in ((0.06, 0), (0.06, 90), (0.06, 30), (0.5, 30)):
        blur = {"kind": "directional_blur", "length": share, "angle": angle}
        yield (
            f"directional blur, {share:.0%} of height at {angle} deg",
            shown(blur, size),
            *filtered("dblur", f"angle={angle}:radius={share * height / 2}"),
        )
    turn = {"kind": "transform", "turns": 0.05}
    yield "turn of 18 deg", shown(turn, size), *filtered("rotate", "0.314")
    lens = {"kind": "lens", "k1": -0.2, "k2": 0.05}
    other = "k1=-0.2:k2=0.05:i=bilinear"
    yield "radial lens", shown(lens, size), *filtered("lenscorrection", other)
    split = {"kind": "channel_split", "distance": 0.02}
    yield "channel split", shown(split, size), *filtered("rgbashift", "rh=4:bh=-4")
    vignette = {"kind": "vignette", "stops": -2.0}
    yield "vignette", shown(vignette, size), *filtered("vignette", "angle=PI/4")
    for what, mix, name in (
        ("dissolve", {"kind": "dissolve"}, "fade"),
        ("push", {"kind": "push"}, "slideright"),
        ("wipe", {"kind": "wipe"}, "wipeleft"),
        ("wipe with a hard edge", {"kind": "wipe", "softness": 0.0}, "wipeleft"),
    ):
        recipe = recipe_from_json({"mix": mix})
        pair = photos(size)
        yield (
            f"mix {what}, codes to codes",
            lambda recipe=recipe, pair=pair: render_frame(recipe, Window(11, 11), -1, *pair),
            *filtered("xfade", f"transition={name}:duration=59:offset=0", 2),
        )
    lit = linear_from_codes(photos(size)[0])
    yield (
        "twirl",
        shown({"kind": "twirl", "turns": 0.3}, size),
        "skimage swirl",
        lambda: skimage.transform.swirl(lit, strength=2, radius=height / 2),
    )
    yield (
        "zoom blur, 30 %",
        shown({"kind": "radial_blur", "amount": 0.3}, size),
        "60 x cv2.warpAffine",
        lambda: many_copies(lit),
    )
    yield (
        "lens blur, 3 % of height",
        shown({"kind": "lens_blur", "radius": 0.03}, size),
        "cv2.filter2D",
        lambda: cv2.filter2D(lit, -1, disc_taps(0.03 * height)),
    )


def many_copies(lit: NDArray[np.float32]) -> NDArray[np.float32]:
    """The zoom blur that a user would otherwise add up."""
    height, width = lit.shape[:2]
    total = np.zeros_like(lit)
    for scale in np.linspace(0.85, 1.15, 60):
        matrix = cv2.getRotationMatrix2D((width / 2, height / 2), 0, float(scale))
        total += cv2.warpAffine(lit, matrix, (width, height), borderMode=cv2.BORDER_REFLECT)
    return total / 60


def disc_taps(radius: float) -> NDArray[np.float32]:
    """A disc as a kernel of taps."""
    reach = int(radius) + 1
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    taps = (np.hypot(x, y) <= radius).astype(np.float32)
    return taps / taps.sum()


@pytest.mark.parametrize("name", SIZES)
def test_filters_beside_others(name: str, report: Any) -> None:
    for what, ours, other, theirs in cases(SIZES[name]):
        mine, another = side_by_side(ours, theirs)
        report(
            f"{what}, {name}",
            f"{mine:7.2f} ms, {other} {another:7.2f} ms, ratio {mine / another:.2f}",
        )


SIX_FILTERS = {
    "mix": {"kind": "dissolve", "span": [-0.5, 0.5]},
    "filters": [
        {"kind": "roll", "edge": "tile", "y": {"kind": "travel", "amount": -4}},
        {"kind": "transform", "scale": 1.2, "turns": 0.02},
        {"kind": "directional_blur", "length": 0.1, "angle": 90},
        {"kind": "bloom", "gain": 4.0},
        {"kind": "channel_split", "distance": 0.01},
        {"kind": "vignette", "stops": -2.0},
    ],
}


@pytest.mark.benchmark(group="a frame of six filters, 640x360")
def test_six_filters(benchmark: Any, report: Any) -> None:
    pair, recipe = photos((640, 360)), recipe_from_json(SIX_FILTERS)
    benchmark(lambda: render_frame(recipe, Window(10, 10), -1, *pair))
    report(
        "one frame, six filters, 640x360",
        f"{benchmark.stats.stats.median * 1000:.1f} ms (goal 25)",
    )


def test_memory_of_a_render(report: Any) -> None:
    """The most that a process holds while it renders a short window, and a ten times longer one."""
    for frames in (10, 100):
        script = MEMORY_SCRIPT.format(frames=frames)
        ran = subprocess.run(
            [sys.executable, "-c", script], capture_output=True, text=True, check=True
        )
        report(f"most memory, window of {frames} frames at 1920x1080", f"{ran.stdout.strip()} MB")


MEMORY_SCRIPT = """
import resource
import numpy as np
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.transition.transition import Transition
from tests.benchmarks.test_core_speed import SIX_FILTERS, photos

class Clip:
    name, count = "clip", 1000
    def __init__(self, codes): self.codes = codes
    def frame(self, number): return self.codes

pair = [Clip(each) for each in photos((1920, 1080))]
side = {frames} // 2
made = Transition(*pair, 500, 500, Window(side, side), recipe_from_json(SIX_FILTERS))
for _ in made.frames(1):
    pass
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024)
"""


def test_cost_against_length(report: Any) -> None:
    lit = linear_from_codes(photos((1920, 1080))[0])
    for share in (0.01, 0.02, 0.05, 0.1, 0.2, 0.5):
        size = share * 1080
        blur = median_ms(lambda size=size: gaussian(lit, sigma_x=size, sigma_y=size))
        line = median_ms(lambda size=size: directional_blur(lit, length_px=size, angle_deg=30))
        report(
            f"cost at {share:.0%} of height, 1920x1080",
            f"gaussian {blur:6.1f} ms, directional blur {line:6.1f} ms",
        )


def test_roll_beside_opencv(report: Any) -> None:
    for name, size in SIZES.items():
        lit = linear_from_codes(photos(size)[0])
        stage = translation((13.3, 7.7), "mirror")
        x, y = np.meshgrid(np.arange(size[0]) - 13.3, np.arange(size[1]) - 7.7)
        maps = x.astype(np.float32), y.astype(np.float32)
        mine, theirs = side_by_side(
            lambda lit=lit, stage=stage: warp(lit, [[stage]]),
            lambda lit=lit, maps=maps: cv2.remap(
                lit, *maps, cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
            ),
        )
        report(
            f"roll by a fraction, {name}",
            f"{mine:7.2f} ms, cv2.remap {theirs:7.2f} ms, ratio {mine / theirs:.2f}",
        )
