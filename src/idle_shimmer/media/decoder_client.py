"""Files that somebody brings are decoded in processes of their own, with limits.

Decoders are large programs fed with whatever arrives. A file that makes one of them crash, run on
or swallow all memory ends its own process, and not the server.
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
    """Of one process: its memory, and how long one answer may take."""

    memory_bytes: int = 4 << 30
    seconds: float = 120


USUAL = Limits()


class _Maker:
    """The process that makes the others; see ``media.decoder``."""

    def __init__(self) -> None:
        self._control: socket.socket | None = None
        self._lock = Lock()

    def start(self) -> None:
        """Have it load the decoders before somebody waits for them."""
        with self._lock:
            self._started()

    def make(self, theirs: socket.socket) -> int:
        """A new process at the other end of a socket; its id. Raises OSError where that fails."""
        with self._lock:
            try:
                return self._asked(theirs)
            except OSError:
                # It was ended: another one takes its place.
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
                # This interpreter and our own module: nothing of a file is part of the command.
                subprocess.Popen(  # noqa: S603
                    [
                        sys.executable,
                        "-m",
                        "idle_shimmer.media.decoder_process",
                        str(theirs.fileno()),
                    ],
                    pass_fds=(theirs.fileno(),),
                    stdin=subprocess.DEVNULL,
                    # What it would say of a damaged file is told in the answer.
                    stderr=subprocess.DEVNULL,
                    # Ctrl-C is for the server; these processes end with their sockets.
                    start_new_session=True,
                    # A process is copied while it has one thread.
                    env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},
                )
            self._control = ours
        return self._control


_maker = _Maker()


def prepare() -> None:
    """Load the decoders, so that the first file does not wait for them."""
    _maker.start()


class _Process:
    """A decoder's process and the socket to it."""

    def __init__(self) -> None:
        ours, theirs = socket.socketpair()
        with theirs:
            self.id = _maker.make(theirs)
        # Nor may it stop in the middle of an answer.
        ours.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, struct.pack("ll", _STALLED_S, 0))
        self._connection = Connection(ours.detach())

    def ask(self, seconds: float, **request: Any) -> tuple[dict[str, Any], NDArray[Any] | None]:
        """(answer, the array that comes with it). Raises TimeoutError, EOFError or OSError."""
        self._connection.send_bytes(as_json(request))
        if not self._connection.poll(seconds):
            raise TimeoutError
        told = json.loads(self._connection.recv_bytes())
        if "shape" not in told:
            return told, None
        array = np.empty(told["shape"], told["dtype"])
        if array.size:
            self._connection.recv_bytes_into(array.data.cast("B"))
        return told, array

    def end(self, *, kill: bool) -> None:
        """Let it end by itself, which it does when the socket is closed, or end it."""
        self._connection.close()
        if kill:
            with suppress(ProcessLookupError):
                os.kill(self.id, signal.SIGKILL)


class Decoder:
    """A conversation with a process about one file. Not safe for use by two threads at once."""

    def __init__(self, path: Path, limits: Limits = USUAL) -> None:
        self.path = path
        self._limits = limits
        self._process: _Process | None = None

    def __enter__(self) -> "Decoder":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """End the process; asking again starts another."""
        self._end(kill=False)

    def ask(self, do: str, **request: Any) -> tuple[dict[str, Any], NDArray[Any] | None]:
        """(answer, the array that comes with it).

        Raises MediaError for what the process finds wrong, and for what breaks or outruns it.
        """
        try:
            told, array = self._running().ask(self._limits.seconds, do=do, **request)
        except TimeoutError:
            self._end(kill=True)
            raise MediaError(
                f"{self.path.name} took longer than {self._limits.seconds:g} s to look at: convert"
                " it to another format first"
            ) from None
        except (EOFError, OSError, ValueError):
            self._end(kill=True)
            raise MediaError(
                f"{self.path.name} made the decoder stop: the file is damaged, or needs more memory"
                " than one file may take; convert it to another format first"
            ) from None
        if "problem" in told:
            raise MediaError(told["problem"])
        return told, array

    def _running(self) -> _Process:
        if self._process is None:
            self._process = _Process()
            self._process.ask(
                self._limits.seconds, do="limit", memory_bytes=self._limits.memory_bytes
            )
            self._begin(self._process)
        return self._process

    def _begin(self, process: _Process) -> None:
        """What a new process has to be told first."""

    def _end(self, *, kill: bool) -> None:
        process, self._process = self._process, None
        if process is not None:
            with suppress(OSError):
                process.end(kill=kill)


class RemoteReader(Decoder):
    """Like ``VideoReader``, decoding in a process of its own that keeps pictures it has passed."""

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
        """Picture ``number`` (0-based), uint8 (H, W, 3). Raises MediaError outside the file."""
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
    """The facts of a file, its start, middle and end decoded for a trial.

    Raises MediaError for what is no video, and for what breaks or outruns the decoder.
    """
    with Decoder(path, limits) as decoder:
        told, _ = decoder.ask("facts", path=str(path))
        decoder.ask("try_pictures", path=str(path))
    return facts_of(told["facts"])


def probe_index(path: Path, limits: Limits = USUAL) -> tuple[MediaFacts, FrameIndex]:
    """``read_facts`` in a process of its own."""
    with Decoder(path, limits) as decoder:
        told, _ = decoder.ask("facts", path=str(path))
    return facts_of(told["facts"]), index_of(told["index"])


def remote_peaks(path: Path) -> list[float]:
    """``waveform.peaks`` in a process of its own."""
    with Decoder(path) as decoder:
        _, found = decoder.ask("peaks", path=str(path))
    assert found is not None
    return [round(float(each), 3) for each in found]


def remote_sound(path: Path | None, start_s: Fraction, duration_s: Fraction) -> Sound:
    """``sound.read_sound`` in a process of its own."""
    parts = remote_sound_parts(path, start_s, duration_s)
    return np.concatenate([silence(Fraction(0)), *parts])


def remote_sound_parts(
    path: Path | None, start_s: Fraction, duration_s: Fraction
) -> Iterator[Sound]:
    """``sound.sound_parts`` in a process of its own."""
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
