"""Libavfilter's chain for the render of the benchmark: run as ``render_chain.py FOLDER FRAMES``."""

import itertools
import sys
from fractions import Fraction
from pathlib import Path
from typing import Any

import av

WIDTH, HEIGHT, RATE = 1920, 1080, 25
FIRST = 25


def linked(*steps: Any) -> None:
    for one, following in itertools.pairwise(steps):
        one.link_to(following)


def graph() -> tuple[av.filter.Graph, list[Any]]:
    """Dissolve, roll, rotation, streak, glow, split channels and vignette."""
    made = av.filter.Graph()
    made.threads = 2
    form = av.VideoFormat("yuv420p", WIDTH, HEIGHT)
    sources = [
        made.add_buffer(width=WIDTH, height=HEIGHT, format=form, time_base=Fraction(1, RATE))
        for _ in range(2)
    ]
    fade = made.add("xfade", "transition=fade:duration=2:offset=0")
    for place, source in enumerate(sources):
        rated = made.add("fps", str(RATE))
        source.link_to(rated)
        rated.link_to(fade, 0, place)
    split, glow = made.add("split"), made.add("gblur", "sigma=21")
    blend = made.add("blend", "all_mode=screen:all_opacity=0.5")
    linked(
        fade,
        made.add("scroll", "vertical=0.04"),
        made.add("format", "gbrp"),
        made.add("rotate", "angle=2*PI*t/2:bilinear=1"),
        made.add("dblur", "angle=90:radius=54"),
        split,
    )
    split.link_to(glow, 0, 0)
    split.link_to(blend, 1, 0)
    glow.link_to(blend, 0, 1)
    linked(
        blend,
        made.add("rgbashift", "rh=10:bh=-10"),
        made.add("vignette"),
        made.add("format", "yuv420p"),
        made.add("buffersink"),
    )
    made.configure()
    return made, sources


def main(folder: Path, count: int) -> None:
    """Write ``folder``/chain.mp4 from a.mp4 and b.mp4."""
    chain, sources = graph()
    clips = [av.open(str(folder / f"{name}.mp4")) for name in ("a", "b")]
    for clip in clips:
        clip.streams.video[0].thread_type = "AUTO"
    decoded = [itertools.islice(clip.decode(video=0), FIRST, FIRST + count) for clip in clips]
    with av.open(str(folder / "chain.mp4"), "w") as out:
        options = {"preset": "veryfast", "crf": "23", "threads": "2"}
        stream: Any = out.add_stream("libx264", rate=RATE, options=options)
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, "yuv420p"
        written = 0

        def drain() -> None:
            nonlocal written
            while written < count:
                try:
                    frame = chain.pull()
                except (BlockingIOError, av.error.EOFError):
                    return
                frame.pts, frame.time_base = written, Fraction(1, RATE)
                written += 1
                out.mux(stream.encode(frame))

        for number, frames in enumerate(zip(*decoded, strict=True)):
            for frame, source in zip(frames, sources, strict=True):
                frame.pts, frame.time_base = number, Fraction(1, RATE)
                source.push(frame)
            drain()
        for source in sources:
            source.push(None)
        drain()
        out.mux(stream.encode(None))


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]))
