"""Measures what leaves the application: levels, bands, colours, sync, sizes and times, into docs/quality.md.

Every file is written by the application's own writer and read back by PyAV alone. The sizes and times
are also the first estimates of the Render dialog.
"""

import tempfile
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
import typer
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.frame.frame_plan import FramePlan
from idle_shimmer.core.frame.render import Sources, render_picture
from idle_shimmer.core.picture.encoding import Picture
from idle_shimmer.core.picture.output import output_codes
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.media.write.output_formats import FORMATS, OutputFormat, Quality
from idle_shimmer.media.write.writer import Coding, SoundTrack, frame_of, writing
from scripts.reports.quality_sizes import measure_rates, sizes

ROOT = Path(__file__).parents[2]
PAGE = ROOT / "docs/quality.md"
VIDEOS = [each for each in FORMATS.values() if each.video]
LEVELS, FIRST_LEVEL = 121, 400
TEN_BITS = 65535 / 1023
SIZE = (1280, 720)
FRAMES = 12
# Rows of the chart: the corners of the colour cube and a grey scale, as code values of 8 bits.
COLOURS = [(r, g, b) for r in (16, 128, 235) for g in (16, 128, 235) for b in (16, 128, 235)]
GREYS = [(n, n, n) for n in range(0, 256, 15)]
CLICKS = (10, 40)


def main(*, rates: bool = True) -> None:
    """Measure everything and write the page; without ``rates`` sizes and times stay as they are."""
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        sections = [_ramp(folder), _bands(), _chart(folder), _sync(folder)]
        if rates:
            measure_rates(folder)
        sections.append(sizes())
    PAGE.write_text(_HEAD + "\n".join(sections), encoding="utf-8")
    typer.echo(f"Wrote {PAGE.relative_to(ROOT)}")


_HEAD = """# Quality

What leaves the application, measured. Written by `scripts/quality_report`: every file is written as a
render writes it, and decoded again by PyAV alone, without the application's own reader.

"""


def _ramp_codes() -> NDArray[np.uint16]:
    steps = FIRST_LEVEL + np.arange(SIZE[0]) * LEVELS // SIZE[0]
    codes = np.rint(steps * TEN_BITS).astype(np.uint16)
    return np.ascontiguousarray(np.broadcast_to(codes[None, :, None], (96, SIZE[0], 3)))


def _written(
    folder: Path,
    output: OutputFormat,
    pictures: list[NDArray[Any]],
    depth: Any,
    quality: Quality = "high",
) -> Path:
    path = folder / f"{output.id}{output.suffix}"
    height, width = pictures[0].shape[:2]
    with writing(path, (width, height), Fraction(25), Coding(output, quality, depth)) as writer:
        for picture in pictures:
            writer.write(frame_of(picture))
    return path


def _decoded(path: Path, number: int) -> NDArray[np.uint16]:
    """Return a picture as uint16 RGB, converted by libswscale as its tags say."""
    with av.open(str(path)) as container:
        frames = list(container.decode(container.streams.video[0]))
    frame = frames[number]
    if frame.format.components[0].bits == 8:
        codes: Any = frame.to_ndarray(format="rgb24", interpolation="ACCURATE_RND")
        plain: NDArray[np.uint16] = codes.astype(np.uint16) * 257
        return plain
    deep: Any = frame.to_ndarray(format="rgb48le", interpolation="ACCURATE_RND")
    return deep


def _levels(codes: NDArray[Any]) -> int:
    middle = codes[codes.shape[0] // 2, 64:-64, 1].astype(np.float64)
    return len(np.unique(np.rint(middle / TEN_BITS)))


def _ramp(folder: Path) -> str:
    ramp = _ramp_codes()
    eight = (np.rint(ramp / 257).astype(np.uint16) * 257).astype(np.uint16)
    blur = {"kind": "gaussian_blur", "radius": 0.05}
    recipe = recipe_from_json({"filters": [blur]})
    blurred = render_picture(FramePlan(recipe, Window(4, 4), 0), Sources(None, ramp))
    rows = [
        f"| the clip | {_levels(ramp)} | |",
        f"| the clip at 8 bits | {_levels(eight)} | |",
    ]
    for output in VIDEOS:
        depth = output.depth(source_is_deep=True)
        plain = ramp if depth == 16 else output_codes(Picture.of_codes(ramp), 8, 0)
        made = output_codes(blurred, depth, 0)
        found = []
        for picture in (plain, made):
            path = _written(folder, output, [picture] * FRAMES, depth)
            found.append(_levels(_decoded(path, FRAMES // 2)))
        rows.append(f"| {output.name} | {found[0]} | {found[1]} |")
    table = "\n".join(rows)
    return f"""## Levels

A ramp of {LEVELS} levels of 10 bits across {SIZE[0]} px, and the same ramp under a Gaussian blur of 5 % of
the height: how many levels of 10 bits come out of each format, at high quality. The outer 64 px of each
side are left out. Limited range has 876 codes for 1023; formats of 8 bits have a quarter of that.

| | Untreated | Blurred |
| --- | ---: | ---: |
{table}
"""


def _bands() -> str:
    """Bands of a dark gradient under a blur, with and without dither."""
    gradient = np.linspace(20, 32, SIZE[0])[None, :, None] * np.ones((180, 1, 3))
    codes = np.rint(gradient).astype(np.uint8)
    recipe = recipe_from_json({"filters": [{"kind": "gaussian_blur", "radius": 0.1}]})
    picture = render_picture(FramePlan(recipe, Window(4, 4), 0), Sources(None, codes))
    rounded = picture.to("codes").pixels
    dithered = output_codes(picture, 8, 0)
    shown = np.vstack([rounded, dithered])
    strong = np.clip((shown.astype(np.float32) - 18) * 16, 0, 255).astype(np.uint8)
    cv2.imwrite(str(ROOT / "docs/quality-bands.png"), strong[..., ::-1])
    exact = picture.to("display").pixels.astype(np.float64) * 255
    mean = cv2.blur(dithered.astype(np.float64), (15, 15)) - cv2.blur(exact, (15, 15))
    off = float(np.abs(mean[16:-16, 16:-16]).max())
    return f"""## Bands

A gradient of 12 codes across {SIZE[0]} px under a Gaussian blur of 10 % of the height, at 8 bits. Rounded,
the longest run of one code in the middle row is {_widest(rounded)} px; with the dither of the output it is
{_widest(dithered)} px, and the mean of 15×15 px is at most {off:.2f} codes off. The picture shows both, the
rounded one above, with its contrast raised sixteenfold.

![Bands without dither above, with dither below](quality-bands.png)
"""


def _widest(codes: NDArray[Any]) -> int:
    """Return the longest run of one code in the middle row, ends left out."""
    row = codes[codes.shape[0] // 2, 64:-64, 1].astype(int)
    edges = np.flatnonzero(np.diff(row, prepend=row[0] - 1, append=row[-1] - 1))
    return int(np.diff(edges).max())


def _chart(folder: Path) -> str:
    patches = COLOURS + GREYS
    columns = 9
    height = -(-len(patches) // columns) * 64
    chart = np.zeros((height, columns * 64, 3), np.uint8)
    for n, colour in enumerate(patches):
        row, column = divmod(n, columns)
        chart[row * 64 : row * 64 + 64, column * 64 : column * 64 + 64] = colour
    cv2.imwrite(str(ROOT / "docs/quality-chart.png"), chart[..., ::-1])
    rows = []
    for output in VIDEOS:
        depth = output.depth(source_is_deep=False)
        codes = chart if depth == 8 else chart.astype(np.uint16) * 257
        path = _written(folder, output, [codes] * FRAMES, depth)
        found = _patches(path, len(patches), columns)
        errors = np.abs(found - np.array(patches)).max(axis=1)
        rows.append(f"| {output.name} | {np.mean(errors):.2f} | {np.max(errors):.2f} |")
    table = "\n".join(rows)
    return f"""## Colours

A chart of {len(patches)} patches through each format at high quality: how far the mean of a patch is off, in
codes of 8 bits, by its worst channel.

![The chart](quality-chart.png)

| | Mean | Worst |
| --- | ---: | ---: |
{table}
"""


def _patches(path: Path, count: int, columns: int) -> NDArray[np.float64]:
    """Return the mean RGB of each patch, in codes of 8 bits; YUV by the formulas of BT.709 themselves."""
    with av.open(str(path)) as container:
        frame = list(container.decode(container.streams.video[0]))[FRAMES // 2]
    bits = frame.format.components[0].bits
    planes = (
        [_plane(frame, number, bits) for number in range(3)]
        if frame.format.name != "bgr0"
        else None
    )
    found = []
    for n in range(count):
        row, column = divmod(n, columns)
        if planes is None:
            rgb = frame.to_ndarray(format="rgb24")
            patch = rgb[row * 64 + 16 : row * 64 + 48, column * 64 + 16 : column * 64 + 48]
            found.append(patch.reshape(-1, 3).mean(axis=0))
            continue
        means = []
        for plane in planes:
            tall, wide = plane.shape[0] * 64 // frame.height, plane.shape[1] * 64 // frame.width
            top, left = row * tall + tall // 4, column * wide + wide // 4
            means.append(plane[top : top + tall // 2, left : left + wide // 2].mean())
        found.append(_bt709(means, bits))
    return np.array(found)


def _plane(frame: av.VideoFrame, number: int, bits: int) -> NDArray[Any]:
    plane = frame.planes[number]
    dtype = np.uint8 if bits == 8 else np.uint16
    codes = np.asarray(memoryview(plane)).view(dtype).reshape(plane.height, -1)
    return codes[:, : plane.width]


def _bt709(yuv: list[float], bits: int) -> NDArray[np.float64]:
    """Return RGB of 8-bit codes (ITU-R BT.709-6, items 3.2, 3.3 and 3.5; limited range)."""
    scale = 2 ** (bits - 8)
    luma = (yuv[0] / scale - 16) / 219
    blue, red = ((each / scale - 128) / 224 for each in yuv[1:])
    r, b = luma + 1.5748 * red, luma + 1.8556 * blue
    g = (luma - 0.2126 * r - 0.0722 * b) / 0.7152
    return np.array([r, g, b]) * 255


def _sync(folder: Path) -> str:
    rows = []
    for output in VIDEOS:
        path = folder / f"sync-{output.id}{output.suffix}"
        sound = np.zeros((48_000 * 50 // 25, 2), np.float32)
        for click in CLICKS:
            first = click * 1920
            sound[first : first + 480] = (0.9 * np.cos(np.arange(480) * 0.13))[:, None]
        depth = output.depth(source_is_deep=False)
        with writing(
            path, (128, 72), Fraction(25), Coding(output, depth=depth), tracks=[SoundTrack([sound])]
        ) as writer:
            for n in range(50):
                codes = np.full((72, 128, 3), 235 if n in CLICKS else 20, np.uint8)
                writer.write(frame_of(codes if depth == 8 else codes.astype(np.uint16) * 257))
        off = _click_offsets_ms(path)
        rows.append(f"| {output.name} | {max(map(abs, off)):.2f} |")
    table = "\n".join(rows)
    return f"""## Sync

Clicks on white frames, by the times in the file: how far the worst click is from its frame, in ms.

| | Off |
| --- | ---: |
{table}
"""


def _click_offsets_ms(path: Path) -> list[float]:
    with av.open(str(path)) as container:
        white = [
            float(frame.time)
            for frame in container.decode(video=0)
            if frame.time is not None and frame.to_ndarray(format="gray").mean() > 128
        ]
    with av.open(str(path)) as container:
        resampler = av.AudioResampler(format="flt", layout="mono", rate=48_000)
        heard = []
        quiet_until = 0.0
        for frame in container.decode(audio=0):
            for piece in resampler.resample(frame):
                start = float(piece.time or 0)
                for index in np.flatnonzero(np.abs(piece.to_ndarray()[0]) > 0.3):
                    at = start + index / 48_000
                    if at > quiet_until:
                        heard.append(at)
                    quiet_until = at + 0.1
    return [(one - other) * 1000 for one, other in zip(heard, white, strict=True)]


if __name__ == "__main__":
    typer.run(main)
