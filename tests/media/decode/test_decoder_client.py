"""Decoding in processes of their own, with limits."""

import os
import signal
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
import pytest

from idle_shimmer.media.decode.client import (
    DecoderLimits,
    RemoteReader,
    probe_facts,
    remote_peaks,
    remote_sound,
)
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.read.index import read_facts
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.sound.sound_parts import read_sound
from idle_shimmer.media.sound.waveform import peaks
from tests.support.clips import number_in, numbered, write_clip


def test_the_facts_are_those_read_in_this_process(tmp_path: Path) -> None:
    video = write_clip(tmp_path / "one.mp4", [numbered(n) for n in range(60)], tone=True)
    still = tmp_path / "still.png"
    cv2.imwrite(str(still), np.full((30, 50, 3), 90, np.uint8))
    for path in (video, still):
        assert probe_facts(path) == read_facts(path)[0]


def test_what_is_no_video_is_told_in_the_same_words(tmp_path: Path) -> None:
    junk = tmp_path / "junk.mp4"
    junk.write_bytes(b"junk" * 999)
    with pytest.raises(MediaError, match=r"junk\.mp4 is not a video or picture that can be read"):
        probe_facts(junk)


@pytest.mark.parametrize(
    ("limit", "message"),
    [
        ({"memory_bytes": 30 << 20}, "made the decoder stop"),
        ({"seconds": 1e-6}, "took longer than"),
    ],
)
def test_a_file_beyond_its_limits_ends_its_own_process_alone(
    tmp_path: Path, limit: dict, message: str
) -> None:
    video = write_clip(tmp_path / "one.mp4", [numbered(n) for n in range(10)])
    with pytest.raises(MediaError, match=message):
        probe_facts(video, DecoderLimits(**{"memory_bytes": 4 << 30, "seconds": 120.0, **limit}))


def test_pictures_and_sound_are_those_decoded_in_this_process(tmp_path: Path) -> None:
    path = write_clip(tmp_path / "one.mp4", [numbered(n) for n in range(60)], tone=True)
    order = [0, 59, 58, 30, 31, 5]
    with VideoReader(path, (96, 48)) as here, RemoteReader(path, (96, 48)) as there:
        assert (there.facts, there.index) == (here.facts, here.index)
        for number in order:
            np.testing.assert_array_equal(there.read(number), here.read(number))
        with pytest.raises(MediaError, match="has pictures 0 to 59, not 60"):
            there.read(60)
    assert remote_peaks(path) == pytest.approx(peaks(path))
    piece = Fraction(1, 2), Fraction(1)
    np.testing.assert_array_equal(remote_sound(path, *piece), read_sound(path, *piece))


def test_a_reader_whose_process_was_ended_says_so_and_reads_again(tmp_path: Path) -> None:
    path = write_clip(tmp_path / "one.mp4", [numbered(n) for n in range(10)])
    with RemoteReader(path) as reader:
        assert number_in(reader.read(3)) == 3
        assert reader._process is not None
        os.kill(reader._process.id, signal.SIGKILL)
        with pytest.raises(MediaError, match="made the decoder stop"):
            reader.read(4)
        assert number_in(reader.read(4)) == 4
