"""Makes small video files whose every picture carries its number, and reads the number back."""

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from numpy.typing import NDArray

BITS = 12
_BAR = 16


def numbered(number: int, width: int = 192, height: int = 96) -> NDArray[np.uint8]:
    """A picture with ``number`` in binary: bars, dark for 0 and light for 1, on a soft ground."""
    y, x = np.mgrid[:height, :width]
    picture = np.stack([80 + x * 60 // width, 90 + y * 50 // height, np.full_like(x, 110)], axis=2)
    for bit in range(BITS):
        level = 220 if number >> bit & 1 else 25
        picture[height // 4 : height * 3 // 4, bit * _BAR : (bit + 1) * _BAR - 2] = level
    return picture.astype(np.uint8)


def number_in(picture: NDArray[np.uint8]) -> int:
    """The number that ``picture``, scaled or not, carries."""
    height, width = picture.shape[:2]
    bar = width / (BITS * _BAR) * _BAR
    middle = picture[height * 3 // 8 : height * 5 // 8].mean(axis=(0, 2))
    bits = [
        middle[int((bit + 0.3) * bar) : int((bit + 0.6) * bar)].mean() > 120 for bit in range(BITS)
    ]
    return sum(1 << bit for bit, lit in enumerate(bits) if lit)


def png(picture: NDArray[np.uint8]) -> bytes:
    """The picture as a PNG file."""
    return cv2.imencode(".png", picture[..., ::-1])[1].tobytes()


def write_clip(
    path: Path,
    pictures: list[NDArray[np.uint8]],
    *,
    rate: Fraction = Fraction(25),
    codec: str = "libx264",
    pixels: str = "yuv420p",
    options: dict[str, str] | None = None,
    times: list[int] | None = None,
    time_base: Fraction | None = None,
    colour: tuple[int, int] | None = None,
    tone: bool = False,
    tones: int = 1,
    marks: dict[str, Any] | None = None,
) -> Path:
    """Encode ``pictures``; ``times`` are their ticks of ``time_base``; ``colour`` (matrix, range).

    ``tone`` adds ``tones`` sound streams; ``marks`` are attributes set on the codec's context.
    """
    with av.open(str(path), "w") as container:
        stream: Any = container.add_stream(codec, rate=rate, options=options or {"crf": "10"})
        stream.height, stream.width = pictures[0].shape[:2]
        stream.pix_fmt = pixels
        base = time_base or 1 / rate
        stream.codec_context.time_base = base
        if colour:
            stream.codec_context.colorspace, stream.codec_context.color_range = colour
        for mark, value in (marks or {}).items():
            setattr(stream.codec_context, mark, value)
        sounds = [
            container.add_stream("aac", rate=48000, layout="mono")
            for _ in range(tones if tone else 0)
        ]
        for number, picture in enumerate(pictures):
            frame = av.VideoFrame.from_ndarray(picture, format="rgb24")
            if colour:
                frame = frame.reformat(
                    format=pixels, dst_colorspace=colour[0], dst_color_range=colour[1]
                )
            frame.pts, frame.time_base = (times[number] if times else number), base
            container.mux(stream.encode(frame))
        container.mux(stream.encode(None))
        for sound in sounds:
            _write_tone(container, sound, len(pictures) / rate)
    return path


def _write_tone(container: Any, stream: Any, duration: Fraction) -> None:
    t = np.arange(round(duration * 48000)) / 48000
    wave = (0.3 * np.sin(2 * np.pi * 440 * t)).astype(np.float32)
    for start in range(0, len(wave), 1024):
        frame = av.AudioFrame.from_ndarray(
            wave[None, start : start + 1024], format="fltp", layout="mono"
        )
        frame.sample_rate, frame.pts, frame.time_base = 48000, start, Fraction(1, 48000)
        container.mux(stream.encode(frame))
    container.mux(stream.encode(None))
