"""The processes that decode users' files, each over one socket.

Started by ``client.py`` as ``python -m idle_shimmer.media.decode.process FD``, which forks a
process for every socket that it receives: loading the decoders takes most of a second, a fork a few
milliseconds. Every request is one JSON object, answered by one JSON object; where that has a
``shape``, the numbers of that array follow as raw bytes. No interpreter state is exchanged,
so that a decoder which a file has taken over can only return wrong pictures. Each is confined to its
one file before it opens it; see ``confinement.py``. Ends when the socket is closed.
"""

import json
import os
import signal
import socket
import struct
import sys
from collections.abc import Callable, Iterator
from contextlib import suppress
from dataclasses import asdict
from fractions import Fraction
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.media.decode.confinement import available, confine
from idle_shimmer.media.read.index import FrameIndex, MediaFacts, opened, read_facts, video_stream
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.sound.accent_files import sound_only_s
from idle_shimmer.media.sound.sound_parts import Sound, sound_parts
from idle_shimmer.media.sound.waveform import peaks

KEPT_BYTES = 64 << 20
PROCESS_ID = "i"
_TRIED_PICTURES = 25
_Answer = tuple[dict[str, Any], NDArray[Any] | None]


class _Decoder:
    """The state of one connection: at most one open file."""

    def __init__(self) -> None:
        self._reader: VideoReader | None = None
        self._sound: Iterator[Sound] = iter(())

    def confine(self, path: str, memory_bytes: int) -> _Answer:
        """Confine this process to one file and an amount of memory."""
        return asdict(confine([Path(path)], memory_bytes)), None

    def facts(self, path: str) -> _Answer:
        """Return the facts and the index of a file."""
        facts, index = read_facts(Path(path))
        return {"facts": vars(facts), "index": vars(index)}, None

    def try_pictures(self, path: str) -> _Answer:
        """Decode some pictures at the start, middle and end, to find damage."""
        with opened(Path(path)) as container:
            stream = video_stream(container, Path(path))
            _, index = read_facts(Path(path))
            for start in sorted({0, index.count // 2, max(0, index.count - _TRIED_PICTURES)}):
                keyframe = index.pts[index.keyframe_before(start)]
                try:
                    container.seek(keyframe, stream=stream, backward=True)
                    for count, _ in enumerate(container.decode(stream)):
                        if count >= _TRIED_PICTURES:
                            break
                except av.FFmpegError:
                    break
        return {}, None

    def open(self, path: str, size: list[int], facts: Any, index: Any, deep: bool) -> _Answer:
        """Open a file to read its pictures, filling ``size``; ``deep`` as in ``VideoReader``."""
        known = facts_of(facts), index_of(index)
        self._reader = VideoReader(
            Path(path), (size[0], size[1]), known, keep_bytes=KEPT_BYTES, deep=deep
        )
        return {}, None

    def read(self, number: int, whole: bool) -> _Answer:
        """Return a picture of the open file, filling the frame or at its own size."""
        assert self._reader is not None
        return {}, self._reader.read(number, whole=whole)

    def planes(self, number: int, pixels: str, colour: str) -> _Answer:
        """Return the planes of a picture of the open file; none where they cannot be used."""
        assert self._reader is not None
        return {}, self._reader.planes(number, pixels, colour)

    def sound_facts(self, path: str) -> _Answer:
        """Return how long the sound of a file without pictures is, after decoding its start."""
        return {"duration_s": str(sound_only_s(Path(path)))}, None

    def peaks(self, path: str) -> _Answer:
        """Return the waveform of a file."""
        return {}, np.array(peaks(Path(path)), np.float32)

    def sound(self, path: str, start_s: str, duration_s: str) -> _Answer:
        """Open a part of a file's sound."""
        self._sound = sound_parts(Path(path), Fraction(start_s), Fraction(duration_s))
        return {}, None

    def sound_part(self) -> _Answer:
        """Return the next piece of that part; none after the last."""
        return {}, next(self._sound, None)


def facts_of(stored: dict[str, Any]) -> MediaFacts:
    """Return the facts from their JSON form."""
    exact = {name: Fraction(stored[name]) for name in ("pixel_aspect", "rate", "duration")}
    return MediaFacts(**{**stored, **exact, "notes": tuple(stored["notes"])})


def index_of(stored: dict[str, Any]) -> FrameIndex:
    """Return the index from its JSON form."""
    return FrameIndex(
        tuple(stored["pts"]),
        tuple(stored["keyframes"]),
        Fraction(stored["time_base"]),
        stored["last_duration"],
    )


def as_json(answer: dict[str, Any]) -> bytes:
    """Return one message; fractions are written as text."""
    return json.dumps(answer, default=str).encode()


def _serve(connection: Connection) -> None:
    decoder = _Decoder()
    while True:
        request = json.loads(connection.recv_bytes())
        work: Callable[..., _Answer] = getattr(decoder, request.pop("do"))
        try:
            answer, array = work(**request)
        except ShimmerError as error:
            answer, array = {"problem": error.message}, None
        if array is None:
            connection.send_bytes(as_json(answer))
            continue
        shape = {"shape": array.shape, "dtype": str(array.dtype)}
        connection.send_bytes(as_json({**answer, **shape}))
        if array.size:
            connection.send_bytes(np.ascontiguousarray(array).data.cast("B"))


def _conversation(connection: Connection) -> None:
    with suppress(EOFError, OSError):
        _serve(connection)
    # Nothing is left to clean up: end at once.
    os._exit(0)


def _make_processes(control: socket.socket) -> None:
    """Fork a process for every socket received, and send its id, until ``control`` is closed."""
    # Ended processes are reaped at once.
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)
    # Loaded once, before the forks.
    available()
    while True:
        message, sockets, _, _ = socket.recv_fds(control, 1, 1)
        if not message or not sockets:
            return
        made = os.fork()
        if made == 0:
            control.close()
            _conversation(Connection(sockets[0]))
        os.close(sockets[0])
        control.sendall(struct.pack(PROCESS_ID, made))


if __name__ == "__main__":
    _make_processes(socket.socket(fileno=int(sys.argv[1])))
