"""The decoders' processes as this one sees them: forked on demand, limited together, asked over a socket."""

import json
import os
import signal
import socket
import struct
import subprocess
import sys
from contextlib import suppress
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from threading import Lock
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.limits import limits as usual_limits
from idle_shimmer.media.decode.answers import Form
from idle_shimmer.media.decode.process import PROCESS_ID, as_json
from idle_shimmer.media.errors import MediaError

_STALLED_S = 60
_MAX_ANSWER_BYTES = 256 << 20


@dataclass(frozen=True, slots=True)
class DecoderLimits:
    """The limits of one process: its memory, and the time of one answer."""

    memory_bytes: int
    seconds: float

    @classmethod
    def usual(cls) -> "DecoderLimits":
        """Return the limits in the settings."""
        found = usual_limits()
        return cls(found.decoder_memory_bytes, found.decoder_answer_s)


class _Maker:
    """The process that forks the others; see ``process.py``."""

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
                        "idle_shimmer.media.decode.process",
                        str(theirs.fileno()),
                    ],
                    pass_fds=(theirs.fileno(),),
                    stdin=subprocess.DEVNULL,
                    stdout=subprocess.DEVNULL,
                    # Errors about a damaged file are part of the answer.
                    stderr=subprocess.DEVNULL,
                    # Ctrl-C stops the server; these processes end when their sockets close.
                    start_new_session=True,
                    # Nothing of the server's, such as the address of the database. A process must
                    # have only one thread when it forks.
                    env={"OPENBLAS_NUM_THREADS": "1"},
                )
            self._control = ours
        return self._control


_maker = _Maker()


def prepare() -> None:
    """Load the decoders ahead of the first file."""
    _maker.start()


class DecoderProcess:
    """A decoder's process and the socket to it."""

    def __init__(self) -> None:
        _running.require_room()
        ours, theirs = socket.socketpair()
        with theirs:
            self.id = _maker.make(theirs)
        _running.add(self.id)
        # Every part of the answer has the same deadline.
        ours.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, struct.pack("ll", _STALLED_S, 0))
        self._connection = Connection(ours.detach())

    def ask(
        self, seconds: float, form: Form | None = None, **request: Any
    ) -> tuple[dict[str, Any], NDArray[Any] | None]:
        """Return (answer, array or None).

        Raises TimeoutError, EOFError or OSError, and ValueError where the answer is not of ``form``.
        """
        self._connection.send_bytes(as_json(request))
        if not self._connection.poll(seconds):
            raise TimeoutError
        answer = json.loads(self._connection.recv_bytes(_MAX_ANSWER_BYTES))
        if not isinstance(answer, dict):
            raise ValueError("the answer is not an object")  # noqa: TRY004  (as all wrong answers)
        if "shape" not in answer:
            return answer, None
        if form is None:
            raise ValueError("an array came that nobody asked for")
        array = np.empty(form.checked(answer["shape"], answer.get("dtype")), form.dtype)
        # A longer message does not fit and is refused as well.
        if array.size and (self._connection.recv_bytes_into(array.data.cast("B")) != array.nbytes):
            raise ValueError("the array is incomplete")
        return answer, array

    def end(self, *, kill: bool) -> None:
        """Close the socket, which ends the process, or kill it."""
        _running.remove(self.id)
        self._connection.close()
        if kill:
            with suppress(ProcessLookupError):
                os.kill(self.id, signal.SIGKILL)


class _Running:
    """The decoders of this process, and what they use together."""

    def __init__(self) -> None:
        self._ids: set[int] = set()
        self._lock = Lock()

    def add(self, process: int) -> None:
        """Count a process that was started."""
        with self._lock:
            self._ids.add(process)

    def remove(self, process: int) -> None:
        """Count one less."""
        with self._lock:
            self._ids.discard(process)

    def require_room(self) -> None:
        """Raise MediaError where another process would be too much."""
        most = usual_limits()
        with self._lock:
            # One that was not closed ends when its socket is collected.
            memory = {each: found for each in self._ids if (found := _memory_of(each)) is not None}
            self._ids = set(memory)
        full = sum(memory.values()) > most.all_decoders_memory_bytes
        if full or len(memory) >= most.max_decoders:
            raise MediaError(
                "too many files are being read at once: close a page, or try again in a moment"
            )


_running = _Running()
_PAGE_BYTES = os.sysconf("SC_PAGE_SIZE")


def _memory_of(process: int) -> int | None:
    """Return the bytes that a process has in memory; None where it has ended."""
    try:
        pages = Path(f"/proc/{process}/statm").read_text(encoding="ascii").split()[1]
    except (OSError, IndexError):
        return None
    return int(pages) * _PAGE_BYTES
