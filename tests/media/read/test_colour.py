"""HDR, transparency and deep stills, against published values and plain sums."""

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import pytest

from idle_shimmer.media.decode.client import RemoteReader
from idle_shimmer.media.read.dynamic_range import (
    PEAK_NITS,
    WHITE_NITS,
    compressed_nits,
    hlg_scene,
    pq_nits,
    pq_signal,
    sdr_codes,
)
from idle_shimmer.media.read.reader import VideoReader
from tests.support.clips import numbered

PQ, HLG, BT2020, BT2020_MATRIX, UNSPECIFIED = 16, 18, 9, 9, 2


def test_the_transfer_functions_have_their_published_values() -> None:
    """PQ: ITU-R BT.2100-2 and BT.2408-7, table 1 (203 cd/m² is 58 %); HLG: 203 cd/m² is 75 %."""
    nits = np.array([1.0, 100, 203, 1000, 4000, 10_000])
    signal = np.array([0.1499, 0.5081, 0.5807, 0.7518, 0.9026, 1.0])
    assert pq_signal(nits) == pytest.approx(signal, abs=2e-4)
    assert pq_nits(pq_signal(nits)) == pytest.approx(nits, rel=1e-9, abs=1e-6)
    assert hlg_scene(np.array([0, 0.5, 1.0])) == pytest.approx([0, 1 / 12, 1], abs=1e-6)
    assert 1000 * hlg_scene(np.array(0.75)) ** 1.2 == pytest.approx(203, abs=1)


def test_highlights_are_compressed_and_all_else_stays() -> None:
    nits = np.linspace(0, PEAK_NITS, 4001)
    shown = compressed_nits(nits)
    assert (np.diff(shown) >= 0).all()
    assert shown[nits < 80] == pytest.approx(nits[nits < 80], abs=1e-6)
    assert shown[-1] == pytest.approx(WHITE_NITS, rel=1e-6)


@pytest.mark.parametrize("transfer", ["PQ", "HLG"])
def test_grey_stays_grey_and_rises(transfer: Any) -> None:
    ramp = np.linspace(0, 65535, 512).astype(np.uint16)
    codes = sdr_codes(
        np.ascontiguousarray(np.broadcast_to(ramp[None, :, None], (4, 512, 3))), transfer
    )
    assert np.abs(codes.astype(int) - codes[..., :1]).max() <= 24
    assert (np.diff(codes[0, :, 1].astype(int)) >= 0).all()
    assert codes[0, 0].tolist() == [0, 0, 0]
    assert codes[0, -1].min() > 65000
    white = pq_signal(np.array(WHITE_NITS)) if transfer == "PQ" else 0.75
    at_white = codes[0, round(float(white) * 511), 1] / 65535
    assert 0.8 < at_white < 0.95


@pytest.mark.parametrize("transfer", [PQ, HLG])
@pytest.mark.parametrize("deep", [False, True])
def test_an_hdr_clip_is_read_as_sdr(transfer: int, deep: bool, tmp_path: Path) -> None:
    """A grey of 100 cd/m²: about half of the light of SDR white."""
    signal = float(pq_signal(np.array(100.0))) if transfer == PQ else 0.6296
    path = tmp_path / "hdr.mkv"
    codes = np.full((72, 128, 3), round(signal * 65535), np.uint16)
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("ffv1", rate=Fraction(25))
        stream.width, stream.height, stream.pix_fmt = 128, 72, "yuv420p10le"
        context = stream.codec_context
        context.colorspace, context.color_range = BT2020_MATRIX, 1
        context.color_primaries, context.color_trc = BT2020, transfer
        frame = av.VideoFrame.from_ndarray(codes, format="rgb48le")
        frame = frame.reformat(
            format="yuv420p10le", dst_colorspace=BT2020_MATRIX, dst_color_range=1
        )
        frame.color_trc = transfer
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    with VideoReader(path, deep=deep) as reader:
        picture = reader.read(0)
        assert any("HDR" in note and "SDR" in note for note in reader.facts.notes)
    with RemoteReader(path, deep=deep) as remote:
        assert np.array_equal(remote.read(0), picture)
    assert picture.dtype == (np.uint16 if deep else np.uint8)
    display = picture.mean() / (65535 if deep else 255)
    light = ((display + 0.055) / 1.055) ** 2.4
    assert light == pytest.approx(compressed_nits(np.array(100.0)) / WHITE_NITS, abs=0.02)


@pytest.mark.parametrize(
    ("pixels", "primaries"),
    [("yuv444p", BT2020), ("yuv444p10le", BT2020), ("yuv444p", UNSPECIFIED)],
)
def test_bt2020_colours_are_brought_to_bt709_as_by_libavfilter(
    pixels: str, primaries: int, tmp_path: Path
) -> None:
    """Beside libavfilter's ``colorspace``, on colours that BT.709 has."""
    colours = [(159, 69, 53), (60, 140, 90), (90, 90, 190), (128, 128, 128), (220, 200, 120)]
    chart = np.repeat(np.array([colours], np.uint8), 72, 0).repeat(24, 1)
    path = tmp_path / "wide.mkv"
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("ffv1", rate=Fraction(25))
        stream.width, stream.height, stream.pix_fmt = 120, 72, pixels
        context = stream.codec_context
        context.colorspace, context.color_range = BT2020_MATRIX, 1
        context.color_primaries, context.color_trc = primaries, 14
        frame = av.VideoFrame.from_ndarray(chart, format="rgb24")
        frame = frame.reformat(format=pixels, dst_colorspace=BT2020_MATRIX, dst_color_range=1)
        container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    graph = av.filter.Graph()
    with av.open(str(path)) as container:
        decoded = next(container.decode(video=0))
    steps = [
        graph.add_buffer(width=120, height=72, format=pixels, time_base=Fraction(1, 25)),
        graph.add("colorspace", f"all=bt709:iall=bt2020:format={pixels.replace('le', '')}"),
        graph.add("buffersink"),
    ]
    steps[0].link_to(steps[1])
    steps[1].link_to(steps[2])
    graph.configure()
    graph.push(decoded)
    reference = graph.pull().to_ndarray(format="rgb24", src_colorspace=1, src_color_range=1)
    with VideoReader(path) as reader:
        shown = reader.read(0)
        assert any("BT.2020" in note for note in reader.facts.notes)
        assert reader.facts.colour == "bt709"
        assert reader.planes(0, pixels, "bt709") is None
    middles = np.s_[36, 12::24]
    assert np.abs(shown[middles].astype(int) - reference[middles]).max() <= 2
    assert np.abs(shown[middles][0].astype(int) - (198, 47, 47)).max() <= 2


def test_transparency_is_laid_over_black_and_said(tmp_path: Path) -> None:
    colour = numbered(1234)
    alpha = np.broadcast_to(np.linspace(0, 255, 192).astype(np.uint8), (96, 192))
    path = tmp_path / "title.png"
    cv2.imwrite(str(path), np.dstack([colour[..., ::-1], alpha]))
    with VideoReader(path) as reader:
        assert any("transparency" in note for note in reader.facts.notes)
        shown = reader.read(0).astype(int)
    expected = colour.astype(float) * alpha[..., None] / 255
    assert np.abs(shown - expected).max() <= 1.01


def test_a_still_of_sixteen_bits_keeps_them(tmp_path: Path) -> None:
    ramp = np.linspace(20_000, 21_000, 640).astype(np.uint16)
    still = np.ascontiguousarray(np.broadcast_to(ramp[None, :, None], (64, 640, 3)))
    path = tmp_path / "deep.png"
    cv2.imwrite(str(path), still)
    with VideoReader(path, deep=True) as reader:
        assert reader.facts.bit_depth == 16
        assert np.array_equal(reader.read(0), still)
