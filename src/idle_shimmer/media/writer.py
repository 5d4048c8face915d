"""Writes video files: H.264 + AAC in MP4, ProRes + PCM in MOV, lossless in MKV, VP9 in WebM."""

import itertools
from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import closing, contextmanager
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.picture.encoding import Codes, DeepCodes, Encoding, Picture
from idle_shimmer.core.picture.output import Depth
from idle_shimmer.media.sound import SAMPLES_PER_SECOND, Sound

_BT709, _LIMITED_RANGE = 1, 1
_SOUND_BLOCK = 4800
AHEAD = 3


@dataclass(frozen=True)
class FileKind:
    """The coding of pictures and sound in one file format.

    ``pixels`` are those of 8-bit pictures, ``deep_pixels`` those of deeper ones; a format that has one
    of them alone codes everything so.
    """

    video: str
    pixels: str | None
    deep_pixels: str | None
    sound: str
    options: dict[str, str] = field(default_factory=dict)
    sound_rate: int = 192_000


KINDS: dict[str, FileKind] = {
    ".mp4": FileKind("libx264", "yuv420p", None, "aac", {"crf": "16", "preset": "medium"}),
    ".mov": FileKind("prores_ks", None, "yuv422p10le", "pcm_s16le", {"profile": "3"}),
    ".mkv": FileKind("ffv1", "bgr0", "gbrp16le", "flac", {"level": "3"}),
    ".webm": FileKind(
        "libvpx-vp9", "yuv420p", None, "libopus", {"crf": "20", "b": "0", "row-mt": "1"}
    ),
}
_RGB_PIXELS = ("bgr0", "gbrp16le")


def _pixels_of(kind: FileKind, depth: Depth) -> str:
    """Return the coded pixels. Raises InvalidValue where the format has none of that depth."""
    pixels = kind.deep_pixels if depth == 16 else kind.pixels
    if pixels is None:
        ending = next(name for name, each in KINDS.items() if each.video == kind.video)
        has = "more than 8 bits" if depth == 8 else "8 bits"
        raise InvalidValue(f"{ending} files have pictures of {has}: give that depth", field="depth")
    return pixels


def output_depth(path: Path, *, source_is_deep: bool) -> Depth:
    """Return how many bits pictures for the file ``path`` have: the source's, where the format has both."""
    kind = kind_of(path)
    if kind.deep_pixels is None:
        return 8
    return 16 if kind.pixels is None or source_is_deep else 8


def kind_of(path: Path) -> FileKind:
    """Return the file format of ``path``'s extension. Raises InvalidValue for an unknown one."""
    try:
        return KINDS[path.suffix.lower()]
    except KeyError:
        known = ", ".join(KINDS)
        raise InvalidValue(
            f"cannot write '{path.suffix}' files: use one of {known}", field="out"
        ) from None


class VideoWriter:
    """An open file; ``write`` each picture in order.

    The parts of ``sound`` are read as the pictures reach them, so that both are interleaved in the
    file as players expect, and only one part is in memory. Pictures are coded in a thread of their own,
    while the next ones are made: at most ``AHEAD`` wait there.
    """

    def __init__(
        self,
        container: Any,
        kind: FileKind,
        size: tuple[int, int],
        rate: Fraction,
        depth: Depth,
        sound: Iterable[Sound] | None,
    ) -> None:
        self._container = container
        pixels = _pixels_of(kind, depth)
        self._format = "rgb48le" if depth == 16 else "rgb24"
        in_rgb = pixels in _RGB_PIXELS
        chroma = 1 if in_rgb else 2
        # Subsampled chroma needs even sides: the last line of an odd one is repeated.
        self._padding = (size[1] % chroma, size[0] % chroma)
        # One keyframe per second, so that players can seek.
        options = {**kind.options, "g": str(max(1, round(rate)))}
        self._video = container.add_stream(kind.video, rate=rate, options=options)
        self._video.width, self._video.height = (
            size[0] + self._padding[1],
            size[1] + self._padding[0],
        )
        self._video.pix_fmt = pixels
        self._time_base = 1 / rate
        self._video.codec_context.time_base = self._time_base
        if not in_rgb:
            context = self._video.codec_context
            context.colorspace = context.color_primaries = context.color_trc = _BT709
            context.color_range = _LIMITED_RANGE
        self._sound: _SoundTrack | None = None
        if sound is not None:
            self._sound = _SoundTrack(container, kind, sound)
        self._graph = _coding_graph(self._video.width, self._video.height, self._format, pixels)
        self._count = 0
        self._coder = ThreadPoolExecutor(1, thread_name_prefix="coder")
        self._waiting: deque[Future[None]] = deque()

    def write(self, picture: Codes | DeepCodes) -> None:
        """Append one picture (H, W, 3), which must not change afterwards.

        Codes of the other depth are converted. Raises what went wrong with a picture before it.
        """
        while len(self._waiting) >= AHEAD:
            self._waiting.popleft().result()
        self._waiting.append(self._coder.submit(self._code, picture))

    def close(self) -> None:
        """End the thread; what waits is dropped."""
        self._coder.shutdown(wait=True, cancel_futures=True)

    def _code(self, picture: Codes | DeepCodes) -> None:
        wanted: Encoding = "deep" if self._format == "rgb48le" else "codes"
        codes: Any = Picture.of_codes(picture).to(wanted).pixels
        if any(self._padding):
            codes = np.pad(
                codes, ((0, self._padding[0]), (0, self._padding[1]), (0, 0)), mode="edge"
            )
        codes = np.ascontiguousarray(codes)
        self._graph.push(av.VideoFrame.from_ndarray(codes, format=self._format))
        frame = self._graph.pull()
        frame.pts, frame.time_base = self._count, self._time_base
        self._count += 1
        self._container.mux(self._video.encode(frame))
        if self._sound is not None:
            self._sound.write_until(self._count * self._time_base)

    def finish(self) -> None:
        """Write the pictures that wait and the rest of the sound, and flush the encoders."""
        while self._waiting:
            self._waiting.popleft().result()
        if self._sound is not None:
            self._sound.finish()
        self._container.mux(self._video.encode(None))


class _SoundTrack:
    """The sound of an open file."""

    def __init__(self, container: Any, kind: FileKind, parts: Iterable[Sound]) -> None:
        self._container = container
        self._stream = container.add_stream(kind.sound, rate=SAMPLES_PER_SECOND, layout="stereo")
        self._stream.bit_rate = kind.sound_rate
        self._resampler = av.AudioResampler(
            format=self._stream.codec_context.format,
            layout="stereo",
            rate=SAMPLES_PER_SECOND,
            frame_size=self._stream.codec_context.frame_size or _SOUND_BLOCK,
        )
        self._blocks = (
            part[start : start + _SOUND_BLOCK]
            for part in parts
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


def _coding_graph(width: int, height: int, codes: str, pixels: str) -> av.filter.Graph:
    """Return RGB converted to the coded pixels: BT.709 and limited range where they are YUV."""
    graph = av.filter.Graph()
    colour = "" if pixels in _RGB_PIXELS else ":out_color_matrix=bt709:out_range=tv"
    steps = [
        graph.add_buffer(
            width=width,
            height=height,
            format=av.VideoFormat(codes, width, height),
            time_base=Fraction(1, 1000),
        ),
        graph.add("scale", f"flags=bicubic+accurate_rnd+full_chroma_int+full_chroma_inp{colour}"),
        graph.add("format", pixels),
        graph.add("buffersink"),
    ]
    for one, following in itertools.pairwise(steps):
        one.link_to(following)
    graph.configure()
    return graph


@contextmanager
def writing(
    path: Path,
    size: tuple[int, int],
    rate: Fraction,
    *,
    depth: Depth | None = None,
    sound: Iterable[Sound] | None = None,
    fast: bool = False,
) -> Iterator[VideoWriter]:
    """Open a writer of ``path``; the file appears only when it is complete.

    ``depth`` is that of the pictures, by default the least that the format has. ``sound`` starts with the first picture, in parts, each float32 (samples, 2). ``fast`` codes H.264
    in a fraction of the time, in larger files.
    """
    kind = kind_of(path)
    if fast and kind.video == "libx264":
        kind = replace(kind, options={**kind.options, "preset": "ultrafast"})
    unfinished = path.with_name(f".{path.stem}.unfinished{path.suffix}")
    options = {"movflags": "+faststart"} if path.suffix.lower() in (".mp4", ".mov") else {}
    try:
        with av.open(str(unfinished), mode="w", options=options) as container:
            bits = depth or output_depth(path, source_is_deep=False)
            writer = VideoWriter(container, kind, size, rate, bits, sound)
            with closing(writer):
                yield writer
                writer.finish()
        unfinished.replace(path)
    finally:
        unfinished.unlink(missing_ok=True)
