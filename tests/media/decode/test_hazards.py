"""A file for each thing that goes wrong when video is read: the pictures carry their numbers.

In every one of them, any picture asked for by its number is that picture.
"""

import struct
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest

from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.media.decode.client import probe_facts
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.read.index import MediaFacts
from idle_shimmer.media.read.reader import VideoReader
from tests.support.clips import number_in, numbered, write_clip

COUNT = 60
ORDER = [0, 59, 3, 2, 1, 30, 31, 58, 29, 0]
TEN_BIT = {"pixels": "yuv420p10le", "options": {"crf": "10"}}
PQ, BT2020 = 16, 9

KINDS: dict[str, dict[str, Any]] = {
    "long-gop-with-b-frames.mp4": {"options": {"g": "250", "bf": "3", "crf": "12"}},
    "short-gop.mkv": {"options": {"g": "10", "crf": "12"}},
    "open-gop.mp4": {"options": {"g": "12", "bf": "3", "crf": "12", "x264-params": "open-gop=1"}},
    "vp9.webm": {"codec": "libvpx-vp9", "options": {"crf": "20", "b": "0", "deadline": "realtime"}},
    "mpeg4.avi": {"codec": "mpeg4", "options": {"b": "4000000"}},
    "lossless.mkv": {"codec": "ffv1", "pixels": "bgr0", "options": {}},
    "ten-bit-422.mov": {"codec": "prores_ks", "pixels": "yuv422p10le", "options": {}},
    "ten-bit-420.mp4": TEN_BIT,
    "palette.gif": {"codec": "gif", "pixels": "rgb8", "options": {}},
    "starts-late.ts": {"options": {"g": "25", "bf": "2", "crf": "12"}},
    "no-frame-count.h264": {"options": {"g": "25", "bf": "0", "crf": "12"}},
    "several-sounds.mkv": {"tone": True, "tones": 3},
    "full-range.mp4": {"colour": (1, 2)},
    "bt2020.mp4": {"colour": (BT2020, 1)},
    "ntsc-rate.mp4": {"rate": Fraction(30000, 1001)},
    "fifty.mp4": {"rate": Fraction(50)},
}


@pytest.mark.parametrize("name", KINDS)
def test_any_order_of_numbers_gives_those_pictures(name: str, tmp_path: Path) -> None:
    path = write_clip(tmp_path / name, [numbered(n) for n in range(COUNT)], **KINDS[name])
    with VideoReader(path) as reader:
        assert reader.facts.frame_count == COUNT
        assert reader.facts.rate == KINDS[name].get("rate", 25)
        assert reader.facts.constant_rate
        assert reader.facts.has_sound == ("tone" in KINDS[name])
        assert [number_in(reader.read(n)) for n in ORDER] == ORDER


@pytest.mark.parametrize("size", [(191, 95), (193, 97), (192, 95)])
def test_odd_sizes_keep_every_row_and_column(size: tuple[int, int], tmp_path: Path) -> None:
    pictures = [numbered(n, *size) for n in range(12)]
    path = write_clip(tmp_path / "odd.mkv", pictures, codec="ffv1", pixels="bgr0", options={})
    with VideoReader(path) as reader:
        assert reader.size == size
        assert all(np.array_equal(reader.read(n), pictures[n]) for n in (11, 0, 5))


def told_and_shown(path: Path) -> tuple[MediaFacts, Codes]:
    with VideoReader(path) as reader:
        return reader.facts, reader.read(7)


def test_pixels_that_are_not_square_are_widened(tmp_path: Path) -> None:
    """Anamorphic 4:3: the same picture, shown a third wider."""
    path = write_clip(
        tmp_path / "anamorphic.mp4",
        [numbered(n) for n in range(10)],
        marks={"sample_aspect_ratio": Fraction(4, 3)},
    )
    facts, shown = told_and_shown(path)
    assert (facts.width, facts.height) == (256, 96)
    assert shown.shape == (96, 256, 3)
    assert number_in(shown) == 7


def test_high_dynamic_range_and_interlacing_are_told(tmp_path: Path) -> None:
    pictures = [numbered(n) for n in range(10)]
    bright = write_clip(tmp_path / "pq.mp4", pictures, marks={"color_trc": PQ}, **TEN_BIT)
    facts, shown = told_and_shown(bright)
    assert "HDR (PQ)" in " ".join(facts.notes)
    assert number_in(shown) == 7
    woven = write_clip(
        tmp_path / "woven.mp4", pictures, options={"crf": "12", "x264-params": "tff=1"}
    )
    facts, shown = told_and_shown(woven)
    assert "interlaced" in " ".join(facts.notes)
    assert number_in(shown) == 7


@pytest.mark.parametrize(
    ("name", "codec", "pixels"),
    [
        ("still.png", "png", "rgb24"),
        ("still.jpg", "mjpeg", "yuvj444p"),
        ("still.webp", "libwebp", "bgra"),
    ],
)
def test_stills_have_one_picture_and_no_end(
    name: str, codec: str, pixels: str, tmp_path: Path
) -> None:
    path = tmp_path / name
    with av.open(str(path), "w", format="webp" if codec == "libwebp" else "image2") as container:
        stream: Any = container.add_stream(codec, rate=1)
        stream.width, stream.height, stream.pix_fmt = 192, 96, pixels
        frame = av.VideoFrame.from_ndarray(numbered(9), format="rgb24").reformat(format=pixels)
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    with VideoReader(path) as reader:
        assert reader.facts.still
        assert number_in(reader.read(0)) == 9


def refers_to(path: Path, other: Path) -> None:
    """Make a MOV say that its media lie in another file.

    By an alias of the data reference box (QuickTime File Format, from memory), as FFmpeg's demuxer reads it.
    """
    content = path.read_bytes()
    name, place = other.name.encode(), str(other).encode()
    place += b"\0" * (len(place) % 2)
    alias = (
        bytes(10 + 1 + 27 + 12) + bytes([len(name)]) + name.ljust(63, b"\0") + bytes(16 + 4 + 16)
    )
    alias += struct.pack(">HH", 2, len(place)) + place + struct.pack(">HH", 0xFFFF, 0)
    begin = content.index(b"url \0\0\0\1") - 4
    entry = struct.pack(">I4sI", 12 + len(alias), b"alis", 0) + alias
    made = bytearray(content[:begin] + entry + content[begin + 12 :])
    for box in (b"moov", b"trak", b"mdia", b"minf", b"dinf", b"dref"):
        at = content.rindex(box, 0, begin) - 4
        (size,) = struct.unpack_from(">I", made, at)
        struct.pack_into(">I", made, at, size + len(entry) - 12)
    path.write_bytes(made)


def test_a_file_that_names_another_never_shows_it(tmp_path: Path) -> None:
    own, other = tmp_path / "own.mov", tmp_path / "other.mov"
    for path, first in ((own, 0), (other, 1000)):
        # Both files have their pictures in the same places.
        pictures = [numbered(n + first) for n in range(10)]
        write_clip(path, pictures, codec="rawvideo", pixels="rgb24", options={})
    refers_to(own, other)
    follows = {"enable_drefs": "1", "use_absolute_path": "1"}
    with av.open(str(own), options=follows) as container:
        shown = next(container.decode(video=0)).to_ndarray(format="rgb24")
    assert number_in(shown) == 1000  # It is a reference, where one is followed.
    with pytest.raises(MediaError):
        probe_facts(own)
