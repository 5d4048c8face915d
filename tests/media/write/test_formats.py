"""Every output format, decoded again: depth, quality, colour tags, timecode as they were asked for."""

from fractions import Fraction
from itertools import pairwise
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import pytest
import skimage.data
from av.video.reformatter import ColorRange
from numpy.typing import NDArray

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.media.colour_tags import TAGS, common_colour
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.write.output_formats import (
    FORMATS,
    QUALITIES,
    OutputFormat,
    Quality,
    format_of_file,
)
from idle_shimmer.media.write.writer import Coding, frame_of, writing
from tests.conftest import psnr

SIZE, RATE, COUNT = (320, 180), Fraction(30000, 1001), 12
VIDEOS = [each for each in FORMATS.values() if each.video]
GRADED = [each for each in VIDEOS if each.qualities]
# ITU-T H.273, tables 2 to 4: BT.709 primaries, transfer and matrix.
BT709 = 1
LIMITED = 1
DEPTHS = {"h264": 8, "hevc": 10, "prores": 10, "vp9": 8, "av1": 10}
# Four-character codes by which players know the coding: common practice.
CODES = {"h264": "avc1", "hevc": "hvc1", "prores": "apch"}
# The constant rate factors and presets of design.md, as x264 writes them into its files.
X264 = {
    "draft": ("crf=23.0", "subme=2"),
    "standard": ("crf=18.0", "subme=7"),
    "high": ("crf=14.0", "subme=8"),
}
# A photograph at these qualities, in dB; from memory of the field, visually lossless is above 40.
LEAST_DB = {"draft": 34.0, "standard": 37.0, "high": 40.0}
LOSSLESS_DB = 45.0


def pictures(depth: int) -> list[NDArray[Any]]:
    """A photograph that moves, with 8 or 16 bits."""
    photo = cv2.resize(skimage.data.coffee(), SIZE, interpolation=cv2.INTER_AREA)
    smooth = cv2.GaussianBlur(photo.astype(np.float32), (0, 0), 1.0)
    moved = [np.roll(smooth, 2 * number, axis=1) for number in range(COUNT)]
    if depth == 8:
        return [np.rint(each).astype(np.uint8) for each in moved]
    return [np.rint(each * 257).astype(np.uint16) for each in moved]


def write(folder: Path, output: OutputFormat, quality: Quality = "standard") -> Path:
    path = folder / f"{output.id}-{quality}{output.suffix}"
    depth = output.depth(source_is_deep=True)
    with writing(
        path, SIZE, RATE, Coding(output, quality, depth), timecode="01:00:00;02"
    ) as writer:
        for picture in pictures(depth):
            writer.write(frame_of(picture))
    return path


def decoded_db(path: Path) -> float:
    with VideoReader(path, deep=True) as reader:
        found = [reader.read(number) for number in range(COUNT)]
    top = np.iinfo(found[0].dtype).max
    whole = pictures(16)
    return psnr(np.stack(found) / top, np.stack(whole) / 65535)


@pytest.mark.parametrize("output", GRADED, ids=lambda each: each.id)
def test_each_quality_is_better_and_larger_than_the_one_below(
    output: OutputFormat, tmp_path: Path
) -> None:
    paths = [write(tmp_path, output, quality) for quality in QUALITIES]
    found = [decoded_db(path) for path in paths]
    assert all(one + 1 < other for one, other in pairwise(found)), found
    assert all(db > LEAST_DB[q] for db, q in zip(found, QUALITIES, strict=True)), found
    sizes = [path.stat().st_size for path in paths]
    assert sizes == sorted(sizes)


@pytest.mark.parametrize("quality", QUALITIES)
def test_h264_is_coded_with_the_settings_of_its_quality(quality: Quality, tmp_path: Path) -> None:
    content = write(tmp_path, FORMATS["h264"], quality).read_bytes()
    assert all(setting.encode() in content for setting in X264[quality])


@pytest.mark.parametrize("output", VIDEOS, ids=lambda each: each.id)
def test_a_file_says_what_is_in_it(output: OutputFormat, tmp_path: Path) -> None:
    path = write(tmp_path, output)
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        context = stream.codec_context
        assert (stream.width, stream.height, stream.average_rate) == (*SIZE, RATE)
        if output.id in DEPTHS:
            assert context.format.components[0].bits == DEPTHS[output.id]
            assert (context.color_primaries, context.color_trc) == (BT709, BT709)
            assert (context.colorspace, context.color_range) == (BT709, LIMITED)
        if output.id in CODES:
            assert context.codec_tag == CODES[output.id]
        tags = {**container.metadata, **stream.metadata}
        code = next(value for name, value in tags.items() if name.lower() == "timecode")
        assert code == "01:00:00;02"
    with VideoReader(path) as reader:
        # Drop-frame: 107 892 frames in an hour (SMPTE ST 12-1, from memory).
        assert reader.facts.start_frame == 107_892 + 2
    assert not list(tmp_path.glob(".*"))


@pytest.mark.parametrize("colour", TAGS)
@pytest.mark.parametrize("output", ["h264", "hevc", "prores"])
def test_every_matrix_is_written_as_it_is_tagged(output: str, colour: str, tmp_path: Path) -> None:
    """Decoded by libswscale as the tags say, flat colours are those that were written."""
    made = FORMATS[output]
    path, depth = tmp_path / f"flat{made.suffix}", made.depth(source_is_deep=True)
    colours = [(230, 20, 30), (30, 200, 60), (20, 40, 220), (128, 128, 128)]
    with writing(path, (64, 64), RATE, Coding(made, "high", depth, colour)) as writer:
        for each in colours:
            flat = np.full((64, 64, 3), each, np.uint8)
            writer.write(frame_of(flat if depth == 8 else flat.astype(np.uint16) * 257))
    with av.open(str(path)) as container:
        context = container.streams.video[0].codec_context
        tags = TAGS[made.colour_of(colour)]
        assert (context.colorspace, context.color_primaries) == (tags.matrix, tags.primaries)
        assert context.color_trc == tags.transfer
        assert (context.color_range == ColorRange.JPEG) == tags.is_full
    with VideoReader(path, deep=True) as reader:
        assert reader.facts.colour == made.colour_of(colour)
        for number, each in enumerate(colours):
            found = reader.read(number)[32, 32] / (1 if depth == 8 else 257)
            np.testing.assert_allclose(found, each, atol=2 if depth == 8 else 1)


def test_clips_of_one_matrix_keep_it_and_others_become_bt709() -> None:
    assert common_colour(["bt601-625", "bt601-625"]) == "bt601-625"
    assert common_colour(["bt709-full", "bt709-full"]) == "bt709-full"
    assert common_colour(["bt601-625", "bt601-625-full"]) == "bt601-625"
    assert common_colour(["bt601-625", "bt709-full"]) == "bt709"
    assert common_colour(["bt601-625", "bt709"]) == common_colour([]) == "bt709"


@pytest.mark.parametrize("depth", [8, 16])
def test_what_is_lossless_comes_back_code_for_code(depth: Any, tmp_path: Path) -> None:
    path, expected = tmp_path / "quay.mkv", pictures(depth)
    with writing(path, SIZE, RATE, Coding(FORMATS["ffv1"], depth=depth)) as writer:
        for picture in expected:
            writer.write(frame_of(picture))
    with VideoReader(path, deep=True) as reader:
        for number, picture in enumerate(expected):
            np.testing.assert_array_equal(reader.read(number), picture)


def test_prores_is_visually_lossless(tmp_path: Path) -> None:
    assert decoded_db(write(tmp_path, FORMATS["prores"])) > LOSSLESS_DB


def test_a_format_and_an_ending_belong_together(tmp_path: Path) -> None:
    assert format_of_file(Path("quay.mp4")).id == "h264"
    assert format_of_file(Path("quay.MP4"), "hevc").id == "hevc"
    for name, output, message in (
        ("quay.avi", None, "cannot write '.avi' files: use one of .mp4, .mov, .mkv, .webm"),
        ("quay.mov", "hevc", "MP4 HEVC 10-bit files end in .mp4, not '.mov': change the name"),
        ("quay.mp4", "mpeg", "'mpeg' is not a format"),
    ):
        with pytest.raises(ValueError, match=message.replace(".", r"\.")):
            format_of_file(tmp_path / name, output)


@pytest.mark.parametrize("depth", [8, 16])
def test_lossless_files_hold_the_largest_pictures_of_cameras(depth: Any, tmp_path: Path) -> None:
    class Opened(Exception):
        pass

    coding = Coding(FORMATS["ffv1"], depth=depth)
    with pytest.raises(Opened), writing(tmp_path / "a.mkv", (8192, 4320), Fraction(25), coding):
        raise Opened


def test_a_size_that_a_format_cannot_hold_is_refused_before_the_first_frame(tmp_path: Path) -> None:
    with (
        pytest.raises(InvalidValue, match=r"MP4 H\.264 cannot be written at 16384 × 16400"),
        writing(tmp_path / "a.mp4", (16384, 16400), Fraction(25)),
    ):
        pytest.fail("it was opened")
    assert not list(tmp_path.iterdir())
