"""Small copies of clips, of keyframes alone: any picture of them is decoded at once.

A picture far behind its keyframe is slow to decode; previews show that of the copy instead.
"""

from collections.abc import Callable
from contextlib import closing
from itertools import pairwise
from pathlib import Path

from idle_shimmer.core.picture.encoding import Picture
from idle_shimmer.media.decode.client import RemoteReader, probe_index
from idle_shimmer.media.read.index import FrameIndex
from idle_shimmer.media.read.reader import Size
from idle_shimmer.media.write.output_formats import OutputFormat
from idle_shimmer.media.write.writer import Coding, frame_of, writing

SUFFIX = ".mkv"
# Decoding so many pictures on the way to another is quick enough.
_LONGEST_WAY = 100
_KEYFRAMES_ALONE = OutputFormat(
    "proxy",
    "Keyframes alone",
    SUFFIX,
    "libx264",
    "yuv420p",
    None,
    None,
    {"preset": "ultrafast", "crf": "14", "tune": "fastdecode", "x264-params": "keyint=1"},
)


def is_slow(index: FrameIndex) -> bool:
    """Whether some pictures of a clip lie far behind their keyframes."""
    ends = [*index.keyframes, index.count]
    return any(end - first > _LONGEST_WAY for first, end in pairwise(ends))


def write_proxy(
    path: Path, out: Path, size_of: Callable[[Size], Size], go_on: Callable[[int], None]
) -> bool:
    """Write the copy of a clip to ``out``; return False where it needs none.

    ``size_of`` returns the size of the copy from the clip's; ``go_on`` is told how many pictures are done, and
    may raise to stop. Picture n of the copy is picture n of the clip.
    """
    facts, index = probe_index(path)
    if not is_slow(index):
        return False
    size = size_of((facts.width, facts.height))
    with (
        closing(RemoteReader(path, size, (facts, index))) as reader,
        writing(out, size, facts.rate, Coding(_KEYFRAMES_ALONE)) as writer,
    ):
        for number in range(index.count):
            writer.write(frame_of(Picture.of_codes(reader.read(number)).to("codes").pixels))
            go_on(number + 1)
    return True
