"""Reading by number: every picture carries its own, so a wrong one is seen."""

import re
from collections.abc import Iterable
from contextlib import suppress
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import parse_rate, rate_text
from idle_shimmer.media.decode.client import probe_index
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.previews.picture_cache import PictureCache, Source
from idle_shimmer.media.read.index import read_facts
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.media.read.reader import VideoReader
from tests.support.clips import number_in, numbered, write_clip

COUNT = 60
BT709, BT601, LIMITED, FULL = 1, 6, 1, 2


def test_lossless_pictures_come_back_bit_for_bit(tmp_path: Path) -> None:
    pictures = [
        np.random.default_rng(n).integers(0, 256, (50, 70, 3), dtype=np.uint8) for n in range(3)
    ]
    path = write_clip(tmp_path / "noise.mkv", pictures, codec="ffv1", pixels="bgr0", options={})
    with VideoReader(path) as reader:
        assert all(np.array_equal(reader.read(n), pictures[n]) for n in (2, 0, 1))


@pytest.mark.parametrize(
    "colour", [(BT709, LIMITED), (BT601, LIMITED), (BT709, FULL), (BT601, FULL)]
)
def test_matrix_and_range_are_honoured(colour: tuple[int, int], tmp_path: Path) -> None:
    """A strong colour read with the wrong matrix or range is off by ten codes and more."""
    patch = np.full((64, 64, 3), (210, 40, 60), np.uint8)
    path = write_clip(tmp_path / "patch.mp4", [patch] * 3, colour=colour, options={"crf": "4"})
    with VideoReader(path) as reader:
        assert np.abs(reader.read(1)[32, 32].astype(int) - patch[0, 0]).max() <= 3


def with_matrix(path: Path, turned: Path, matrix: list[int]) -> Path:
    """Copy a file with another display matrix."""
    with av.open(str(path)) as source, av.open(str(turned), "w") as target:
        stream = target.add_stream_from_template(source.streams.video[0])
        stream.set_display_matrix(matrix)
        for packet in source.demux(source.streams.video[0]):
            if packet.dts is not None:
                packet.stream = stream
                target.mux(packet)
    return turned


def test_a_rotation_flag_is_carried_out(tmp_path: Path) -> None:
    """A display matrix that takes right to down is a clockwise quarter (QuickTime, from memory)."""
    path = write_clip(tmp_path / "flat.mp4", [numbered(n) for n in range(10)])
    quarter = [0, 1 << 16, 0, -1 << 16, 0, 0, 0, 0, 1 << 30]
    turned = with_matrix(path, tmp_path / "turned.mp4", quarter)
    with VideoReader(turned) as reader:
        assert (reader.facts.width, reader.facts.height) == (96, 192)
        assert number_in(np.rot90(reader.read(7), 1)) == 7


def test_an_odd_turn_is_shown_as_the_nearest_quarter_turn_with_a_note(tmp_path: Path) -> None:
    path = write_clip(tmp_path / "flat.mp4", [numbered(n) for n in range(10)])
    # By 100 degrees clockwise.
    skewed = [-11381, 64540, 0, -64540, -11381, 0, 0, 0, 1 << 30]
    turned = with_matrix(path, tmp_path / "turned.mp4", skewed)
    facts, index = probe_index(turned)
    assert facts.frame_count == index.count == 10
    assert any("no quarter turn" in note for note in facts.notes)
    with VideoReader(turned) as reader:
        assert (reader.facts.width, reader.facts.height) == (96, 192)
        assert number_in(np.rot90(reader.read(7), 1)) == 7


def test_a_gap_of_an_hour_leaves_a_rate_that_an_edit_can_have(tmp_path: Path) -> None:
    times = [40 * n + 3_600_000 * (n >= 30) for n in range(COUNT)]
    path = write_clip(
        tmp_path / "gap.mkv",
        [numbered(n) for n in range(COUNT)],
        times=times,
        time_base=Fraction(1, 1000),
    )
    facts, index = read_facts(path)
    assert (facts.rate, facts.constant_rate) == (25, False)
    assert any("up to 3600 s apart" in note for note in facts.notes)
    assert parse_rate(rate_text(facts.rate)) == 25
    assert index.shown_at(Fraction(1800)) == 29
    assert facts.duration == Fraction(times[-1] + 40, 1000)


def test_variable_rate_is_mapped_by_time(tmp_path: Path) -> None:
    """Pictures of 40 and 80 ms in turn: at 25 fps every other one is shown twice."""
    times, now = [], 0
    for n in range(20):
        times.append(now)
        now += 40 if n % 2 == 0 else 80
    path = write_clip(
        tmp_path / "variable.mkv",
        [numbered(n) for n in range(20)],
        times=times,
        time_base=Fraction(1, 1000),
    )
    clip = RateConvertedClip.open(path, rate=Fraction(25))
    assert not clip.reader.facts.constant_rate
    shown = [number_in(clip.frame(k)) for k in range(9)]
    clip.close()
    assert shown == [0, 1, 1, 2, 3, 3, 4, 5, 5]


def test_another_rate_shows_the_picture_of_the_time(tmp_path: Path) -> None:
    path = write_clip(tmp_path / "slow.mp4", [numbered(n) for n in range(10)], rate=Fraction(10))
    clip = RateConvertedClip.open(path, rate=Fraction(25))
    assert clip.count == 25
    assert [number_in(clip.frame(k)) for k in (0, 2, 3, 24)] == [0, 1, 1, 9]
    clip.close()


def test_a_picture_fills_the_asked_size_uncut_where_the_shape_is_the_same(tmp_path: Path) -> None:
    path = write_clip(tmp_path / "clip.mp4", [numbered(n) for n in range(8)])
    with VideoReader(path, (96, 48)) as half, VideoReader(path, (96, 96)) as square:
        assert half.read(5).shape == (48, 96, 3)
        assert number_in(half.read(5)) == 5
        assert square.read(5).shape == (96, 96, 3)


def test_a_still_has_no_end(tmp_path: Path) -> None:
    path = tmp_path / "still.png"
    with av.open(str(path), "w", format="image2") as container:
        stream = container.add_stream("png", rate=1)
        stream.width, stream.height, stream.pix_fmt = 192, 96, "rgb24"
        container.mux(stream.encode(av.VideoFrame.from_ndarray(numbered(9), format="rgb24")))
        container.mux(stream.encode(None))
    clip = RateConvertedClip.open(path)
    assert clip.reader.facts.still
    assert clip.count is None
    assert number_in(clip.frame(1000)) == 9
    clip.close()


@pytest.mark.parametrize(
    ("name", "content", "message"),
    [
        ("junk.mp4", b"no video at all " * 400, "junk.mp4 is not a video or picture"),
        ("empty.mov", b"", "empty.mov is empty"),
        ("page.mkv", b"<html></html>", "is not a video or picture"),
    ],
)
def test_a_file_that_is_no_video_is_told_in_words(
    name: str, content: bytes, message: str, tmp_path: Path
) -> None:
    path = tmp_path / name
    path.write_bytes(content)
    with pytest.raises(MediaError, match=re.escape(message)):
        read_facts(path)


def test_sound_without_pictures_and_a_missing_file_are_told(tmp_path: Path) -> None:
    path = tmp_path / "tone.m4a"
    with av.open(str(path), "w", format="mp4") as container:
        stream = container.add_stream("aac", rate=48000, layout="mono")
        frame = av.AudioFrame.from_ndarray(
            np.zeros((1, 1024), np.float32), format="fltp", layout="mono"
        )
        frame.sample_rate = 48000
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    with pytest.raises(MediaError, match="has no pictures"):
        read_facts(path)
    with pytest.raises(MediaError, match="there is no file"):
        read_facts(tmp_path / "nowhere.mp4")


def test_a_file_cut_off_in_the_middle_gives_what_there_is(tmp_path: Path) -> None:
    whole = write_clip(
        tmp_path / "whole.mkv", [numbered(n) for n in range(COUNT)], options={"g": "10"}
    )
    part = tmp_path / "part.mkv"
    part.write_bytes(whole.read_bytes()[: whole.stat().st_size // 2])
    with VideoReader(part) as reader:
        assert 5 < reader.facts.frame_count < COUNT
        assert number_in(reader.read(4)) == 4


def test_the_cache_keeps_what_it_passes_and_forgets_what_is_too_much(tmp_path: Path) -> None:
    path = write_clip(tmp_path / "clip.mp4", [numbered(n) for n in range(COUNT)])
    picture_bytes = 96 * 192 * 3
    held = PictureCache(max_bytes=10 * picture_bytes)
    backward = [number_in(held.picture(Source(path), (192, 96), n)) for n in range(40, 20, -1)]
    assert backward == list(range(40, 20, -1))
    assert held.picture(Source(path), (192, 96), 21) is held.picture(Source(path), (192, 96), 21)
    assert held._pictures.currsize <= 10 * picture_bytes


def woven(number: int) -> NDArray[np.uint8]:
    """A bright bar that moves by 6 pixels a field over a soft ground, its fields in turn, upper first."""
    fields = []
    for field in (0, 1):
        picture = np.full((96, 192, 3), 70, np.uint8)
        at = 6 * (2 * number + field) % 150
        picture[:, at : at + 24] = 210
        fields.append(picture)
    fields[0][1::2] = fields[1][1::2]
    return fields[0]


def filtered(path: Path, name: str) -> list[NDArray[np.uint8]]:
    """Every picture of a file, in order, through a filter of libavfilter with its usual settings for frames."""
    graph = av.filter.Graph()
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        steps = [graph.add_buffer(template=stream), graph.add(name, "0"), graph.add("buffersink")]
        graph.link_nodes(*steps).configure()
        found = []
        for frame in [*container.decode(stream), None]:
            graph.push(frame)
            with suppress(av.BlockingIOError, av.EOFError):
                while True:
                    found.append(graph.pull().to_ndarray())
    return found


@pytest.mark.parametrize("order", [range(40), [30, 5, 39, 0, 12, 13, 24, 11, 25]])
def test_interlaced_pictures_are_those_of_bwdif_in_any_order(
    order: Iterable[int], tmp_path: Path
) -> None:
    """Beside libavfilter's own filter, fed with every picture from the first on."""
    options = {"crf": "4", "g": "12", "bf": "2", "x264-params": "tff=1"}
    path = write_clip(
        tmp_path / "woven.mp4",
        [woven(n) for n in range(40)],
        options=options,
        colour=(BT709, LIMITED),
    )
    whole = filtered(path, "bwdif")
    assert len(whole) == 40
    with VideoReader(path, keep_bytes=1 << 22) as reader:
        assert any("interlaced" in note for note in reader.facts.notes)
        for number in order:
            planes = reader.planes(number, "yuv420p", reader.facts.colour)
            assert planes is not None
            assert np.array_equal(planes, whole[number].ravel()), number
        still = reader.read(20).astype(int)
    combs = np.abs(still[1:-1] * 2 - still[:-2] - still[2:])
    torn = woven(20).astype(int)
    assert combs.mean() < 0.1 * np.abs(torn[1:-1] * 2 - torn[:-2] - torn[2:]).mean()


def test_a_preview_shows_fields_together_where_that_is_chosen(tmp_path: Path) -> None:
    options = {"crf": "4", "x264-params": "tff=1"}
    path = write_clip(tmp_path / "woven.mp4", [woven(n) for n in range(20)], options=options)
    cache = PictureCache()
    torn, whole = (
        cache.picture(Source(path, deinterlaced), (192, 96), 10).astype(int)
        for deinterlaced in (False, True)
    )
    assert np.abs(torn - woven(10)).mean() < 4
    combs = [np.abs(each[1:-1] * 2 - each[:-2] - each[2:]).mean() for each in (torn, whole)]
    assert combs[1] < 0.1 * combs[0]
