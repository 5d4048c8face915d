"""Writes video files in the formats of ``output_formats``."""

import itertools
import os
from collections import deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import closing, contextmanager
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Picture
from idle_shimmer.core.picture.output import Depth, OutputFrame
from idle_shimmer.core.picture.yuv import YUV_FORMS, LumaCoding, Planes, YuvForm, yuv_planes
from idle_shimmer.media.colour_tags import TAGS, USUAL, ColourTags
from idle_shimmer.media.complete_files import complete_file
from idle_shimmer.media.lossless import slices_of
from idle_shimmer.media.sound.sound_parts import SAMPLES_PER_SECOND, Sound
from idle_shimmer.media.write.output_formats import OutputFormat, Quality, format_of_file

# The AV1 encoder writes its settings to standard error unless it is told to report errors alone.
os.environ.setdefault("SVT_LOG", "1")
_LIMITED_RANGE, _FULL_RANGE = 1, 2
_SOUND_BLOCK = 4800
# A timecode track counts the frames of a second in eight bits (QuickTime file format, from memory).
_MOST_TIMECODE_RATE = 255
AHEAD = 3


@dataclass(frozen=True)
class SoundTrack:
    """One sound track of a file: its parts, which start with the first picture, and its name."""

    parts: Iterable[Sound]
    title: str = ""


_FASTER = {"libx264": {"preset": "ultrafast", "crf": "16"}}


@dataclass(frozen=True)
class CodedForm:
    """What pictures of a file are coded as: their format, with the encoder's options, size, rate and tags."""

    output: OutputFormat
    options: Mapping[str, str]
    size: tuple[int, int]
    rate: Fraction
    depth: Depth
    colour: ColourTags


class VideoWriter:
    """An open file; ``write`` each picture in order.

    The parts of ``sounds`` are read as the pictures reach them, so that all are interleaved in the
    file as players expect, and only one part is in memory. Pictures are coded in a thread of their own,
    while the next ones are made: at most ``AHEAD`` wait there.
    """

    def __init__(
        self,
        container: Any,
        form: CodedForm,
        sounds: Sequence[SoundTrack],
    ) -> None:
        output, size, rate, depth = form.output, form.size, form.rate, form.depth
        self._colour = colour = form.colour
        self._container = container
        pixels = output.pixels_of(depth)
        self._depth = depth
        options = dict(form.options)
        self._format = "rgb48le" if depth == 16 else "rgb24"
        chroma = 2 if pixels in YUV_FORMS else 1
        # Subsampled chroma needs even sides: the last line of an odd one is repeated.
        self._padding = (size[1] % chroma, size[0] % chroma)
        # One keyframe per second, so that players can seek.
        tag = options.pop("tag", None)
        options["g"] = str(max(1, round(rate)))
        if output.video == "ffv1":
            options["slices"] = slices_of(*size)
        self._video = container.add_stream(output.video, rate=rate, options=options)
        if tag is not None:
            self._video.codec_context.codec_tag = tag
        self._video.width = size[0] + self._padding[1]
        self._video.height = size[1] + self._padding[0]
        self._video.pix_fmt = pixels
        # Slices of a picture compressed apart, PyAV's choice, make files larger with every processor.
        self._video.codec_context.thread_type = "FRAME"
        self._time_base = 1 / rate
        self._video.codec_context.time_base = self._time_base
        self._form = YUV_FORMS.get(pixels)
        if self._form is not None:
            context = self._video.codec_context
            context.colorspace, context.color_primaries = colour.matrix, colour.primaries
            context.color_trc = colour.transfer
            context.color_range = _range_of(colour)
        self._open(output, size)
        self._sounds = coded_sounds(container, output, sounds)
        if self._form is None:
            self._graph = _rgb_graph(self._video.width, self._video.height, self._format, pixels)
        self._count = 0
        self._coder = ThreadPoolExecutor(1, thread_name_prefix="coder")
        self._waiting: deque[Future[None]] = deque()

    def _open(self, output: OutputFormat, size: tuple[int, int]) -> None:
        """Open the encoder now, rather than after the first frame, which may take minutes."""
        try:
            self._video.codec_context.open()
        except (av.FFmpegError, ValueError) as error:
            raise InvalidValue(
                f"{output.name} cannot be written at {size[0]} × {size[1]}: choose a smaller size, or"
                " another format",
                field="size",
            ) from error

    def write(self, frame: OutputFrame | Planes) -> None:
        """Append one frame (H, W, 3), which must not change afterwards; it is rounded here.

        Planes are coded as they are: they must be of the format's own layout and encoding. Raises what went wrong with a frame before it.
        """
        # Rounded first: what waits takes a quarter to an eighth of the memory so.
        rounded = frame if isinstance(frame, Planes) else self._rounded(frame)
        while len(self._waiting) >= AHEAD:
            self._waiting.popleft().result()
        self._waiting.append(self._coder.submit(self._code, rounded))

    def close(self) -> None:
        """End the thread; what waits is dropped."""
        self._coder.shutdown(wait=True, cancel_futures=True)

    def _rounded(self, frame: OutputFrame) -> Planes | NDArray[Any]:
        if self._form is not None:
            return self._planes(frame, self._form)
        return np.ascontiguousarray(frame.codes(self._depth))

    def _code(self, rounded: Planes | NDArray[Any]) -> None:
        coded = self._of_planes(rounded) if isinstance(rounded, Planes) else self._in_rgb(rounded)
        coded.pts, coded.time_base = self._count, self._time_base
        self._count += 1
        self._container.mux(self._video.encode(coded))
        for sound in self._sounds:
            sound.write_until(self._count * self._time_base)

    def _in_rgb(self, codes: Any) -> av.VideoFrame:
        self._graph.push(av.VideoFrame.from_ndarray(codes, format=self._format))
        coded = self._graph.pull()
        assert isinstance(coded, av.VideoFrame)
        return coded

    def _planes(self, frame: OutputFrame, form: YuvForm) -> Planes:
        pixels, (below, beside) = frame.picture.pixels, self._padding
        if below or beside:
            pixels = np.pad(pixels, ((0, below), (0, beside), (0, 0)), mode="edge")
        coding = LumaCoding((self._colour.red, self._colour.blue), self._colour.is_full)
        picture = Picture(pixels, frame.picture.encoding)
        return yuv_planes(picture, form, frame.number, coding)

    def _of_planes(self, planes: Planes) -> av.VideoFrame:
        coded = av.VideoFrame(self._video.width, self._video.height, self._video.pix_fmt)
        coded.colorspace, coded.color_range = self._colour.matrix, _range_of(self._colour)
        each = planes.luma, planes.blue, planes.red
        for target, plane in zip(coded.planes, each, strict=True):
            # Rows of a plane are padded to whole blocks of memory.
            rows = np.asarray(memoryview(target)).view(plane.dtype).reshape(target.height, -1)
            rows[:, : target.width] = plane
        return coded

    def finish(self) -> None:
        """Write the pictures that wait and the rest of the sound, and flush the encoders."""
        while self._waiting:
            self._waiting.popleft().result()
        for sound in self._sounds:
            sound.finish()
        self._container.mux(self._video.encode(None))


def _range_of(colour: ColourTags) -> int:
    """Return the code of a range, as FFmpeg numbers them."""
    return _FULL_RANGE if colour.is_full else _LIMITED_RANGE


def frame_of(codes: Codes | DeepCodes, number: int = 0) -> OutputFrame:
    """Return uint8 or uint16 codes (H, W, 3) as a frame to be written."""
    return OutputFrame(Picture.of_codes(codes), number)


def coded_sounds(
    container: Any, output: OutputFormat, tracks: Iterable[SoundTrack]
) -> "list[CodedSound]":
    """Add the sound tracks to an open file."""
    return [CodedSound(container, output, each) for each in tracks]


def muxing_options(output: OutputFormat) -> dict[str, str]:
    """Return the options of a file's container."""
    return {"movflags": "+faststart"} if output.suffix in (".mp4", ".mov") else {}


class CodedSound:
    """A sound track of an open file."""

    def __init__(self, container: Any, output: OutputFormat, track: SoundTrack) -> None:
        self._container = container
        self._stream = container.add_stream(output.sound, rate=SAMPLES_PER_SECOND, layout="stereo")
        self._stream.bit_rate = output.sound_rate
        if track.title:
            # MP4 and MOV call it the name of the handler, Matroska the title.
            self._stream.metadata["title"] = self._stream.metadata["handler_name"] = track.title
        self._resampler = av.AudioResampler(
            format=self._stream.codec_context.format,
            layout="stereo",
            rate=SAMPLES_PER_SECOND,
            frame_size=self._stream.codec_context.frame_size or _SOUND_BLOCK,
        )
        self._blocks = (
            part[start : start + _SOUND_BLOCK]
            for part in track.parts
            for start in range(0, len(part), _SOUND_BLOCK)
        )
        self._written = 0

    def write_until(self, end_s: Fraction) -> None:
        """Append blocks until ``end_s`` seconds are written or there is no more sound."""
        while self._written < end_s * SAMPLES_PER_SECOND:
            block = next(self._blocks, None)
            if block is None:
                return
            self._write(block)

    def finish(self) -> None:
        """Append the rest."""
        for block in self._blocks:
            self._write(block)
        self._encode(self._resampler.resample(None))
        self._container.mux(self._stream.encode(None))

    def _write(self, block: Sound) -> None:
        samples = np.ascontiguousarray(block.reshape(1, -1))
        frame = av.AudioFrame.from_ndarray(samples, format="flt", layout="stereo")
        frame.sample_rate, frame.pts = SAMPLES_PER_SECOND, self._written
        frame.time_base = Fraction(1, SAMPLES_PER_SECOND)
        self._written += len(block)
        self._encode(self._resampler.resample(frame))

    def _encode(self, frames: list[av.AudioFrame]) -> None:
        for frame in frames:
            self._container.mux(self._stream.encode(frame))


def _rgb_graph(width: int, height: int, codes: str, pixels: str) -> av.filter.Graph:
    """Return the conversion of RGB codes to another order of the same codes."""
    graph = av.filter.Graph()
    steps = [
        graph.add_buffer(
            width=width,
            height=height,
            format=av.VideoFormat(codes, width, height),
            time_base=Fraction(1, 1000),
        ),
        graph.add("scale", "flags=accurate_rnd"),
        graph.add("format", pixels),
        graph.add("buffersink"),
    ]
    for one, following in itertools.pairwise(steps):
        one.link_to(following)
    graph.configure()
    return graph


@dataclass(frozen=True)
class Coding:
    """How a file is coded: by default in the format of its extension, at the least depth that it has.

    ``colour`` is the encoding of YUV by its name in ``colour_tags``. ``fast`` codes H.264 in a fraction of
    the time, in larger files.
    """

    output: OutputFormat | None = None
    quality: Quality = "standard"
    depth: Depth | None = None
    colour: str = USUAL
    fast: bool = False

    def options(self, output: OutputFormat) -> dict[str, str]:
        """Return the options of the encoder."""
        faster = _FASTER.get(output.video or "", {}) if self.fast else {}
        return output.encoder_options(self.quality) | faster


USUAL_CODING = Coding()


@contextmanager
def writing(
    path: Path,
    size: tuple[int, int],
    rate: Fraction,
    coding: Coding = USUAL_CODING,
    *,
    tracks: Sequence[SoundTrack] = (),
    timecode: str | None = None,
) -> Iterator[VideoWriter]:
    """Open a writer of ``path``; the file appears only when it is complete.

    ``timecode`` is that of the first picture; a file of more frames a second than it can count has none.
    """
    output = coding.output or format_of_file(path)
    depth = coding.depth or output.depth(source_is_deep=False)
    with (
        complete_file(path) as file,
        av.open(str(file), mode="w", options=muxing_options(output)) as container,
    ):
        if timecode is not None and rate <= _MOST_TIMECODE_RATE:
            container.metadata["timecode"] = timecode
        form = CodedForm(
            output, coding.options(output), size, rate, depth, TAGS[output.colour_of(coding.colour)]
        )
        writer = VideoWriter(container, form, tracks)
        with closing(writer):
            yield writer
            writer.finish()
