"""Untreated frames through outputs of the source's own layout: its very planes, read by either reader."""

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.framing import UNFRAMED, Framing
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.media.decode.client import RemoteReader
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.read.wipe_pictures import matte_reader
from idle_shimmer.media.sound.sound_parts import sound_parts
from idle_shimmer.media.write.output_formats import OutputFormat
from idle_shimmer.output.opened_edit import Access, OpenedEdit
from idle_shimmer.output.plan import EditPlan, OutputSettings, PlannedClip, PlannedCut
from idle_shimmer.output.render_edit import render_edit

SIZE, RATE, COUNT = (96, 64), Fraction(25), 30
# Lossless, so that what is written can be compared: the encoder of a lossy format is given the same.
LAYOUTS = {"yuv420p": 8, "yuv420p10le": 10, "yuv422p10le": 10}
BLUR = {"filters": [{"kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 0.1}}]}
READERS = pytest.mark.parametrize("open_reader", [VideoReader, RemoteReader])


def lossless(pixels: str) -> OutputFormat:
    eight = LAYOUTS[pixels] == 8
    layouts = (pixels, None) if eight else (None, pixels)
    return OutputFormat("test", "Lossless YUV", ".mkv", "ffv1", *layouts, None, {"level": "3"})


def planes_of(frame: av.VideoFrame) -> NDArray[Any]:
    dtype = np.uint8 if frame.format.components[0].bits == 8 else np.uint16
    rows = (
        np.asarray(memoryview(plane)).view(dtype).reshape(plane.height, -1)[:, : plane.width]
        for plane in frame.planes
    )
    return np.concatenate([each.ravel() for each in rows])


def write_source(path: Path, pixels: str, matrix: int = 1, colour_range: int = 1) -> Path:
    """Noise in every plane, within limited range, without loss."""
    rng = np.random.default_rng(1)
    unit = 2 ** (LAYOUTS[pixels] - 8)
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("ffv1", rate=RATE, options={"level": "3"})
        stream.width, stream.height, stream.pix_fmt = *SIZE, pixels
        stream.codec_context.colorspace = matrix
        stream.codec_context.color_range = colour_range
        for number in range(COUNT):
            frame = av.VideoFrame(*SIZE, pixels)
            for plane in frame.planes:
                rows = np.asarray(memoryview(plane)).view(np.uint8 if unit == 1 else np.uint16)
                rows[:] = rng.integers(16 * unit, 235 * unit, rows.shape)
            frame.pts, frame.colorspace, frame.color_range = number, matrix, colour_range
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
    return path


def rendered(
    folder: Path, source: Path, pixels: str, open_reader: Any, framing: Framing = UNFRAMED
) -> tuple[list[NDArray], list[NDArray]]:
    """The planes of every frame of the edit as it is written, and of the source."""
    cut = PlannedCut(Window(4, 4), recipe_from_json(BLUR), 1)
    placed = (
        PlannedClip("one", source, 0, 15, framing),
        PlannedClip("two", source, 15, COUNT, framing),
    )
    plan = EditPlan("Edit", SIZE, RATE, placed, (cut,))
    out = folder / "out.mkv"
    with OpenedEdit(
        plan,
        SIZE,
        Access(
            lambda path, size: open_reader(path, size, deep=True),
            lambda size: matte_reader(Path(), size),
            sound_parts,
        ),
    ) as edit:
        render_edit(edit, "edit", OutputSettings(lossless(pixels)), out, lambda: None)
    with av.open(str(out)) as made, av.open(str(source)) as given:
        return [planes_of(each) for each in made.decode(video=0)], [
            planes_of(each) for each in given.decode(video=0)
        ]


@READERS
@pytest.mark.parametrize("pixels", LAYOUTS)
def test_untreated_frames_keep_their_very_planes(
    tmp_path: Path, pixels: str, open_reader: Any
) -> None:
    source = write_source(tmp_path / "source.mkv", pixels)
    found, given = rendered(tmp_path, source, pixels, open_reader)
    assert len(found) == COUNT
    for number in (*range(11), *range(19, COUNT)):
        np.testing.assert_array_equal(found[number], given[number], err_msg=str(number))
    assert all(not np.array_equal(found[n], given[n]) for n in range(12, 18))


@pytest.mark.parametrize(
    "change",
    [{"framing": Framing(scale=1.1)}, {"pixels": "yuv420p10le"}],
    ids=["framed", "other layout"],
)
def test_what_is_not_the_same_is_converted(tmp_path: Path, change: dict[str, Any]) -> None:
    """A place is sampled, eight bits become ten: none of it is copied."""
    source = write_source(tmp_path / "source.mkv", "yuv420p")
    framing = change.get("framing", UNFRAMED)
    found, given = rendered(tmp_path, source, change.get("pixels", "yuv420p"), VideoReader, framing)
    assert len(found) == COUNT
    assert found[0].dtype != given[0].dtype or not np.array_equal(found[0], given[0])
    with VideoReader(source, deep=True) as one, VideoReader(tmp_path / "out.mkv", deep=True) as two:
        assert one.planes(0, "yuv420p", "bt601-625") is None
        if framing is UNFRAMED:
            here, there = one.read(3), two.read(3)
            here, there = (x / np.iinfo(x.dtype).max for x in (here, there))
            # Chroma of noise is smoothed; its brightness stays.
            assert abs(here.mean() - there.mean()) < 0.01


@pytest.mark.parametrize("own", [{"matrix": 6}, {"colour_range": 2}], ids=["matrix", "full range"])
def test_a_matrix_and_a_range_of_its_own_are_kept_and_copied(
    tmp_path: Path, own: dict[str, int]
) -> None:
    source = write_source(tmp_path / "source.mkv", "yuv420p", **own)
    found, given = rendered(tmp_path, source, "yuv420p", VideoReader)
    np.testing.assert_array_equal(found[0], given[0])
    with av.open(str(tmp_path / "out.mkv")) as made:
        context = made.streams.video[0].codec_context
        assert (context.colorspace, context.color_range) == (
            own.get("matrix", 1),
            own.get("colour_range", 1),
        )
