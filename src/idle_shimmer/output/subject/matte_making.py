"""Makes the mattes of a subject as one file of grey video, in order."""

from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Codes, Picture
from idle_shimmer.core.subject.propagate import mattes
from idle_shimmer.core.subject.strokes import Strokes
from idle_shimmer.media.matte_video import write_matte_video
from idle_shimmer.media.read.reader import Reader, Size, VideoReader

# Mattes of larger clips are made at this height: their edges are soft over more than a pixel there.
LARGEST_HEIGHT_PX = 1080


def make_mattes(
    clip: Path,
    strokes: list[Strokes],
    first: int,
    last: int,
    out: Path,
    go_on: Callable[[int], None],
    open_reader: Callable[[Path, Size], Reader] = VideoReader,
) -> list[float]:
    """Write the mattes of pictures ``first`` … ``last`` of a clip to ``out``.

    Return how much each differs from the one before, as a share of the frame. ``go_on`` is told how many
    are done, and raises to stop. They are made both ways from the frames with strokes, so all are held, packed.
    """
    packed: dict[int, bytes] = {}
    with closing(open_reader(clip, (2, 2))) as found:
        facts = found.facts
    shrink = min(1.0, LARGEST_HEIGHT_PX / facts.height)
    size = max(2, round(facts.width * shrink)), max(2, round(facts.height * shrink))
    with closing(open_reader(clip, size)) as reader:

        def picture(number: int) -> Codes:
            return Picture.of_codes(reader.read(number)).to("codes").pixels

        for number, alpha in mattes(picture, strokes, first, last):
            codes = np.rint(alpha * 255).astype(np.uint8)
            packed[number] = cv2.imencode(".png", codes)[1].tobytes()
            go_on(len(packed))
    write_matte_video(out, (_unpacked(packed[n]) for n in range(first, last + 1)))
    return list(_changes(_unpacked(packed[n]) for n in range(first, last + 1)))


def _unpacked(png: bytes) -> NDArray[np.uint8]:
    return np.asarray(cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_GRAYSCALE), np.uint8)


def _changes(pictures: Iterator[NDArray[np.uint8]]) -> Iterator[float]:
    before: NDArray[np.uint8] | None = None
    for codes in pictures:
        apart = 0.0 if before is None else float(np.mean(cv2.absdiff(codes, before))) / 255
        yield round(apart, 5)
        before = codes
