"""The file formats that are read: FFmpeg's demuxers from a list, chosen by content.

Playlists, subtitles drawn as text, capture devices and formats that name other files are left out, and
no protocol but plain files is opened. Stills are recognised by their first bytes, because FFmpeg
would take a numbered name for a sequence. Sources of the signatures: PNG (W3C) 5.2, JPEG (ITU-T T.81)
B.1.1.3, RFC 9649 (WebP), TIFF 6.0 section 2; BMP from common practice.
"""

import re
from pathlib import Path

VIDEO_DEMUXERS = (
    "mov,mp4,m4a,3gp,3g2,mj2",
    "matroska,webm",
    "avi",
    "mpegts",
    "mpeg",
    "mpegvideo",
    "mxf",
    "ogg",
    "flv",
    "ivf",
    "h264",
    "hevc",
    "yuv4mpegpipe",
    "gif",
    "apng",
)
# "ogg" is among those of videos.
SOUND_DEMUXERS = ("wav", "mp3", "aac", "flac")
_STILLS = {
    "png_pipe": rb"\x89PNG\r\n\x1a\n",
    "jpeg_pipe": rb"\xff\xd8\xff",
    "webp_pipe": rb"RIFF.{4}WEBP",
    "bmp_pipe": rb"BM.{12}[\x0c\x28\x38\x40\x6c\x7c]\x00\x00\x00",
    "tiff_pipe": rb"II\*\x00|MM\x00\*",
}
STILL_DEMUXERS = tuple(_STILLS)
READ_DEMUXERS = VIDEO_DEMUXERS + STILL_DEMUXERS + SOUND_DEMUXERS
_SIGNATURE_BYTES = 32
# The first name of each is how FFmpeg's list of permitted formats is matched.
OPEN_OPTIONS = {
    "protocol_whitelist": "file",
    "format_whitelist": ",".join(READ_DEMUXERS),
}
FORMAT_NAMES = "MP4, MOV, MKV, WebM, AVI, MPEG, MXF, OGG, WAV, MP3, AAC, FLAC or picture"


def stated_size(path: Path) -> tuple[int, int] | None:
    """Return (width, height) as a PNG file states them at its start; None for every other file."""
    try:
        with path.open("rb") as file:
            start = file.read(_SIGNATURE_BYTES)
    except OSError:
        return None
    found = re.match(_STILLS["png_pipe"] + rb".{4}IHDR(.{4})(.{4})", start, re.DOTALL)
    return None if found is None else (int.from_bytes(found[1]), int.from_bytes(found[2]))


def still_demuxer(path: Path) -> str | None:
    """Return the demuxer of a still picture; None for every other file."""
    with path.open("rb") as file:
        start = file.read(_SIGNATURE_BYTES)
    found = (name for name, signature in _STILLS.items() if re.match(signature, start, re.DOTALL))
    return next(found, None)
