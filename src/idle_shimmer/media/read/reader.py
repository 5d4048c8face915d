"""Reads any picture of a file by number: RGB of 8 or 16 bits, upright, at any size."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

import av
import cv2
import numpy as np
from av.container import InputContainer
from av.video.reformatter import ColorRange
from cachetools import LRUCache
from numpy.typing import NDArray

from idle_shimmer.media.colour_tags import is_wide, keeps_its_meaning
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.read.conversion_graph import CENTRED_CHROMA, conversion_graph
from idle_shimmer.media.read.deinterlace import deinterlaced
from idle_shimmer.media.read.dynamic_range import TRANSFERS, sdr_codes
from idle_shimmer.media.read.index import FrameIndex, MediaFacts, opened, read_facts, video_stream
from idle_shimmer.media.read.primaries import bt709_codes

if TYPE_CHECKING:
    # Decoder processes import this module: it must not import the kernels' compiler, which is slow.
    from idle_shimmer.core.picture.encoding import Codes, DeepCodes

Size = tuple[int, int]
_CODE_BITS = 8
_PLAIN, _DEEP = "rgb24", "rgb48le"
# The scaler takes a half to a third of the time for planes, which have the same codes.
_PLANES_OF = {_PLAIN: "gbrp", _DEEP: "gbrp16le"}
# What FFmpeg's scaler makes of the white of limited range, whatever its bits, where RGB has 65535.
_WHITE, _LIMITED_WHITE = 65535, 65283
# The last pictures before the requested one are all decoded, for stepping backwards.
_DECODE_ALL = 24


class Reader(Protocol):
    """Frame-accurate access to the pictures of a file by number, all of one size."""

    path: Path
    facts: MediaFacts
    index: FrameIndex
    size: Size

    def read(self, number: int, *, whole: bool = False) -> "Codes | DeepCodes":
        """Return picture ``number`` (0-based), (H, W, 3), filling the frame; ``whole`` at its own size.

        Raises MediaError outside the file.
        """

    def planes(self, number: int, pixels: str, colour: str) -> "NDArray[Any] | None":
        """Return the very planes of picture ``number``, one after another, for an encoder.

        None where they are not of the layout ``pixels`` and of the encoding ``colour``, or do not fill the
        frame as they are.
        """

    def close(self) -> None:
        """Close the file; the next read opens it again."""


def is_read_deep(facts: MediaFacts, *, deep: bool) -> bool:
    """Whether pictures are read as uint16: where that is asked for and the file has more than 8 bits."""
    return deep and facts.bit_depth > _CODE_BITS


def show_fields_together(reader: Reader) -> None:
    """Show both fields of interlaced pictures as they are; before the first picture is read."""
    reader.facts = replace(reader.facts, interlaced=False)


def layout_of(pixels: str) -> str:
    """Return the layout of planes of a pixel format; FFmpeg has names of its own for some of full range."""
    return pixels.replace("yuvj", "yuv")


def fills(facts: MediaFacts, size: Size) -> bool:
    """Whether pictures fill a frame of ``size`` as they are: upright, square pixels, of even sides."""
    upright = facts.rotation_deg % 360 == 0 and facts.pixel_aspect == 1
    return upright and (facts.width, facts.height) == size and not any(n % 2 for n in size)


class VideoReader:
    """Frame-accurate access by number. Not safe for two threads at once.

    ``size`` (W, H) is the frame that every picture fills: scaled to cover it, centred, cropped.
    By default the picture's own upright size with square pixels. With ``deep`` a file of more than 8
    bits gives uint16 codes over the whole range; every other picture is uint8. Of the pictures decoded on
    the way to another, the last ``keep_bytes`` are cached, for stepping backwards.
    """

    def __init__(
        self,
        path: Path,
        size: Size | None = None,
        known: tuple[MediaFacts, FrameIndex] | None = None,
        *,
        keep_bytes: int = 0,
        deep: bool = False,
    ) -> None:
        self.path = path
        self.facts, self.index = known or read_facts(path)
        self.size = size or (self.facts.width, self.facts.height)
        self._format = _DEEP if is_read_deep(self.facts, deep=deep) else _PLAIN
        self._context: Any = None
        self._container: InputContainer | None = None
        self._pictures: Iterator[av.VideoFrame] = iter(())
        self._next = 0
        self._decoded_frames = _DecodedFrames(keep_bytes)
        self._all_from = 0
        # For each size that is asked for.
        self._graphs: dict[Size, tuple[tuple[Any, ...], av.filter.Graph]] = {}

    def __enter__(self) -> "VideoReader":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Close the file; the next read opens it again."""
        if self._context is not None:
            self._context.__exit__(None, None, None)
        self._context = self._container = None
        self._pictures, self._next = iter(()), 0

    def read(self, number: int, *, whole: bool = False) -> "Codes | DeepCodes":
        """Return picture ``number`` (0-based), (H, W, 3); see ``Reader``."""
        own = self.facts.width, self.facts.height
        return self._converted(self._frame(number), own if whole else self.size)

    def planes(self, number: int, pixels: str, colour: str) -> NDArray[Any] | None:
        """Return the very planes of picture ``number``; see ``Reader``."""
        facts = self.facts
        if (layout_of(facts.pixel_format), facts.colour) != (pixels, colour):
            return None
        if not fills(facts, self.size):
            return None
        # What is written has its chroma beside the left sample of luma.
        if facts.video_codec in CENTRED_CHROMA:
            return None
        frame = self._frame(number)
        layout = layout_of(frame.format.name)
        same = (frame.width, frame.height, layout) == (*self.size, pixels)
        if not same or not keeps_its_meaning(frame, colour):
            return None
        dtype = np.uint8 if frame.format.components[0].bits == _CODE_BITS else np.uint16
        rows = (
            np.asarray(memoryview(plane)).view(dtype).reshape(plane.height, -1)[:, : plane.width]
            for plane in frame.planes
        )
        return np.concatenate([each.ravel() for each in rows])

    def _frame(self, number: int) -> av.VideoFrame:
        if not 0 <= number < self.index.count:
            raise MediaError(
                f"{self.path.name} has pictures 0 to {self.index.count - 1}, not {number}"
            )
        if (frame := self._decoded_frames.get(number)) is not None:
            return frame
        if self._container is None:
            self._open()
        begin = self._begin_for(number)
        if not self._next <= number or begin > self._next:
            self._seek(begin)
        begun = self._next
        frame = self._decode_until(number)
        if frame is None and begun > 0:
            # In some containers seeking is inexact: read from the start instead.
            self._seek(0)
            frame = self._decode_until(number)
        if frame is None:
            raise MediaError(f"picture {number} of {self.path.name} cannot be decoded")
        return frame

    def _begin_for(self, number: int) -> int:
        """Return from which picture decoding has to begin: what is deinterlaced needs the one before it."""
        before = max(0, number - 1) if self.facts.interlaced else number
        return self.index.keyframe_before(before)

    def _open(self) -> None:
        self._context = opened(self.path)
        self._container = self._context.__enter__()
        stream = video_stream(self._container, self.path)
        stream.thread_type = "AUTO"
        self._pictures, self._next = self._decoded(self._container, stream), 0

    def _seek(self, keyframe: int) -> None:
        assert self._container is not None
        if keyframe == 0:
            self.close()
            self._open()
            return
        stream = video_stream(self._container, self.path)
        self._container.seek(self.index.pts[keyframe], stream=stream, backward=True)
        self._pictures, self._next = self._decoded(self._container, stream), keyframe
        if self.facts.interlaced:
            # Made without the one before it.
            next(self._pictures, None)
            self._next += 1

    def _decoded(
        self, container: InputContainer, stream: av.video.stream.VideoStream
    ) -> Iterator[av.VideoFrame]:
        """Yield the pictures that follow, whole; far before the wanted one, unreferenced ones are skipped."""
        found = self._found(container, stream)
        return deinterlaced(found) if self.facts.interlaced else found

    def _found(
        self, container: InputContainer, stream: av.video.stream.VideoStream
    ) -> Iterator[av.VideoFrame]:
        for packet in container.demux(stream):
            skippable = packet.pts is not None and packet.pts < self._all_from
            stream.codec_context.skip_frame = "NONREF" if skippable else "DEFAULT"
            yield from packet.decode()

    def _decode_until(self, number: int) -> av.VideoFrame | None:
        """Return the picture at the time of ``number``, or the last one before it where it is damaged.

        None where the stream continues after it.
        """
        target, best = self.index.pts[number], None
        self._all_from = self.index.pts[max(0, number - _DECODE_ALL)]
        try:
            for order, frame in enumerate(self._pictures, start=self._next):
                time = frame.pts if frame.pts is not None else self.index.pts[min(order, number)]
                if time > target and (best is not None or self._next > 0):
                    break
                best = frame
                self._decoded_frames.keep(self.index.number_at(time), frame)
                if time >= target:
                    break
        except av.FFmpegError as error:
            if best is None:
                raise MediaError(f"picture {number} of {self.path.name} is damaged") from error
        self._next = number + 1
        return best

    def _graph(self, frame: av.VideoFrame, size: Size) -> av.filter.Graph:
        """Return the graph that takes such pictures to ``size``."""
        key, graph = self._graphs.get(size, (None, None))
        if graph is None or key != _key(frame):
            graph = conversion_graph(frame, size, self.facts, self._pixels_of(frame))
            self._graphs[size] = _key(frame), graph
        return graph

    def _converted(self, frame: av.VideoFrame, size: Size) -> "Codes | DeepCodes":
        graph = self._graph(frame, size)
        transfer = TRANSFERS.get(int(frame.color_trc))
        frame.pts = None
        graph.push(frame)
        converted = graph.pull()
        assert isinstance(converted, av.VideoFrame)
        codes: Any = _packed(converted)
        if codes.dtype == np.uint16 and not frame.format.is_rgb:
            codes = of_whole_range(codes, _white_of_scaler(frame))
        if transfer is not None:
            codes = sdr_codes(codes, transfer)
        elif is_wide(frame):
            codes = bt709_codes(codes)
        if codes.dtype == np.uint16 and self._format == _PLAIN:
            codes = cv2.convertScaleAbs(codes, alpha=255 / _WHITE)
        return codes

    def _pixels_of(self, frame: av.VideoFrame) -> str:
        """Return the pixels that the graph gives: other transfers and primaries are converted in 16 bits."""
        converts = int(frame.color_trc) in TRANSFERS or is_wide(frame)
        pixels = _DEEP if converts else self._format
        return pixels if frame.format.is_rgb else _PLANES_OF[pixels]


def _white_of_scaler(frame: av.VideoFrame) -> int:
    """Return what FFmpeg's scaler makes of white in YUV, as 16-bit RGB: it shifts codes, without scaling."""
    if frame.color_range != ColorRange.JPEG:
        return _LIMITED_WHITE
    bits = frame.format.components[0].bits
    return ((1 << bits) - 1) << (16 - bits)


def of_whole_range(codes: "DeepCodes", white: int) -> "DeepCodes":
    """Return the codes of 16 bits (H, W, 3) whose white is ``white``, over the whole range."""
    return cv2.multiply(codes, (_WHITE / white,) * 4)


def _packed(frame: av.VideoFrame) -> Any:
    """Return the codes of an RGB picture, (H, W, 3)."""
    if frame.format.name not in _PLANES_OF.values():
        return np.ascontiguousarray(frame.to_ndarray(format=frame.format.name))
    dtype = np.uint8 if frame.format.name == _PLANES_OF[_PLAIN] else np.uint16
    green, blue, red = (
        np.asarray(memoryview(plane)).view(dtype).reshape(plane.height, -1)[:, : plane.width]
        for plane in frame.planes
    )
    return cv2.merge([red, green, blue])


class _DecodedFrames:
    """The last decoded pictures, at most ``max_bytes`` of them."""

    def __init__(self, max_bytes: int) -> None:
        self._frames: LRUCache[int, av.VideoFrame] = LRUCache(max_bytes, getsizeof=_bytes_of)

    def get(self, number: int) -> av.VideoFrame | None:
        """Return picture ``number`` if it is cached."""
        return self._frames.get(number)

    def keep(self, number: int, frame: av.VideoFrame) -> None:
        """Cache a picture, where it fits."""
        if _bytes_of(frame) <= self._frames.maxsize:
            self._frames[number] = frame


def _bytes_of(frame: av.VideoFrame) -> int:
    return max(1, sum(plane.buffer_size for plane in frame.planes))


def _key(frame: av.VideoFrame) -> tuple[Any, ...]:
    return (
        frame.width,
        frame.height,
        frame.format.name,
        frame.colorspace,
        frame.color_range,
        frame.color_trc,
        frame.color_primaries,
        frame.rotation,
    )
