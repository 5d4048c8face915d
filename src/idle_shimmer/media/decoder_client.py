"""Decodes users' files in separate processes, with limits.

Decoders are large programs, and the files are not trusted. A file that makes a decoder crash, hang
or use too much memory ends that process, not the server.
"""

import json
import os
import signal
import socket
import struct
import subprocess
import sys
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import asdict, dataclass
from fractions import Fraction
from multiprocessing.connection import Connection
from pathlib import Path
from threading import Lock
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.media.decoder_process import PROCESS_ID, as_json, facts_of, index_of
from idle_shimmer.media.index import FrameIndex, MediaError, MediaFacts
from idle_shimmer.media.reader import Size
from idle_shimmer.media.sound import Sound, silence, sound_parts

_STALLED_S = 20


@dataclass(frozen=True, slots=True)
class Limits:
    """The limits of one process: its memory, and the time of one answer."""

    memory_bytes: int = 4 << 30
    seconds: float = 120


USUAL = Limits()


class _Maker:
    """The process that forks the others; see ``media.decoder_process``."""

    def __init__(self) -> None:
        self._control: socket.socket | None = None
        self._lock = Lock()

    def start(self) -> None:
        """Start it, so that the decoders are loaded before the first request."""
        with self._lock:
            self._started()

    def make(self, theirs: socket.socket) -> int:
        """Fork a process that answers on a socket; return its id. Raises OSError."""
        with self._lock:
            try:
                return self._asked(theirs)
            except OSError:
                # It has ended: start another one.
                self._control = None
                return self._asked(theirs)

    def _asked(self, theirs: socket.socket) -> int:
        control = self._started()
        socket.send_fds(control, [b"+"], [theirs.fileno()])
        answer = control.recv(struct.calcsize(PROCESS_ID))
        if not answer:
            raise OSError("no decoder can be started")
        return int(struct.unpack(PROCESS_ID, answer)[0])

    def _started(self) -> socket.socket:
        if self._control is None:
            ours, theirs = socket.socketpair()
            with theirs:
                # This interpreter and our own module: no part of the command comes from a file.
                subprocess.Popen(  # noqa: S603
                    [
                        sys.executable,
                        "-m",
                        "idle_shimmer.media.decoder_process",
                        str(theirs.fileno()),
                    ],
                    pass_fds=(theirs.fileno(),),
                    stdin=subprocess.DEVNULL,
                    # Errors about a damaged file are part of the answer.
                    stderr=subprocess.DEVNULL,
                    # Ctrl-C stops the server; these processes end when their sockets close.
                    start_new_session=True,
                    # A process must have only one thread when it forks.
                    env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},
                )
            self._control = ours
        return self._control


_maker = _Maker()


def prepare() -> None:
    """Load the decoders ahead of the first file."""
    _maker.start()


class _Process:
    """A decoder's process and the socket to it."""

    def __init__(self) -> None:
        ours, theirs = socket.socketpair()
        with theirs:
            self.id = _maker.make(theirs)
        # Every part of the answer has the same deadline.
        ours.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, struct.pack("ll", _STALLED_S, 0))
        self._connection = Connection(ours.detach())

    def ask(self, seconds: float, **request: Any) -> tuple[dict[str, Any], NDArray[Any] | None]:
        """Return (answer, array or None). Raises TimeoutError, EOFError or OSError."""
        self._connection.send_bytes(as_json(request))
        if not self._connection.poll(seconds):
            raise TimeoutError
        answer = json.loads(self._connection.recv_bytes())
        if "shape" not in answer:
            return answer, None
        array = np.empty(answer["shape"], answer["dtype"])
        if array.size:
            self._connection.recv_bytes_into(array.data.cast("B"))
        return answer, array

    def end(self, *, kill: bool) -> None:
        """Close the socket, which ends the process, or kill it."""
        self._connection.close()
        if kill:
            with suppress(ProcessLookupError):
                os.kill(self.id, signal.SIGKILL)


class Decoder:
    """A connection to a process about one file. Not safe for two threads at once."""

    def __init__(self, path: Path, limits: Limits = USUAL) -> None:
        self.path = path
        self._limits = limits
        self._process: _Process | None = None

    def __enter__(self) -> "Decoder":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """End the process; the next request starts another."""
        self._end(kill=False)

    def ask(self, do: str, **request: Any) -> tuple[dict[str, Any], NDArray[Any] | None]:
        """Return (answer, array or None).

        Raises MediaError for problems of the file, and where the process crashes or takes too long.
        """
        try:
            answer, array = self._running().ask(self._limits.seconds, do=do, **request)
        except TimeoutError:
            self._end(kill=True)
            raise MediaError(
                f"{self.path.name} took longer than {self._limits.seconds:g} s to read: convert it to"
                " another format first"
            ) from None
        except (EOFError, OSError, ValueError):
            self._end(kill=True)
            raise MediaError(
                f"{self.path.name} made the decoder stop: the file is damaged, or needs more memory"
                " than one file may take; convert it to another format first"
            ) from None
        if "problem" in answer:
            raise MediaError(answer["problem"])
        return answer, array

    def _running(self) -> _Process:
        if self._process is None:
            self._process = _Process()
            self._process.ask(
                self._limits.seconds, do="limit", memory_bytes=self._limits.memory_bytes
            )
            self._begin(self._process)
        return self._process

    def _begin(self, process: _Process) -> None:
        """Return the requests that a new process needs first."""

    def _end(self, *, kill: bool) -> None:
        process, self._process = self._process, None
        if process is not None:
            with suppress(OSError):
                process.end(kill=kill)


class RemoteReader(Decoder):
    """Like ``VideoReader``, but decodes in a separate process, which caches pictures."""

    def __init__(
        self,
        path: Path,
        size: Size | None = None,
        known: tuple[MediaFacts, FrameIndex] | None = None,
        limits: Limits = USUAL,
    ) -> None:
        super().__init__(path, limits)
        self.facts, self.index = known or probe_index(path, limits)
        self.size = size or (self.facts.width, self.facts.height)

    def __enter__(self) -> "RemoteReader":
        return self

    def read(self, number: int) -> Codes:
        """Return picture ``number`` (0-based), uint8 (H, W, 3). Raises MediaError outside the file."""
        _, picture = self.ask("read", number=number)
        assert picture is not None
        return picture

    def _begin(self, process: _Process) -> None:
        process.ask(
            self._limits.seconds,
            do="open",
            path=str(self.path),
            size=self.size,
            facts=asdict(self.facts),
            index=asdict(self.index),
        )


def probe_facts(path: Path, limits: Limits = USUAL) -> MediaFacts:
    """Return the facts of a file after decoding its start, middle and end as a trial.

    Raises MediaError where it is not a video, or its decoder crashes or takes too long.
    """
    with Decoder(path, limits) as decoder:
        answer, _ = decoder.ask("facts", path=str(path))
        decoder.ask("try_pictures", path=str(path))
    return facts_of(answer["facts"])


def probe_index(path: Path, limits: Limits = USUAL) -> tuple[MediaFacts, FrameIndex]:
    """``read_facts`` in a separate process."""
    with Decoder(path, limits) as decoder:
        answer, _ = decoder.ask("facts", path=str(path))
    return facts_of(answer["facts"]), index_of(answer["index"])


def remote_peaks(path: Path) -> list[float]:
    """``waveform.peaks`` in a separate process."""
    with Decoder(path) as decoder:
        _, found = decoder.ask("peaks", path=str(path))
    assert found is not None
    return [round(float(each), 3) for each in found]


def remote_sound(path: Path | None, start_s: Fraction, duration_s: Fraction) -> Sound:
    """``sound.read_sound`` in a separate process."""
    parts = remote_sound_parts(path, start_s, duration_s)
    return np.concatenate([silence(Fraction(0)), *parts])


def remote_sound_parts(
    path: Path | None, start_s: Fraction, duration_s: Fraction
) -> Iterator[Sound]:
    """``sound.sound_parts`` in a separate process."""
    if path is None:
        yield from sound_parts(None, start_s, duration_s)
        return
    with Decoder(path) as decoder:
        decoder.ask("sound", path=str(path), start_s=str(start_s), duration_s=str(duration_s))
        while True:
            _, part = decoder.ask("sound_part")
            if part is None:
                return
            yield part
