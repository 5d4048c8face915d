"""Files that somebody brings are decoded in processes of their own, with limits.

Decoders are large programs fed with whatever arrives. A file that makes one of them crash, run on
or swallow all memory ends its own process, and not the server. Starting a process takes long enough
to be felt, so one or two wait ready.
"""

import json
import socket
import struct
import subprocess
import sys
from collections import deque
from contextlib import suppress
from dataclasses import asdict, dataclass
from fractions import Fraction
from multiprocessing.connection import Connection
from pathlib import Path
from threading import Lock, Thread
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture import Codes
from idle_shimmer.media.decoder import as_json, facts_of, index_of
from idle_shimmer.media.index import FrameIndex, MediaError, MediaFacts
from idle_shimmer.media.reader import Size
from idle_shimmer.media.sound import Sound, silence

_SPARES = 2
_ENDED_WITHIN_S, _STALLED_S = 5, 20


@dataclass(frozen=True, slots=True)
class Limits:
    """Of one process: its memory, and how long one answer may take."""

    memory_bytes: int = 4 << 30
    seconds: float = 120


USUAL = Limits()


class _Process:
    """A decoder's process and the socket to it."""

    def __init__(self) -> None:
        ours, theirs = socket.socketpair()
        with theirs:
            # This interpreter and our own module: nothing of a file is part of the command.
            self._process = subprocess.Popen(  # noqa: S603
                [sys.executable, "-m", "idle_shimmer.media.decoder", str(theirs.fileno())],
                pass_fds=(theirs.fileno(),),
                stdin=subprocess.DEVNULL,
                # What it would say of a damaged file is told in the answer.
                stderr=subprocess.DEVNULL,
                # Ctrl-C is for the server; this process ends with the socket.
                start_new_session=True,
            )
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
        """Let it end by itself, or end it."""
        self._connection.close()
        if kill:
            self._process.kill()
        try:
            self._process.wait(_ENDED_WITHIN_S)
        except subprocess.TimeoutExpired:
            self._process.kill()
            self._process.wait()


class _Ready:
    """Processes that were started ahead."""

    def __init__(self) -> None:
        self._waiting: deque[_Process] = deque()
        self._lock = Lock()

    def take(self) -> _Process:
        """A process that nobody else has."""
        with self._lock:
            taken = self._waiting.popleft() if self._waiting else None
        Thread(target=self.refill, name="decoders", daemon=True).start()
        return taken or _Process()

    def refill(self) -> None:
        """Start as many as should wait."""
        with self._lock:
            while len(self._waiting) < _SPARES:
                self._waiting.append(_Process())


_ready = _Ready()


def prepare() -> None:
    """Start the processes that wait for files."""
    _ready.refill()


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
            self._process = _ready.take()
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


class GuardedReader(Decoder):
    """Like ``VideoReader``, decoding in a process of its own that keeps pictures it has passed."""

    def __init__(
        self,
        path: Path,
        size: Size | None = None,
        known: tuple[MediaFacts, FrameIndex] | None = None,
        limits: Limits = USUAL,
    ) -> None:
        super().__init__(path, limits)
        self.facts, self.index = known or guarded_index(path, limits)
        self.size = size or (self.facts.width, self.facts.height)

    def __enter__(self) -> "GuardedReader":
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


def guarded_facts(path: Path, limits: Limits = USUAL) -> MediaFacts:
    """The facts of a file, its start, middle and end decoded for a trial.

    Raises MediaError for what is no video, and for what breaks or outruns the decoder.
    """
    with Decoder(path, limits) as decoder:
        told, _ = decoder.ask("facts", path=str(path))
        decoder.ask("try_pictures", path=str(path))
    return facts_of(told["facts"])


def guarded_index(path: Path, limits: Limits = USUAL) -> tuple[MediaFacts, FrameIndex]:
    """``read_facts`` in a process of its own."""
    with Decoder(path, limits) as decoder:
        told, _ = decoder.ask("facts", path=str(path))
    return facts_of(told["facts"]), index_of(told["index"])


def guarded_peaks(path: Path) -> list[float]:
    """``waveform.peaks`` in a process of its own."""
    with Decoder(path) as decoder:
        _, found = decoder.ask("peaks", path=str(path))
    assert found is not None
    return [round(float(each), 3) for each in found]


def guarded_sound(path: Path | None, start_s: Fraction, duration_s: Fraction) -> Sound:
    """``sound.read_sound`` in a process of its own."""
    if path is None:
        return silence(duration_s)
    with Decoder(path) as decoder:
        _, found = decoder.ask(
            "sound", path=str(path), start_s=str(start_s), duration_s=str(duration_s)
        )
    assert found is not None
    return found
