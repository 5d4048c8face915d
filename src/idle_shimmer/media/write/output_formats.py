"""The formats that can be written: containers, codings of pictures and sound, and their qualities.

Add a format here; interface, server and command line list what is here.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal, get_args

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.picture.output import Depth
from idle_shimmer.media.colour_tags import limited

Quality = Literal["draft", "standard", "high"]
QUALITIES: tuple[Quality, ...] = get_args(Quality)
_Options = Mapping[str, str]


@dataclass(frozen=True)
class OutputFormat:
    """One format. ``suffix`` is that of its files; pictures by themselves have no ``video``.

    ``pixels`` are the coded pixels of 8-bit pictures, ``deep_pixels`` those of deeper ones; a format
    that has one of them alone codes everything so. ``qualities`` are the encoder's options for each;
    formats with none are lossless, or have one quality.
    """

    id: str
    name: str
    suffix: str
    video: str | None
    pixels: str | None
    deep_pixels: str | None
    sound: str | None
    options: _Options = field(default_factory=dict)
    qualities: Mapping[Quality, _Options] = field(default_factory=dict)
    sound_rate: int = 192_000
    says_full_range: bool = True

    @property
    def holds_sound_tracks(self) -> bool:
        """Whether a file holds several sound tracks that editing programs read."""
        return self.sound is not None and self.suffix != ".webm"

    def colour_of(self, shared: str) -> str:
        """Return the encoding of a file whose clips share one: some formats cannot say that a range is full."""
        return shared if self.says_full_range else limited(shared)

    def depth(self, *, source_is_deep: bool) -> Depth:
        """Return how many bits its pictures have: the source's, where the format has both."""
        if self.deep_pixels is None:
            return 8
        return 16 if self.pixels is None or source_is_deep else 8

    def pixels_of(self, depth: Depth) -> str:
        """Return the coded pixels. Raises InvalidValue where the format has none of that depth."""
        pixels = self.deep_pixels if depth == 16 else self.pixels
        if pixels is None:
            has = "more than 8 bits" if depth == 8 else "8 bits"
            raise InvalidValue(f"{self.name} has pictures of {has}: give that depth", field="depth")
        return pixels

    def encoder_options(self, quality: Quality) -> dict[str, str]:
        """Return the options of the picture encoder."""
        return {**self.options, **self.qualities.get(quality, {})}


def _x26(draft: int, standard: int, high: int) -> dict[Quality, _Options]:
    """Return qualities of the encoders of H.264 and HEVC, by their constant rate factors."""
    return {
        "draft": {"preset": "veryfast", "crf": str(draft)},
        "standard": {"preset": "medium", "crf": str(standard)},
        "high": {"preset": "slow", "crf": str(high)},
    }


def _vp9(deadline: str, speed: int, crf: int) -> _Options:
    return {"deadline": deadline, "cpu-used": str(speed), "crf": str(crf)}


def _av1(preset: int, crf: int) -> _Options:
    return {"preset": str(preset), "crf": str(crf)}


# The factors of HEVC, VP9 and AV1 give about the picture quality of H.264 at 23, 18 and 14: measured
# by scripts/quality_report, in docs/quality.md.
FORMATS: dict[str, OutputFormat] = {
    each.id: each
    for each in (
        OutputFormat(
            "h264", "MP4 H.264", ".mp4", "libx264", "yuv420p", None, "aac", {}, _x26(23, 18, 14)
        ),
        OutputFormat(
            "hevc",
            "MP4 HEVC 10-bit",
            ".mp4",
            "libx265",
            None,
            "yuv420p10le",
            "aac",
            {"x265-params": "log-level=error", "tag": "hvc1"},
            _x26(25, 20, 15),
        ),
        OutputFormat(
            "prores",
            "MOV ProRes 422 HQ",
            ".mov",
            "prores_ks",
            None,
            "yuv422p10le",
            "pcm_s16le",
            {"profile": "3"},
            says_full_range=False,
        ),
        OutputFormat(
            "vp9",
            "WebM VP9",
            ".webm",
            "libvpx-vp9",
            "yuv420p",
            None,
            "libopus",
            {"b": "0", "row-mt": "1"},
            {
                "draft": _vp9("realtime", 7, 32),
                "standard": _vp9("good", 4, 24),
                "high": _vp9("good", 2, 15),
            },
        ),
        OutputFormat(
            "av1",
            "WebM AV1 10-bit",
            ".webm",
            "libsvtav1",
            None,
            "yuv420p10le",
            "libopus",
            {},
            {"draft": _av1(10, 35), "standard": _av1(9, 25), "high": _av1(6, 16)},
        ),
        OutputFormat(
            "ffv1",
            "MKV FFV1 lossless",
            ".mkv",
            "ffv1",
            "bgr0",
            "gbrp16le",
            "pcm_s16le",
            {"level": "3"},
        ),
        OutputFormat("png8", "PNG sequence 8-bit", ".zip", None, "rgb24", None, None),
        OutputFormat("png16", "PNG sequence 16-bit", ".zip", None, None, "rgb48", None),
    )
}
# What a file's name asks for where no format is given.
_BY_SUFFIX = {".mp4": "h264", ".mov": "prores", ".mkv": "ffv1", ".webm": "vp9"}


def output_format(name: str) -> OutputFormat:
    """Return a format by its id. Raises InvalidValue."""
    try:
        return FORMATS[name]
    except KeyError:
        known = ", ".join(FORMATS)
        raise InvalidValue(
            f"'{name}' is not a format: use one of {known}", field="format"
        ) from None


def format_of_file(path: Path, name: str | None = None) -> OutputFormat:
    """Return the format ``name``, or that of the file's extension. Raises InvalidValue.

    A format and an extension that do not belong together are refused.
    """
    suffix = path.suffix.lower()
    if name is None:
        if suffix in _BY_SUFFIX:
            return FORMATS[_BY_SUFFIX[suffix]]
        known = ", ".join(_BY_SUFFIX)
        raise InvalidValue(f"cannot write '{path.suffix}' files: use one of {known}", field="out")
    wanted = output_format(name)
    if suffix != wanted.suffix:
        raise InvalidValue(
            f"{wanted.name} files end in {wanted.suffix}, not '{path.suffix}': change the name",
            field="out",
        )
    return wanted


def is_video_name(path: Path) -> bool:
    """Whether the extension is that of a video file which can be written."""
    return path.suffix.lower() in _BY_SUFFIX
