"""Makes a clip of a PNG sequence; every picture is stored bit for bit.

The pictures are not decoded: a PNG marks its own end, and a QuickTime file stores PNG pictures whole.
Source: Portable Network Graphics, W3C Recommendation, sections 5.2 and 5.3 (signature, chunks) and
11.2.1 (image header).
"""

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import BinaryIO

import av

from idle_shimmer.limits import limits
from idle_shimmer.media.decode.answers import require_size
from idle_shimmer.media.errors import MediaError

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
_HEADER_BYTES, _CHECKSUM_BYTES = 8, 4
_HEADER_CHUNK_BYTES = 13
_MAX_PICTURE_BYTES = 512 << 20
_FORMATS = {0: "gray", 2: "rgb24", 3: "pal8", 4: "ya8", 6: "rgba"}


@dataclass(frozen=True, slots=True)
class _Png:
    data: bytes
    width: int
    height: int
    colour_type: int


def join_pictures(pictures: Path, rate: Fraction, out: Path) -> int:
    """Write the concatenated PNG pictures of ``pictures`` to ``out``, a .mov file.

    ``rate`` is in frames per second. Returns their number. Raises MediaError where one is not a PNG, is
    too large or has another size.
    """
    count = 0
    first: _Png | None = None
    with pictures.open("rb") as source, av.open(str(out), "w", format="mov") as container:
        stream = container.add_stream("png", rate=rate)
        for png in _pictures_in(source):
            if first is None:
                first = png
                stream.width, stream.height = png.width, png.height
                stream.pix_fmt = _FORMATS[png.colour_type]
                stream.time_base = 1 / rate
            if (png.width, png.height) != (first.width, first.height):
                raise MediaError(
                    f"picture {count + 1} of the sequence is {png.width}×{png.height}, the first"
                    f" one {first.width}×{first.height}: make them the same size"
                )
            packet = av.Packet(png.data)
            packet.pts = packet.dts = count
            packet.duration, packet.time_base = 1, 1 / rate
            packet.stream, packet.is_keyframe = stream, True
            container.mux(packet)
            count += 1
            if count > limits().max_pictures:
                raise MediaError(
                    f"the sequence has more than {limits().max_pictures} pictures: choose fewer"
                )
        if first is None:
            raise MediaError("the sequence has no pictures: choose numbered PNG files")
    return count


def _pictures_in(source: BinaryIO) -> Iterator[_Png]:
    number = 0
    while signature := source.read(len(_SIGNATURE)):
        number += 1
        if signature != _SIGNATURE:
            raise MediaError(
                f"picture {number} of the sequence is not a PNG: choose PNG files only"
            )
        yield _rest_of_picture(source, number)


def _rest_of_picture(source: BinaryIO, number: int) -> _Png:
    """Return the picture whose signature has been read: every chunk up to its end."""
    parts, size, read_bytes = [_SIGNATURE], (0, 0, 0), 0
    while True:
        head = source.read(_HEADER_BYTES)
        if len(head) < _HEADER_BYTES:
            raise MediaError(f"picture {number} of the sequence is truncated: export it again")
        length, kind = struct.unpack(">I4s", head)
        read_bytes += length
        if read_bytes > _MAX_PICTURE_BYTES:
            raise MediaError(f"picture {number} of the sequence is damaged: export it again")
        body = source.read(length + _CHECKSUM_BYTES)
        if len(body) < length + _CHECKSUM_BYTES:
            raise MediaError(f"picture {number} of the sequence is truncated: export it again")
        if kind == b"IHDR" and length == _HEADER_CHUNK_BYTES:
            width, height, _, colour_type = struct.unpack(">IIBB", body[:10])
            size = width, height, colour_type
        parts += [head, body]
        if kind == b"IEND":
            break
    if size[2] not in _FORMATS or not size[0] or not size[1]:
        raise MediaError(f"picture {number} of the sequence is damaged: export it again")
    require_size(size[:2], f"picture {number} of the sequence")
    return _Png(b"".join(parts), *size)
