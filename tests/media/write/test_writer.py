"""Files that are written: pictures and sound side by side, and the sound as it was."""

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.sound.sound_parts import (
    SAMPLES_PER_SECOND,
    faded,
    faded_ends,
    read_sound,
    sound_parts,
)
from idle_shimmer.media.write.output_formats import FORMATS, OutputFormat
from idle_shimmer.media.write.writer import AHEAD, Coding, SoundTrack, frame_of, writing

SIZE, RATE, SECONDS = (96, 54), Fraction(25), 6
# Lossy codecs at 192 kbit/s keep far more of a tone than this; PCM and FLAC of 16 bits all of it.
LEAST_SOUND_DB = {"aac": 25, "libopus": 25, "pcm_s16le": 80}
VIDEOS = [each for each in FORMATS.values() if each.video]
MOST_APART_S = 1.5


def tone(seconds: float, hertz: float) -> NDArray[np.float32]:
    at = np.arange(round(seconds * SAMPLES_PER_SECOND)) / SAMPLES_PER_SECOND
    one = 0.4 * np.sin(2 * np.pi * hertz * at)
    return np.stack([one, 0.5 * one], axis=1).astype(np.float32)


def pictures() -> Iterator[NDArray[np.uint8]]:
    noise = np.random.default_rng(3).integers(0, 255, (SIZE[1], SIZE[0], 3), np.uint8)
    for number in range(int(RATE * SECONDS)):
        yield np.roll(noise, 3 * number, axis=1)


def write(path: Path, parts: list[NDArray[np.float32]], output: OutputFormat | None = None) -> None:
    with writing(path, SIZE, RATE, Coding(output, "draft"), tracks=[SoundTrack(parts)]) as writer:
        for picture in pictures():
            writer.write(frame_of(picture))


@pytest.mark.parametrize("output", VIDEOS, ids=lambda each: each.id)
def test_the_sound_is_written_beside_the_pictures_and_comes_back(
    output: OutputFormat, tmp_path: Path
) -> None:
    path, parts = tmp_path / f"quay{output.suffix}", [tone(2.5, 440), tone(3.5, 660)]
    write(path, parts, output)
    with VideoReader(path) as reader:
        assert (reader.facts.frame_count, reader.facts.has_sound) == (RATE * SECONDS, True)
    with av.open(str(path)) as container:
        times: dict[str, float] = {}
        apart = 0.0
        for packet in container.demux():
            if packet.pts is not None and packet.stream.type != "data":
                times[packet.stream.type] = float(packet.pts * packet.time_base)
                apart = max(apart, max(times.values()) - min(times.values()))
    assert len(times) == 2
    assert apart < MOST_APART_S
    found, expected = read_sound(path, Fraction(0), Fraction(SECONDS)), np.concatenate(parts)
    assert loudness_db(found, expected) > LEAST_SOUND_DB[output.sound or ""]


def loudness_db(found: NDArray, expected: NDArray) -> float:
    """How much louder the sound is than what differs from it."""
    # The last moments of a lossy stream may lack a block.
    inside = slice(0, round(5.8 * SAMPLES_PER_SECOND))
    error = np.mean((found[inside] - expected[inside]) ** 2)
    return float(10 * np.log10(np.mean(expected[inside] ** 2) / error))


@pytest.mark.parametrize("start_s", [Fraction(0), Fraction(7, 3)])
def test_sound_is_without_holes_where_a_file_rounds_its_times(
    start_s: Fraction, tmp_path: Path
) -> None:
    """AAC in Matroska: blocks of 1024 samples, 21.33 ms, at whole milliseconds."""
    path, whole = tmp_path / "quay.mkv", tone(6, 440)
    with av.open(str(path), mode="w") as container:
        stream = container.add_stream("aac", rate=SAMPLES_PER_SECOND, layout="stereo")
        for start in range(0, len(whole), 1024):
            planes = np.ascontiguousarray(whole[start : start + 1024].T)
            frame = av.AudioFrame.from_ndarray(planes, format="fltp", layout="stereo")
            frame.sample_rate, frame.pts = SAMPLES_PER_SECOND, start
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    found = read_sound(path, start_s, Fraction(3))[4800:-4800]
    # What the tone changes from sample to sample, with what AAC adds: a hole is ten times that.
    steepest = 0.4 * 2 * np.pi * 440 / SAMPLES_PER_SECOND
    assert np.abs(np.diff(found[:, 0])).max() < 1.5 * steepest


def test_a_long_sound_comes_in_parts_that_are_the_whole(tmp_path: Path) -> None:
    """In lossless sound, where any sample may be missed or doubled at a join and be found."""
    path = tmp_path / "quay.mkv"
    ramp = (np.arange(70 * SAMPLES_PER_SECOND) % 30_000 / 32_768).astype(np.float32)
    write(path, [np.stack([ramp, -ramp], axis=1)])
    start, duration = Fraction(1, 3), Fraction(64)
    parts = list(sound_parts(path, start, duration))
    assert [len(each) for each in parts] == [64 * SAMPLES_PER_SECOND // 3] * 3
    first = round(start * SAMPLES_PER_SECOND)
    np.testing.assert_array_equal(
        np.concatenate(parts)[:, 0], ramp[first : first + 64 * SAMPLES_PER_SECOND]
    )


def test_only_the_ends_of_a_sound_in_parts_are_faded() -> None:
    parts = [np.ones((4800, 2), np.float32) for _ in range(3)]
    found = np.concatenate(list(faded_ends(parts, at_start=True, at_end=True)))
    np.testing.assert_array_equal(
        found, faded(np.ones((14400, 2), np.float32), at_start=True, at_end=True)
    )


def test_parts_of_the_sound_are_taken_when_the_pictures_come_to_them(tmp_path: Path) -> None:
    written, begun = 0, []

    def parts() -> Iterator[NDArray[np.float32]]:
        for _ in range(SECONDS):
            begun.append(written)
            yield tone(1, 440)

    with writing(tmp_path / "quay.mov", SIZE, RATE, tracks=[SoundTrack(parts())]) as writer:
        for picture in pictures():
            writer.write(frame_of(picture))
            written += 1
    # Coded beside the pictures that follow: a few of them are ahead.
    late = [at - RATE * second for second, at in enumerate(begun)]
    assert len(late) == SECONDS
    assert all(0 <= each <= AHEAD + 1 for each in late)


def test_sound_that_is_shorter_or_longer_than_the_pictures_is_written_whole(tmp_path: Path) -> None:
    for seconds in (2, 8):
        path = tmp_path / f"{seconds}.mkv"
        write(path, [tone(seconds, 440)])
        found = read_sound(path, Fraction(0), Fraction(10))
        assert np.flatnonzero(np.abs(found[:, 0]) > 0.01).max() == pytest.approx(
            seconds * SAMPLES_PER_SECOND, abs=100
        )


def test_joins_are_faded_and_the_ends_are_not() -> None:
    ends = [(False, True), (True, True), (True, False)]
    whole = np.concatenate(
        [faded(np.ones((4800, 2), np.float32), at_start=start, at_end=end) for start, end in ends]
    )
    assert whole[0, 0] == whole[-1, 0] == 1
    assert whole[4799, 0] == whole[4800, 0] == 0
    assert np.abs(np.diff(whole[:, 0])).max() < 0.01
    # Too short to be faded at all: it would be nothing but fades.
    short = np.ones((300, 2), np.float32)
    np.testing.assert_array_equal(faded(short, at_start=True, at_end=True), short)


def test_more_frames_a_second_than_timecode_counts_are_written_without(tmp_path: Path) -> None:
    path = tmp_path / "fast.mp4"
    with writing(path, SIZE, Fraction(1000), timecode="00:00:00:00") as writer:
        writer.write(frame_of(np.zeros((SIZE[1], SIZE[0], 3), np.uint8)))
    with av.open(str(path)) as container:
        assert "timecode" not in container.metadata


def test_h264_is_coded_by_frames_and_not_by_slices(tmp_path: Path) -> None:
    """As the encoder says of itself in the stream (the message of x264, in an SEI)."""
    path = tmp_path / "quay.mp4"
    with writing(path, SIZE, RATE) as writer:
        for n in range(8):
            writer.write(frame_of(np.full((SIZE[1], SIZE[0], 3), 20 * n, np.uint8)))
    assert b" sliced_threads=0 " in path.read_bytes()
