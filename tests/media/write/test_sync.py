"""Picture and sound: a click is heard when a white picture is shown, whatever the container does."""

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from idle_shimmer.media.read.index import read_facts
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.sound.sound_parts import SAMPLES_PER_SECOND, read_sound
from idle_shimmer.media.sound.waveform import PEAKS_PER_SECOND, peaks
from idle_shimmer.media.write.output_formats import FORMATS, OutputFormat
from idle_shimmer.media.write.writer import Coding, SoundTrack, frame_of, writing

RATE, COUNT = 25, 100
# Picture and sound meet at these pictures.
CLICKS = (20, 70)
WITHIN_S = 0.005
CONTAINERS = {
    "mp4": ("libx264", "aac"),
    "mov": ("libx264", "pcm_s16le"),
    "mkv": ("libx264", "libopus"),
    "webm": ("libvpx-vp9", "libopus"),
    "ts": ("libx264", "aac"),
    "avi": ("mpeg4", "mp3"),
}


def click_track(samples: int, at: list[int]) -> np.ndarray:
    """Clicks of 10 ms with sharp starts."""
    found = np.zeros((1, samples), np.float32)
    for start in at:
        found[0, start : start + 480] = 0.9 * np.cos(np.arange(480) * 0.13)
    return found


def written(path: Path, picture_late_s: Fraction, sound_late_s: Fraction) -> Path:
    """A file whose pictures and sound begin at times of their own; both meet at the clicks."""
    video, sound = CONTAINERS[path.suffix[1:]]
    with av.open(str(path), "w") as container:
        pictures: Any = container.add_stream(video, rate=RATE)
        pictures.width, pictures.height, pictures.pix_fmt = 128, 72, "yuv420p"
        pictures.codec_context.time_base = Fraction(1, 1000)
        track: Any = container.add_stream(sound, rate=48_000, layout="mono")
        for n in range(COUNT):
            level = 235 if n in CLICKS else 20
            codes = np.full((72, 128, 3), level, np.uint8)
            frame = av.VideoFrame.from_ndarray(codes, format="rgb24")
            at = picture_late_s + Fraction(n, RATE)
            frame.pts, frame.time_base = round(at * 1000), Fraction(1, 1000)
            container.mux(pictures.encode(frame))
        container.mux(pictures.encode(None))
        ahead_s = picture_late_s - sound_late_s
        starts = [round((ahead_s + Fraction(n, RATE)) * 48_000) for n in CLICKS]
        samples = click_track(48_000 * COUNT // RATE, starts)
        resampler = av.AudioResampler(
            format=track.codec_context.format,
            layout="mono",
            rate=48_000,
            frame_size=track.codec_context.frame_size or 1024,
        )
        whole = av.AudioFrame.from_ndarray(samples, format="fltp", layout="mono")
        whole.sample_rate, whole.time_base = 48_000, Fraction(1, 48_000)
        whole.pts = round(sound_late_s * 48_000)
        for piece in [*resampler.resample(whole), *resampler.resample(None)]:
            container.mux(track.encode(piece))
        container.mux(track.encode(None))
    return path


def clicks_in(sound: np.ndarray) -> list[float]:
    """The times of the clicks in seconds."""
    loud = np.flatnonzero(np.abs(sound[:, 0]) > 0.3)
    starts = loud[np.diff(loud, prepend=-SAMPLES_PER_SECOND) > SAMPLES_PER_SECOND // 10]
    return [float(each) / SAMPLES_PER_SECOND for each in starts]


@pytest.mark.parametrize("late_ms", [(0, 0), (40, 0), (0, 60), (200, 30), (1400, 1400)])
@pytest.mark.parametrize("ending", CONTAINERS)
def test_a_click_is_heard_when_its_picture_is_shown(
    ending: str, late_ms: tuple[int, int], tmp_path: Path
) -> None:
    late = [Fraction(each, 1000) for each in late_ms]
    if ending == "avi" and late_ms != (0, 0):
        pytest.skip("an AVI file has no times: everything begins at 0")
    path = written(tmp_path / f"clicks.{ending}", late[0], late[1])
    with VideoReader(path) as reader:
        white = [n for n in range(reader.index.count) if reader.read(n).mean() > 150]
        times = [
            float((reader.index.pts[n] - reader.index.pts[0]) * reader.index.time_base)
            for n in white
        ]
    heard = clicks_in(read_sound(path, Fraction(0), Fraction(4)))
    assert len(heard) == len(times) == 2
    assert heard == pytest.approx(times, abs=WITHIN_S)
    # From the middle, after a seek.
    later = clicks_in(read_sound(path, Fraction(5, 2), Fraction(1)))
    assert [each + 2.5 for each in later] == pytest.approx(times[1:], abs=WITHIN_S)
    loudest = np.flatnonzero(np.array(peaks(path)) > 0.3) / PEAKS_PER_SECOND
    for time in times:
        assert np.abs(loudest - time).min() <= 1 / PEAKS_PER_SECOND


@pytest.mark.parametrize(
    "output", [each for each in FORMATS.values() if each.video], ids=lambda each: each.id
)
def test_what_is_written_is_in_sync(output: OutputFormat, tmp_path: Path) -> None:
    path = tmp_path / f"out{output.suffix}"
    track = click_track(48_000 * COUNT // RATE, [n * 48_000 // RATE for n in CLICKS])
    stereo = np.repeat(track.T, 2, axis=1)
    size, rate = (128, 72), Fraction(RATE)
    with writing(
        path, size, rate, Coding(output, "draft"), tracks=[SoundTrack([stereo])]
    ) as writer:
        for n in range(COUNT):
            writer.write(frame_of(np.full((72, 128, 3), 235 if n in CLICKS else 20, np.uint8)))
    facts, _ = read_facts(path)
    assert facts.frame_count == COUNT
    heard = clicks_in(read_sound(path, Fraction(0), Fraction(4)))
    assert heard == pytest.approx([n / RATE for n in CLICKS], abs=WITHIN_S)


@pytest.mark.parametrize("clock", [Fraction(999, 1000), Fraction(1), Fraction(1001, 1000)])
def test_sound_by_a_wrong_clock_stays_in_step_without_clicks(
    clock: Fraction, tmp_path: Path
) -> None:
    """Four minutes whose samples are 0.1 % off the rate that the file names; its times are right."""
    path, seconds, block = tmp_path / "long.mkv", 240, 1024
    marks = range(5, seconds, 60)
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("pcm_s16le", rate=48_000, layout="stereo")
        stream.codec_context.time_base = Fraction(1, 48_000)
        count = round(seconds * 48_000 / clock)
        wave = (0.2 * np.sin(2 * np.pi * 200 * np.arange(count) / 48_000)).astype(np.float32)
        for mark in marks:
            start = round(mark * 48_000 / clock)
            wave[start : start + 480] = 0.9 * np.cos(np.arange(480) * 0.13)
        for first in range(0, count, block):
            codes = np.rint(wave[first : first + block] * 32767).astype(np.int16)
            frame = av.AudioFrame.from_ndarray(
                np.repeat(codes, 2).reshape(1, -1), format="s16", layout="stereo"
            )
            frame.sample_rate, frame.pts = 48_000, round(first * clock)
            frame.time_base = Fraction(1, 48_000)
            container.mux(stream.encode(frame))
    found = read_sound(path, Fraction(0), Fraction(seconds))
    assert clicks_in(found) == pytest.approx([float(mark) for mark in marks], abs=WITHIN_S)
    # Between the marks it is one steady tone: no sample is left out or heard twice.
    quiet = found[12 * 48_000 : 60 * 48_000, 0]
    steepest = 0.2 * 2 * np.pi * 200 / 48_000
    assert np.abs(np.diff(quiet)).max() < 1.3 * steepest
