"""A finished edit of the demo clips, whose cuts are known."""

from fractions import Fraction
from pathlib import Path

from idle_shimmer.demo.build import build_clips
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.write.writer import frame_of, writing
from tests.conftest import ROOT

SHOTS = ((0, 5, 34), (3, 8, 40), (1, 5, 37), (5, 20, 62), (2, 10, 40), (6, 30, 58))
DISSOLVE_AFTER, DISSOLVE_FRAMES = 2, 10
SIZE = (320, 180)


def write_finished(path: Path) -> list[int]:
    """Write hard cuts, one dissolve and a flash; the first frame of every new shot."""
    readers = [VideoReader(each, SIZE) for each in sorted(build_clips(ROOT / "var" / "demo"))]
    cuts, count = [], 0
    with writing(path, SIZE, Fraction(25)) as writer:
        for n, (clip, first, end) in enumerate(SHOTS):
            for k in range(first, end):
                picture = readers[clip].read(k)
                # A flash of two frames is no cut.
                if n == 1 and k in (20, 21):
                    picture = (picture // 4 + 190).astype("uint8")
                writer.write(frame_of(picture))
                count += 1
            if n == DISSOLVE_AFTER:
                following, start, _ = SHOTS[n + 1]
                for k in range(DISSOLVE_FRAMES):
                    share = (k + 0.5) / DISSOLVE_FRAMES
                    one = readers[clip].read(end + k)
                    other = readers[following].read(start - DISSOLVE_FRAMES + k)
                    writer.write(
                        frame_of((one * (1 - share) + other * share).round().astype("uint8"))
                    )
                    count += 1
            elif n + 1 < len(SHOTS):
                cuts.append(count)
    return cuts
