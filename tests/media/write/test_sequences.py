"""Numbered PNG pictures as one clip."""

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.write.sequences import join_pictures
from tests.support.clips import numbered, png


@pytest.mark.parametrize("rate", [Fraction(24), Fraction(30000, 1001)])
def test_every_picture_comes_back_bit_for_bit(rate: Fraction, tmp_path: Path) -> None:
    source, out = tmp_path / "pictures", tmp_path / "sequence.mov"
    source.write_bytes(b"".join(png(numbered(n)) for n in range(30)))
    assert join_pictures(source, rate, out) == 30
    with VideoReader(out) as reader:
        assert (reader.facts.rate, reader.facts.frame_count) == (rate, 30)
        assert all(np.array_equal(reader.read(n), numbered(n)) for n in (0, 29, 4, 3))


@pytest.mark.parametrize(
    ("pictures", "message"),
    [
        ([], "has no pictures"),
        ([png(numbered(0)), b"GIF89a..."], "picture 2 of the sequence is not a PNG"),
        ([png(numbered(0))[:-20]], "picture 1 of the sequence is truncated"),
        ([png(numbered(0)), png(numbered(1, 100, 50))], "picture 2 of the sequence is 100×50"),
    ],
)
def test_a_file_that_is_not_a_sequence_is_refused(
    pictures: list[bytes], message: str, tmp_path: Path
) -> None:
    source = tmp_path / "pictures"
    source.write_bytes(b"".join(pictures))
    with pytest.raises(MediaError, match=message):
        join_pictures(source, Fraction(25), tmp_path / "out.mov")
