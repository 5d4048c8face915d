"""The first look at a file, in a process of its own with limits."""

from pathlib import Path

import cv2
import numpy as np
import pytest

from idle_shimmer.media.guarded import guarded_facts
from idle_shimmer.media.index import MediaError, read_facts
from tests.media.clips import numbered, write_clip


def test_the_facts_are_those_read_in_this_process(tmp_path: Path) -> None:
    video = write_clip(tmp_path / "one.mp4", [numbered(n) for n in range(60)], tone=True)
    still = tmp_path / "still.png"
    cv2.imwrite(str(still), np.full((30, 50, 3), 90, np.uint8))
    for path in (video, still):
        assert guarded_facts(path) == read_facts(path)[0]


def test_what_is_no_video_is_told_in_the_same_words(tmp_path: Path) -> None:
    junk = tmp_path / "junk.mp4"
    junk.write_bytes(b"junk" * 999)
    with pytest.raises(MediaError, match=r"junk\.mp4 is no video or picture that can be read"):
        guarded_facts(junk)


@pytest.mark.parametrize(
    ("limit", "told"),
    [
        ({"memory_bytes": 30 << 20}, "made the decoder stop"),
        ({"seconds": 0.01}, "took longer than"),
    ],
)
def test_a_file_beyond_its_limits_ends_its_own_process_alone(
    tmp_path: Path, limit: dict, told: str
) -> None:
    video = write_clip(tmp_path / "one.mp4", [numbered(n) for n in range(10)])
    with pytest.raises(MediaError, match=told):
        guarded_facts(video, **limit)
