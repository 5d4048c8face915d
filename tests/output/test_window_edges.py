"""Nothing changes at a window's edges: a still chart, inside against outside, whatever its tags say.

Source of what is asked: at most one code apart, for ITU-R BT.601, 709, 2020 and 2100 tags and none.
"""

from pathlib import Path
from typing import Any

import av
import numpy as np
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.media.decode.client import RemoteReader
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.read.wipe_pictures import matte_reader
from idle_shimmer.media.sound.sound_parts import sound_parts
from idle_shimmer.media.write.output_formats import OutputFormat
from idle_shimmer.output.opened_edit import Access, OpenedEdit
from idle_shimmer.output.plan import EditPlan, OutputSettings, PlannedClip, PlannedCut
from idle_shimmer.output.render_edit import render_edit
from tests.output.test_planes import COUNT, RATE, lossless

# A filter that changes nothing that can be seen of flat patches.
UNSEEN = {"filters": [{"kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 0.002}}]}
# (matrix, primaries, transfer) by the codes of ITU-T H.273.
TAGS = {
    "untagged": (2, 2, 2),
    "601": (6, 6, 6),
    "709": (1, 1, 1),
    "601 matrix alone": (5, 2, 2),
    "709 matrix, other primaries": (1, 6, 1),
    "2020": (9, 9, 14),
    "PQ": (9, 9, 16),
    "HLG": (9, 9, 18),
}
SD, HD = (128, 96), (192, 720)
INSIDE, OUTSIDE = 13, 3


def chart(size: tuple[int, int]) -> NDArray[np.uint8]:
    """Six patches side by side, RGB."""
    patches = [
        (190, 60, 50),
        (40, 160, 70),
        (50, 70, 200),
        (128, 128, 128),
        (220, 210, 90),
        (20, 20, 20),
    ]
    made = np.zeros((size[1], size[0], 3), np.uint8)
    for n, patch in enumerate(patches):
        made[:, n * size[0] // 6 : (n + 1) * size[0] // 6] = patch
    return made


def write_chart(
    path: Path, size: tuple[int, int], pixels: str, tags: str, colour_range: int
) -> None:
    """The chart without loss, its codes tagged as is said, whatever they would have to be."""
    matrix, primaries, transfer = TAGS[tags]
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream("ffv1", rate=RATE, options={"level": "3"})
        stream.width, stream.height, stream.pix_fmt = *size, pixels
        context = stream.codec_context
        context.colorspace, context.color_range = matrix, colour_range
        context.color_primaries, context.color_trc = primaries, transfer
        plain = av.VideoFrame.from_ndarray(chart(size), format="rgb24")
        for number in range(COUNT):
            frame = plain.reformat(
                format=pixels,
                dst_colorspace=1 if matrix == 2 else matrix,
                dst_color_range=colour_range,
            )
            frame.pts, frame.colorspace, frame.color_range = number, matrix, colour_range
            frame.color_primaries, frame.color_trc = primaries, transfer
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))


def shown(path: Path, number: int) -> NDArray[Any]:
    """The middle of each patch in the planes of a picture, in codes of the file's own depth."""
    with av.open(str(path)) as container:
        frame = list(container.decode(video=0))[number]
    dtype = np.uint8 if frame.format.components[0].bits == 8 else np.uint16
    found = []
    for plane in frame.planes:
        rows = np.asarray(memoryview(plane)).view(dtype).reshape(plane.height, -1)[:, : plane.width]
        middle = rows[rows.shape[0] // 2]
        found.append([middle[(2 * n + 1) * len(middle) // 12] for n in range(6)])
    return np.array(found, int)


def rendered(folder: Path, size: tuple[int, int], output: OutputFormat, open_reader: Any) -> Path:
    source, out = folder / "source.mkv", folder / f"out{output.suffix}"
    placed = PlannedClip("one", source, 0, 15), PlannedClip("two", source, 15, COUNT)
    cut = PlannedCut(Window(4, 4), recipe_from_json(UNSEEN), 1)
    access = Access(
        lambda path, wanted: open_reader(path, wanted, deep=True),
        lambda wanted: matte_reader(Path(), wanted),
        sound_parts,
    )
    with OpenedEdit(EditPlan("Edit", size, RATE, placed, (cut,)), size, access) as edit:
        render_edit(edit, "edit", OutputSettings(output), out, lambda: None)
    return out


# A decoder of its own answers as one in this process does: once for each layout is enough.
@pytest.mark.parametrize(
    ("size", "pixels", "open_reader"),
    [
        (SD, "yuv420p", RemoteReader),
        (SD, "yuv420p10le", RemoteReader),
        (HD, "yuv420p", VideoReader),
    ],
    ids=["SD", "SD of 10 bits", "HD"],
)
@pytest.mark.parametrize("colour_range", [1, 2], ids=["limited", "full"])
@pytest.mark.parametrize("tags", TAGS)
def test_inside_a_window_is_what_is_outside(
    tmp_path: Path,
    tags: str,
    size: tuple[int, int],
    pixels: str,
    colour_range: int,
    open_reader: Any,
) -> None:
    write_chart(tmp_path / "source.mkv", size, pixels, tags, colour_range)
    out = rendered(tmp_path, size, lossless(pixels), open_reader)
    np.testing.assert_allclose(shown(out, INSIDE), shown(out, OUTSIDE), atol=1)
