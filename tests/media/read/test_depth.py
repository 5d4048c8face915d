"""Ten bits from file to file: read, untouched or filtered, written, and read back."""

import json
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import pytest
from numpy.typing import NDArray
from typer.testing import CliRunner

from idle_shimmer.cli import app
from idle_shimmer.media.read.reader import VideoReader, of_whole_range

WIDTH, HEIGHT, COUNT = 1280, 96, 24
LEVELS = 121
# One code of 10 bits, in codes of 16.
TEN_BITS = 65535 / 1023
# The luma codes of 10 bits in limited range, 64 … 940 (ITU-R BT.709-6, table 5.4).
LIMITED_CODES = 876


def ramp() -> NDArray[np.uint16]:
    """Levels 400 … 520 of 10 bits, full range, from left to right."""
    steps = 400 + np.arange(WIDTH) * LEVELS // WIDTH
    codes = np.rint(steps * TEN_BITS).astype(np.uint16)
    return np.ascontiguousarray(np.broadcast_to(codes[None, :, None], (HEIGHT, WIDTH, 3)))


def coded_ramp(pixels: str) -> av.VideoFrame:
    """The ramp in 10 bits, YUV by its definition: no chroma, luma 64 … 940 (ITU-R BT.709-6, 3.5)."""
    frame = av.VideoFrame(WIDTH, HEIGHT, pixels)
    steps = 400 + np.arange(WIDTH) * LEVELS // WIDTH
    luma = np.rint(64 + LIMITED_CODES * steps / 1023)
    for number, plane in enumerate(frame.planes):
        rows = np.frombuffer(plane, np.uint16).reshape(plane.height, -1)
        if pixels.startswith("gbr"):
            rows[:, : plane.width] = steps
        else:
            rows[:, : plane.width] = luma if number == 0 else 512
    frame.colorspace, frame.color_range = 1, 1
    return frame


@pytest.mark.parametrize("white", [65283, *(65536 - 2 ** (16 - bits) for bits in range(9, 17))])
def test_every_code_is_brought_to_the_whole_range_exactly(white: int) -> None:
    """By the quotient in float64, of limited and full range of all depths."""
    codes = np.arange(65536, dtype=np.uint16).reshape(-1, 256)
    expected = np.minimum(np.rint(codes * (65535 / white)), 65535)
    made = of_whole_range(np.repeat(codes[..., None], 3, axis=2), white)
    assert made.dtype == np.uint16
    assert (made == expected[..., None]).all()


@pytest.fixture(scope="module", params=["gbrp10le", "yuv444p10le", "yuv422p10le"])
def clip(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A lossless clip of 10 bits, a ramp in every picture."""
    path = tmp_path_factory.mktemp("deep") / f"{request.param}.mkv"
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("ffv1", rate=Fraction(25))
        stream.width, stream.height, stream.pix_fmt = WIDTH, HEIGHT, request.param
        if request.param.startswith("yuv"):
            stream.codec_context.colorspace, stream.codec_context.color_range = 1, 1
        coded = coded_ramp(request.param)
        for number in range(COUNT):
            coded.pts, coded.time_base = number, Fraction(1, 25)
            container.mux(stream.encode(coded))
        container.mux(stream.encode(None))
    return path


def levels_in(codes: NDArray[np.uint16]) -> int:
    """How many levels of 10 bits a picture has; the blur's ends at both sides are left out."""
    middle = codes[HEIGHT // 2, 64:-64, 1]
    return len(np.unique(np.rint(middle / TEN_BITS)))


def test_a_deep_clip_is_read_deep_where_that_is_asked_for(clip: Path) -> None:
    with VideoReader(clip, deep=True) as deep, VideoReader(clip) as plain:
        assert deep.facts.bit_depth == 10
        picture = deep.read(3)
        assert picture.dtype == np.uint16
        # Limited range has 876 codes for 1023: fewer levels than the ramp had.
        assert (
            levels_in(picture)
            >= (LEVELS if "gbr" in clip.name else LEVELS * LIMITED_CODES // 1023) - 12
        )
        assert np.abs(picture.astype(int) - ramp()).max() < 1.2 * TEN_BITS
        assert plain.read(3).dtype == np.uint8


@pytest.mark.parametrize("filters", [[], [{"kind": "gaussian_blur", "radius": 0.02}]])
@pytest.mark.parametrize("name", ["out", "out.mkv", "out.mov"])
def test_ten_bits_leave_as_they_came(
    clip: Path, tmp_path: Path, name: str, filters: list[dict[str, Any]]
) -> None:
    recipe, out = tmp_path / "r.json", tmp_path / name
    recipe.write_text(json.dumps({"mix": {"kind": "dissolve"}, "filters": filters}))
    arguments: list[object] = ["render", "--outgoing", clip, "--incoming", clip, "--recipe", recipe]
    arguments += ["--out", out, "--before", 4, "--after", 4, "--outgoing-out", 12]
    arguments += ["--incoming-in", 12, *(["--depth", 16] if name == "out" else [])]
    done = CliRunner().invoke(app, [str(each) for each in arguments])
    assert done.exit_code == 0, done.stderr
    with VideoReader(clip, deep=True) as reader:
        source = reader.read(0)
    kept = levels_in(source)
    if name == "out.mov" and "gbr" in clip.name:
        # Limited range has fewer codes than full range.
        kept = kept * LIMITED_CODES // 1023
    for shown in (written(out, 0), written(out, 5)):
        assert shown.dtype == np.uint16
        # Of an untouched ramp every level is there; ProRes loses one now and then.
        assert levels_in(shown) >= kept - (4 if name == "out.mov" else 0)
    if name != "out.mov":
        assert np.array_equal(written(out, 0), source)


def written(out: Path, number: int) -> NDArray[Any]:
    if out.is_dir():
        return cv2.imread(str(out / f"frame_{number:04}.png"), cv2.IMREAD_UNCHANGED)[..., ::-1]
    with VideoReader(out, deep=True) as reader:
        return reader.read(number)


def test_a_depth_that_no_output_has_is_refused(clip: Path, tmp_path: Path) -> None:
    recipe = tmp_path / "r.json"
    recipe.write_text("{}")
    common = ["render", "--outgoing", clip, "--incoming", clip, "--recipe", recipe]
    common += ["--before", 2, "--after", 2, "--outgoing-out", 12, "--incoming-in", 12]
    for out, depth, message in (
        ("out", 12, "--depth: 12 is not a depth: give 8 or 16"),
        ("out.mp4", 16, "depth: MP4 H.264 has pictures of 8 bits"),
        ("out.mov", 8, "depth: MOV ProRes 422 HQ has pictures of more than 8 bits"),
    ):
        given = [*common, "--out", tmp_path / out, "--depth", depth]
        done = CliRunner().invoke(app, [str(each) for each in given])
        assert done.exit_code == 2
        assert message in done.stderr
        assert not (tmp_path / out).exists()
