"""Clips of the demo, enlarged."""

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2

from idle_shimmer.demo.build import build_clips
from idle_shimmer.media.read.reader import VideoReader
from tests.conftest import ROOT

SIZE = (1920, 1080)


def write_large(
    path: Path,
    place: int,
    count: int,
    options: dict[str, str],
    size: tuple[int, int] = SIZE,
    pixels: str = "yuv420p",
) -> None:
    """Write ``count`` frames of the demo clip ``place`` as H.264 with an encoder's ``options``."""
    clip = VideoReader(sorted(build_clips(ROOT / "var" / "demo"))[place])
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("libx264", rate=25, options=options)
        stream.width, stream.height, stream.pix_fmt = *size, pixels
        for n in range(count):
            picture = clip.read(n % clip.index.count)
            large = cv2.resize(picture, size, interpolation=cv2.INTER_CUBIC)
            frame = av.VideoFrame.from_ndarray(large, format="rgb24")
            frame.pts, frame.time_base = n, Fraction(1, 25)
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
