"""Times every special path against the general computation, and writes docs/performance.md.

Run by ``./benchmark --paths``. Two processes render the same frames in turns, one with the path and
one without it (``IDLE_SHIMMER_OFF``), so that a machine whose speed changes treats both alike.
"""

import json
import os
import platform
import statistics
import subprocess
import sys
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import skimage.data

ROOT = Path(__file__).parents[2]
SIZES = ((640, 360), (1920, 1080))
MIN_GAIN = 1.3
# Recipes that differ from another one in direction alone.
_SAME_WORK = ("-right", "-down")
_PAIRS, _SECONDS_PER_RECIPE = 9, 1.5
_MIN_PAIRS = 3
# A recipe whose frames take this much longer without a path takes the path.
_TAKEN = 1.05

HEADING = "## Special paths"


# With names of paths only those are measured; the other rows of the table stay.
_RESULTS = ROOT / "var" / "special-paths.json"


def _measured_before() -> dict[str, Any]:
    return json.loads(_RESULTS.read_text(encoding="utf-8")) if _RESULTS.exists() else {}


@dataclass(frozen=True)
class SpecialPath:
    """A name for ``IDLE_SHIMMER_OFF``, what it is and when it is taken, filters that may take it."""

    name: str
    what: str
    when: str
    kinds: frozenset[str]


_GEOMETRY = frozenset({"transform", "shake", "roll", "lens", "bulge", "twirl", "ripple"})
_SOFT = frozenset({"gaussian_blur", "bloom", "displace"})
PATHS = (
    SpecialPath(
        "translate",
        "rows, then columns, with four weights each",
        "the map only shifts, by any number of time samples",
        frozenset({"roll", "push"}),
    ),
    SpecialPath(
        "separable",
        "rows and columns apart, with weights for each",
        "no stage rotates or shears",
        frozenset({"transform", "roll"}),
    ),
    SpecialPath(
        "box_resample",
        "averages of whole pixels, instead of OpenCV's area resampling",
        "the small copy of a blur divides the frame",
        _SOFT,
    ),
    SpecialPath(
        "cubic_simd",
        "vector form of the cubic interpolation",
        "in every cubic sample",
        _GEOMETRY | {"radial_blur"},
    ),
    SpecialPath(
        "sum_taps", "a block of symmetric sums kept in registers", "in Gaussian blurs", _SOFT
    ),
    SpecialPath(
        "mix_pixels", "two pixels mixed as one vector", "enlarging in Gaussian blurs", _SOFT
    ),
    SpecialPath(
        "merge_channels",
        "channels interpolated and merged in registers",
        "in the channel split",
        frozenset({"channel_split"}),
    ),
)


def serve() -> None:
    """Render frames as they are asked for on standard input; answer with the seconds they took."""
    from idle_shimmer.book.entries import book
    from tests.support.frames import render_frame

    photos = [skimage.data.astronaut()[112:400], skimage.data.coffee()]
    pairs = {
        size: [cv2.resize(photo, size, interpolation=cv2.INTER_CUBIC) for photo in photos]
        for size in SIZES
    }
    for request in sys.stdin:
        slug, width, height = json.loads(request)
        entry = book()[slug]
        begun = time.perf_counter()
        render_frame(entry.recipe, entry.window, -1, *pairs[width, height])
        print(time.perf_counter() - begun, flush=True)


class Renderer:
    """A process that renders frames, with the named paths switched off."""

    def __init__(self, off: str = "") -> None:
        environment = {**os.environ, "IDLE_SHIMMER_OFF": off}
        command = [sys.executable, "-m", "tests.benchmarks.special_paths", "--serve"]
        self._process = subprocess.Popen(
            command,
            cwd=ROOT,
            env=environment,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
        )

    def seconds(self, slug: str, size: tuple[int, int]) -> float:
        """Render the frame before the cut of a recipe; return the seconds it took."""
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        print(json.dumps([slug, *size]), file=self._process.stdin, flush=True)
        return float(self._process.stdout.readline())

    def close(self) -> None:
        """End the process."""
        self._process.kill()
        self._process.wait()


def _slugs(path: SpecialPath) -> Iterator[str]:
    from idle_shimmer.book.entries import book

    for slug, entry in book().items():
        kinds = {each.kind for each in entry.recipe.filters} | {entry.recipe.mix.kind}
        if kinds & path.kinds and not slug.endswith(_SAME_WORK):
            yield slug


def _gain(with_path: Renderer, without: Renderer, slug: str, size: tuple[int, int]) -> list[float]:
    """Return (seconds with, seconds without), medians of pairs that were rendered in turns."""
    with_path.seconds(slug, size)
    without.seconds(slug, size)
    pairs: list[tuple[float, float]] = []
    begun = time.perf_counter()
    while len(pairs) < _PAIRS:
        pairs.append((with_path.seconds(slug, size), without.seconds(slug, size)))
        if len(pairs) >= _MIN_PAIRS and time.perf_counter() - begun > _SECONDS_PER_RECIPE:
            break
    return [statistics.median(side) for side in zip(*pairs, strict=True)]


def measure(names: list[str]) -> dict[str, Any]:
    """Return for each path and size (gain over the recipes that take it, their number, over all)."""
    found: dict[str, Any] = {}
    with_path = Renderer()
    for path in PATHS:
        if names and path.name not in names:
            continue
        without = Renderer(path.name)
        for size in SIZES:
            times = {slug: _gain(with_path, without, slug, size) for slug in _slugs(path)}
            taken = {slug: t for slug, t in times.items() if t[1] > _TAKEN * t[0]}
            ratios = [t[1] / t[0] for t in taken.values()]
            gain = statistics.geometric_mean(ratios) if ratios else 1.0
            whole = sum(t[1] for t in times.values()) / sum(t[0] for t in times.values())
            best = max(times, key=lambda slug: times[slug][1] / times[slug][0])
            found[f"{path.name}@{size[1]}"] = {
                "gain": gain,
                "taken": len(taken),
                "of": len(times),
                "whole": whole,
                "best": [best, times[best][1] / times[best][0]],
            }
            print(path.name, size, found[f"{path.name}@{size[1]}"], flush=True)
        without.close()
    with_path.close()
    return found


def _table(found: dict[str, Any]) -> list[str]:
    lines = [
        "| path | what | when it is taken | 640×360 | 1920×1080 | over all, 360 | over all, 1080 |",
        "| --- | --- | --- | ---: | ---: | ---: | ---: |",
    ]
    for path in PATHS:
        small, large = (found.get(f"{path.name}@{size[1]}") for size in SIZES)
        if small is None or large is None:
            continue
        cells = [
            f"{one['gain']:.2f} ({one['taken']} of {one['of']})" if one["taken"] else "none"
            for one in (small, large)
        ]
        cells += [f"{one['whole']:.2f}" for one in (small, large)]
        lines.append(f"| `{path.name}` | {path.what} | {path.when} | {' | '.join(cells)} |")
    return lines


def write(found: dict[str, Any]) -> None:
    """Write the part of docs/performance.md about special paths."""
    text = [
        HEADING,
        "",
        "Some computations have a faster way to the same result where a recipe allows it. This part of the page is",
        "written by `./benchmark --paths`, which renders the frame before the cut of the built-in",
        "recipes with and without each path, in turns, in two processes.",
        "",
        "A gain of 2.00 means that the frame takes twice as long without the path: the geometric mean",
        "over the recipes that take it, which are those more than 5 % slower without it (in brackets:",
        "how many of those measured). Over all: the sum of the frame times of all measured recipes.",
        f"A path that gains less than {MIN_GAIN:g} at both sizes is deleted. Figures vary by about a tenth",
        "from run to run: one near the limit is judged by the mean of several runs.",
        "",
        *_table(found),
        "",
        f"Measured on {platform.machine()} with {len(os.sched_getaffinity(0))} processors.",
        "",
    ]
    page = ROOT / "docs" / "performance.md"
    before = page.read_text(encoding="utf-8").partition(HEADING)[0]
    page.write_text(before + "\n".join(text), encoding="utf-8")


if __name__ == "__main__":
    if "--serve" in sys.argv:
        serve()
    else:
        names = [each for each in sys.argv[1:] if not each.startswith("-")]
        results = {**_measured_before(), **measure(names)}
        _RESULTS.write_text(json.dumps(results), encoding="utf-8")
        write(results)
